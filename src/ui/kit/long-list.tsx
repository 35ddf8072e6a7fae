"use client";
import { useVirtualizer } from "@tanstack/react-virtual";
import { type ReactNode, useRef } from "react";

/** A list of any length, of which what can be seen is drawn. */
export function LongList<T extends { id: string }>({
  list,
  rowHeight,
  label,
  children,
}: {
  list: readonly T[];
  rowHeight: number;
  label: string;
  children: (thing: T) => ReactNode;
}) {
  const scroll = useRef<HTMLDivElement>(null);
  const virtual = useVirtualizer({
    count: list.length,
    getScrollElement: () => scroll.current,
    estimateSize: () => rowHeight,
    overscan: 20,
  });
  return (
    <div ref={scroll} className="min-h-0 flex-1 overflow-auto" tabIndex={0} role="group" aria-label={label}>
      <ul className="relative" style={{ height: virtual.getTotalSize() }}>
        {virtual.getVirtualItems().map(({ index, start }) => (
          <li
            key={list[index]!.id}
            aria-setsize={list.length}
            aria-posinset={index + 1}
            className="absolute inset-x-0 border-b border-line"
            style={{ top: start, height: rowHeight }}
          >
            {children(list[index]!)}
          </li>
        ))}
      </ul>
    </div>
  );
}
