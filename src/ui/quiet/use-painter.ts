import { type RefObject, useLayoutEffect, useRef, useState } from "react";
import { Painter } from "./painter";

/** A painter with the font of an element, and a count that grows each time something came that is to be painted. */
export function usePainter(of: RefObject<HTMLElement | null>): [painter: RefObject<Painter | undefined>, came: number] {
  const painter = useRef<Painter>(undefined);
  const [came, setCame] = useState(0);
  // Before what paints, which comes after it.
  useLayoutEffect(() => {
    const made = new Painter(of.current ? getComputedStyle(of.current).fontFamily : "sans-serif", () => setCame((n) => n + 1));
    painter.current = made;
    return () => made.end();
  }, [of]);
  return [painter, came];
}
