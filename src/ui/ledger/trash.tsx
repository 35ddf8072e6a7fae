"use client";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useRef, useState } from "react";
import type { TrashLine } from "@/contract/views";
import { ask } from "../kit/ask";
import { useLive } from "../kit/live";
import { Name } from "../kit/name";
import { things } from "../kit/numbers";
import { useWords } from "../kit/words";
import { EmptyTrash } from "./empty-trash";

const rowHeight = 32;

/** What lies in the trash, narrowed by a word, to bring back. */
export function Trash({ things: list, bytes }: { things: TrashLine[]; bytes: number }) {
  const words = useWords();
  const live = useLive();
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const ids = list.filter((thing) => chosen.has(thing.id)).map((thing) => thing.id);
  const toggle = (id: string) =>
    setChosen((before) => {
      const next = new Set(before);
      if (!next.delete(id)) next.add(id);
      return next;
    });
  const [word, setWord] = useState("");
  const wanted = word.trim().toLowerCase();
  const found = list.filter(({ name, from }) => `${name}\n${from}`.toLowerCase().includes(wanted));
  const all = found.length > 0 && found.every((thing) => chosen.has(thing.id));
  const scroll = useRef<HTMLDivElement>(null);
  const virtual = useVirtualizer({
    count: found.length,
    getScrollElement: () => scroll.current,
    estimateSize: () => rowHeight,
    overscan: 20,
  });
  return (
    <>
      <div className="mb-3 flex items-baseline gap-6">
        <h1 className="text-say leading-tight font-medium">
          {list.length === 0
            ? "The trash is empty."
            : `${things(list.length)} in the trash, ${words.bytes(bytes)}. Each goes back to its exact place.`}
        </h1>
        {list.length > 0 && <EmptyTrash />}
        <button
          type="button"
          className="go whitespace-nowrap"
          disabled={ids.length === 0}
          onClick={() => void live.act(ask("ledger/restore", { things: ids })).then(() => setChosen(new Set()))}
        >
          {ids.length === 0 ? "Bring back" : `Bring ${ids.length} back`}
        </button>
      </div>
      {list.length > 0 && (
        <div className="flex items-center gap-3 border-t-2 border-b border-ink px-3 py-1.5">
          <label className="flex items-center gap-3 font-semibold">
            <input
              type="checkbox"
              className="size-4 accent-verdigris"
              checked={all}
              disabled={found.length === 0}
              onChange={() =>
                setChosen((before) => {
                  const next = new Set(before);
                  for (const { id } of found) all ? next.delete(id) : next.add(id);
                  return next;
                })
              }
            />
            {wanted === "" ? `all ${list.length}` : `${found.length} of ${list.length}`}
          </label>
          <label className="ml-auto flex items-center gap-2 text-small">
            <span className="text-ink-2">find</span>
            <input
              type="search"
              className="w-56 border-b border-ink-2 bg-transparent outline-none focus:border-verdigris"
              placeholder="a word of the name or place"
              value={word}
              onChange={(event) => setWord(event.target.value)}
            />
          </label>
        </div>
      )}
      <div ref={scroll} className="min-h-0 flex-1 overflow-auto" tabIndex={0} role="group" aria-label="things in the trash">
        {list.length > 0 && found.length === 0 && <p className="p-3 text-ink-2">Nothing here has “{word}” in it.</p>}
        <ul className="relative" style={{ height: virtual.getTotalSize() }}>
          {virtual.getVirtualItems().map(({ index, start }) => {
            const thing = found[index]!;
            return (
              <li
                key={thing.id}
                className={`absolute inset-x-0 border-b border-line ${chosen.has(thing.id) ? "bg-wash" : ""}`}
                style={{ top: start, height: rowHeight }}
              >
                <label className="grid h-full grid-cols-[16px_1fr_1fr_90px_110px] items-center gap-4 px-3">
                  <input
                    type="checkbox"
                    className="size-4 accent-verdigris"
                    checked={chosen.has(thing.id)}
                    onChange={() => toggle(thing.id)}
                  />
                  <Name>{thing.name}</Name>
                  <span className="truncate text-small text-ink-2">{thing.from}</span>
                  <span className="text-right text-small text-ink-2">
                    {thing.bytes === undefined ? "folder" : words.bytes(thing.bytes)}
                  </span>
                  <span className="text-small text-ink-2">{thing.deletedAt === undefined ? "" : words.ago(thing.deletedAt)}</span>
                </label>
              </li>
            );
          })}
        </ul>
      </div>
    </>
  );
}
