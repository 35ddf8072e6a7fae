"use client";
import { type ReactNode, useCallback, useEffect, useState } from "react";
import type { BrowseAnswer } from "@/contract/depots";
import type { Shown } from "@/contract/looks";
import { ask } from "../kit/ask";
import { Dialog } from "../kit/dialog";
import { useLive } from "../kit/live";
import { Name } from "../kit/name";
import { useWords } from "../kit/words";
import { Look } from "../sitting/look";
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
  const [looking, setLooking] = useState<string>();
  const closeLook = useCallback(() => setLooking(undefined), []);
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
  if (looking !== undefined)
    return (
      <LookInto parcel={id} path={looking} onClose={closeLook}>
        <button type="button" className="go" disabled={busy} onClick={() => restore({ names: [looking] })}>
          Bring it back
        </button>
        {asking}
      </LookInto>
    );
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
            ) : near && answer.local && entry.type === "file" ? (
              <button
                type="button"
                className="doing min-w-0 flex-1 truncate text-left"
                aria-label={`look at ${entry.name}`}
                onClick={() => setLooking(entry.path)}
              >
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

/** A file of a parcel, looked at where it lies. */
function LookInto({
  parcel,
  path,
  onClose,
  children,
}: {
  parcel: string;
  path: string;
  onClose: () => void;
  children: ReactNode;
}) {
  const { say } = useLive();
  const [thing, setThing] = useState<Shown>();
  useEffect(() => {
    let wanted = true;
    ask("depots/look", { parcel, path })
      .then((found) => wanted && setThing(found))
      .catch((problem: unknown) => {
        if (!wanted) return;
        say(problem);
        onClose();
      });
    return () => {
      wanted = false;
    };
  }, [parcel, path, say, onClose]);
  return (
    <Dialog open wide onClose={onClose} title={thing?.name ?? "Looking"}>
      <div className="h-[44vh] border border-line">
        {thing && <Look thing={thing} wait={() => ask("depots/look", { parcel, path, wait: true })} />}
      </div>
      {thing && <p className="mt-3 text-ink-2">{thing.facts.join(" · ")}</p>}
      <div className="mt-4 flex flex-wrap items-baseline gap-5">
        {children}
        <button type="button" className="doing" onClick={onClose}>
          back to the list
        </button>
        <span className="text-small text-ink-2">It is shown as it lies in the parcel.</span>
      </div>
    </Dialog>
  );
}
