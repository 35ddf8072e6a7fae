"use client";
import { useEffect, useState } from "react";
import type { BrowseAnswer } from "@/contract/depots";
import { ask } from "../kit/ask";
import { Dialog } from "../kit/dialog";
import { useLive } from "../kit/live";
import { Name } from "../kit/name";
import { useWords } from "../kit/words";
import { useRestore } from "./restoring";

/** A parcel as a folder tree: what is marked in it is brought back. */
export function Browse({
  parcel,
  folder = "",
  marked: first,
  near,
  onClose,
}: {
  parcel: { id: string; title: string };
  folder?: string;
  marked?: string;
  /** Whether its depot is in reach. */
  near: boolean;
  onClose: () => void;
}) {
  const live = useLive();
  const words = useWords();
  const [at, setAt] = useState(folder);
  const [answer, setAnswer] = useState<BrowseAnswer>();
  const [marked, setMarked] = useState<ReadonlySet<string>>(new Set(first ? [first] : []));
  const { say } = live;
  const { id } = parcel;
  useEffect(() => {
    let gone = false;
    ask("depots/browse", { parcel: id, folder: at || undefined })
      .then((next) => gone || setAnswer(next))
      .catch(say);
    return () => {
      gone = true;
    };
  }, [id, at, say]);
  const mark = (path: string) => {
    const next = new Set(marked);
    if (!next.delete(path)) next.add(path);
    setMarked(next);
  };
  const { restore, busy, asking } = useRestore(parcel, onClose);
  const parts = at === "" ? [] : at.split("/");
  return (
    <Dialog open wide onClose={onClose} title={`In “${parcel.title}”`}>
      <nav aria-label="where in the parcel" className="mb-2 flex flex-wrap gap-1.5 text-small">
        <button type="button" className="doing" onClick={() => setAt("")}>
          all of it
        </button>
        {parts.map((part, n) => (
          <span key={parts.slice(0, n + 1).join("/")}>
            {" / "}
            <button type="button" className="doing" onClick={() => setAt(parts.slice(0, n + 1).join("/"))}>
              <Name>{part}</Name>
            </button>
          </span>
        ))}
      </nav>
      {!near && (
        <p className="mb-2 text-small text-ink-2">
          Its depot is away: this is what was sent. Bringing back waits until it is here.
        </p>
      )}
      <ul className="max-h-[46vh] min-h-24 overflow-auto border-y border-line" tabIndex={0} aria-label="what lies there">
        {answer?.entries.map((entry) => (
          <li key={entry.path} className="flex items-baseline gap-3 border-b border-line py-1">
            <input
              type="checkbox"
              className="size-6 shrink-0 self-center accent-verdigris"
              aria-label={`mark ${entry.name}`}
              checked={marked.has(entry.path)}
              onChange={() => mark(entry.path)}
            />
            {entry.type === "folder" ? (
              <button type="button" className="doing min-w-0 flex-1 truncate text-left" onClick={() => setAt(entry.path)}>
                <Name>{entry.name}</Name>
              </button>
            ) : (
              <Name className="min-w-0 flex-1 truncate">{entry.name}</Name>
            )}
            <span className="text-small whitespace-nowrap text-ink-2">
              {entry.type === "folder" ? `${words.counted(entry.files, "file")}, ` : entry.type === "link" ? "a link" : ""}
              {entry.type === "link" ? "" : words.bytes(entry.bytes)}
            </span>
            <span className="w-36 text-right text-small whitespace-nowrap text-ink-2">
              {entry.modifiedAt ? words.ago(Date.parse(entry.modifiedAt)) : ""}
            </span>
          </li>
        ))}
        {answer?.entries.length === 0 && <li className="py-1 text-ink-2">Nothing lies in it.</li>}
      </ul>
      {answer && answer.more > 0 && <p className="text-small text-ink-2">and {words.count(answer.more)} more</p>}
      <div className="mt-4 flex flex-wrap items-baseline gap-5">
        <button
          type="button"
          className="go"
          disabled={busy || !near || marked.size === 0}
          onClick={() => restore({ names: [...marked] })}
        >
          {marked.size === 0 ? "Bring back what is marked" : `Bring ${words.counted(marked.size, "marked one")} back`}
        </button>
        <button
          type="button"
          className="doing"
          disabled={busy || !near || marked.size === 0}
          onClick={() => restore({ names: [...marked], elsewhere: true })}
        >
          into a new folder
        </button>
        <span className="text-small text-ink-2">The parcel stays as it is.</span>
      </div>
      {asking}
    </Dialog>
  );
}
