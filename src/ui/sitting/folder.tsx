"use client";
import { useState } from "react";
import type { LookView } from "@/contract/looks";
import { LongList } from "../kit/long-list";
import { Name } from "../kit/name";
import { useWords } from "../kit/words";
import { Glyph } from "../plan/glyph";

type Folder = Extract<LookView, { form: "folder" }>;
const orders = ["by name", "newest first", "largest first"] as const;

/** What lies in a folder: how much of each kind, and its things by name, age or size. */
export function FolderLook({ entries, count, hidden, kinds }: Folder) {
  const words = useWords();
  const [order, setOrder] = useState<(typeof orders)[number]>("by name");
  const sorted = {
    "by name": () => entries,
    "newest first": () => entries.toSorted((a, b) => b.mtimeMs - a.mtimeMs),
    "largest first": () => entries.toSorted((a, b) => b.bytes - a.bytes),
  }[order]();
  const rows = sorted.map((entry) => ({ ...entry, id: entry.name }));
  const dotted = hidden > 0 ? `${words.count(hidden)} hidden by a dot in front` : "";
  if (count === 0) return <p className="p-6 text-ink-2">{dotted ? `Nothing but ${dotted}.` : "The folder is empty."}</p>;
  return (
    <div className="flex size-full flex-col px-6 pt-4 pb-3">
      <p className="mb-2 flex flex-wrap gap-x-4 gap-y-1 text-small text-ink-2">
        {kinds.map(([kind, n]) => (
          <span key={kind} className="inline-flex items-center gap-1.5">
            <Glyph kind={kind} width={15} />
            <b className="font-semibold text-ink">{n}</b> {kind}
          </span>
        ))}
        {dotted && <span>{dotted}</span>}
      </p>
      <p className="mb-1 flex gap-4 text-[12px]">
        {orders.map((one) => (
          <button
            key={one}
            type="button"
            aria-pressed={order === one}
            className={order === one ? "border-b-2 border-ink font-semibold" : "doing"}
            onClick={() => setOrder(one)}
          >
            {one}
          </button>
        ))}
      </p>
      <LongList label="what is in it" rowHeight={26} list={rows}>
        {({ name, kind, bytes, mtimeMs }) => (
          <span className="flex h-full items-center gap-3 text-[13px]">
            <Glyph kind={kind} width={15} />
            <Name className="min-w-0 flex-1">{name}</Name>
            <span className="text-ink-2 tabular-nums">{kind === "folder" ? "" : words.bytes(bytes)}</span>
            <span className="w-28 text-right whitespace-nowrap text-ink-2">{words.ago(mtimeMs)}</span>
          </span>
        )}
      </LongList>
      {count > entries.length && <p className="mt-1 text-small text-ink-2">and {words.count(count - entries.length)} more</p>}
    </div>
  );
}
