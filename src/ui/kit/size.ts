import { type RefObject, useLayoutEffect, useRef, useState } from "react";

/** The size of an element as it is laid out, in pixels; the given one until it is known. */
export function useSize<E extends HTMLElement>(first: {
  width: number;
  height: number;
}): [RefObject<E | null>, { width: number; height: number }] {
  const ref = useRef<E>(null);
  const [size, setSize] = useState(first);
  useLayoutEffect(() => {
    const element = ref.current;
    if (!element) return;
    const observer = new ResizeObserver(([entry]) => {
      if (entry) setSize({ width: Math.floor(entry.contentRect.width), height: Math.floor(entry.contentRect.height) });
    });
    observer.observe(element);
    return () => observer.disconnect();
  }, []);
  return [ref, size];
}
