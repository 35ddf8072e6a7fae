"use client";
import { type ReactNode, useEffect, useRef, useState } from "react";

/** Draws what it holds once it comes near to what can be seen; until then it keeps about the room for it. */
export function WhenNear({ height, children }: { height: number; children: () => ReactNode }) {
  const box = useRef<HTMLDivElement>(null);
  const [near, setNear] = useState(false);
  useEffect(() => {
    const at = box.current;
    if (near || !at) return;
    const observer = new IntersectionObserver(([entry]) => entry?.isIntersecting && setNear(true), { rootMargin: "800px" });
    observer.observe(at);
    return () => observer.disconnect();
  }, [near]);
  return near ? children() : <div ref={box} style={{ height }} />;
}
