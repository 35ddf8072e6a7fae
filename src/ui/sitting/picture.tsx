"use client";
import { type PointerEvent, useEffect, useRef, useState } from "react";
import { Key } from "../kit/key";
import { useKeys } from "../kit/keys";

const step = 80;

/** A picture, fitted; or pixel by pixel, moved by dragging and by the arrows. */
export function Picture({ id, name, failed }: { id: string; name: string; failed: () => void }) {
  const [close, setClose] = useState(false);
  const [turns, setTurns] = useState(0);
  const box = useRef<HTMLDivElement>(null);
  const from = useRef<{ x: number; y: number; left: number; top: number }>(undefined);
  const move = (x: number, y: number) => box.current?.scrollBy(x, y);
  const toggle = () => setClose(!close);
  // The middle is looked at first.
  useEffect(() => {
    const at = box.current;
    if (close && at) at.scrollTo((at.scrollWidth - at.clientWidth) / 2, (at.scrollHeight - at.clientHeight) / 2);
  }, [close]);
  const arrows = {
    ArrowLeft: () => move(-step, 0),
    ArrowRight: () => move(step, 0),
    ArrowUp: () => move(0, -step),
    ArrowDown: () => move(0, step),
    Escape: () => setClose(false),
  };
  useKeys({ " ": toggle, ...(close ? arrows : {}) });
  const drag = (event: PointerEvent<HTMLDivElement>) => {
    const at = box.current;
    if (!close || !at) return;
    event.currentTarget.setPointerCapture(event.pointerId);
    from.current = { x: event.clientX, y: event.clientY, left: at.scrollLeft, top: at.scrollTop };
  };
  const dragged = (event: PointerEvent<HTMLDivElement>) => {
    if (from.current && box.current) {
      const { x, y, left, top } = from.current;
      box.current.scrollTo(left - (event.clientX - x), top - (event.clientY - y));
    }
  };
  const release = () => {
    from.current = undefined;
  };
  return (
    <div className="relative size-full">
      <div
        ref={box}
        className={`size-full ${close ? "cursor-grab overflow-auto active:cursor-grabbing" : "overflow-hidden"}`}
        onPointerDown={drag}
        onPointerMove={dragged}
        onPointerUp={release}
        onPointerCancel={release}
        {...(close ? { tabIndex: 0, role: "group", "aria-label": `${name}, pixel by pixel` } : {})}
      >
        <img
          src={`/api/looks/picture?item=${id}&size=${close ? "pixels" : "large"}`}
          alt={name}
          draggable={false}
          onError={failed}
          onLoad={() => {
            const at = box.current;
            if (close && at) at.scrollTo((at.scrollWidth - at.clientWidth) / 2, (at.scrollHeight - at.clientHeight) / 2);
          }}
          style={turns ? { transform: `rotate(${turns * 90}deg)` } : undefined}
          className={close ? "max-w-none" : "size-full object-contain"}
        />
      </div>
      <p className="absolute right-2 bottom-2 flex gap-4 bg-sheet px-2 py-0.5 text-[12px]">
        <button type="button" className="doing" onClick={() => setTurns((turns + 1) % 4)}>
          turn
        </button>
        <button type="button" className="doing" aria-pressed={close} onClick={toggle}>
          {close ? "fit it in" : "pixel by pixel"} <Key>Space</Key>
        </button>
      </p>
    </div>
  );
}
