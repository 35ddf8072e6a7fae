"use client";
import { useState } from "react";
import type { DepotState } from "@/contract/depot-states";
import type { CheckAnswer, DeleteAnswer } from "@/contract/depots";
import type { ParcelView } from "@/contract/views";
import { ask } from "../kit/ask";
import { Destroying, Lost, ReadFirst } from "../kit/destroying";
import { Dialog } from "../kit/dialog";
import { useLive } from "../kit/live";
import { useWords } from "../kit/words";
import { Browse } from "./browse";
import { useRestore } from "./restoring";

/** A parcel that arrived: looked into, brought back, checked, deleted. */
export function Arrived({ parcel, near: state }: { parcel: ParcelView; near?: DepotState }) {
  const live = useLive();
  const [checked, setChecked] = useState<CheckAnswer>();
  const [checking, setChecking] = useState(false);
  const [browsing, setBrowsing] = useState(false);
  const [deleting, setDeleting] = useState<DeleteAnswer>();
  const { restore, busy, asking } = useRestore(parcel);
  const near = state === "ready" || state === "full";
  const check = () => {
    setChecking(true);
    ask("depots/check", { parcel: parcel.id })
      .then(setChecked)
      .catch(live.say)
      .finally(() => setChecking(false));
  };
  const askDelete = () => void ask("depots/delete", { parcel: parcel.id, dryRun: true }).then(setDeleting).catch(live.say);
  return (
    <section aria-label={`parcel ${parcel.title}`} className="border-t border-line py-3">
      <div className="flex flex-wrap items-baseline gap-x-4">
        <h2 className="text-name font-[650]">{parcel.title}</h2>
        <span className="text-small text-ink-2">
          {parcel.depot?.title}
          {near ? "" : ", away"}
        </span>
        {parcel.checked && (
          <span className="ml-auto text-small text-ink-2">
            {parcel.state === "damaged" ? "found damaged" : "read"} {parcel.checked}
          </span>
        )}
      </div>
      <p className="text-small text-ink-2">{parcel.words}</p>
      {parcel.state === "damaged" && !checked && (
        <p className="mt-1.5 border-l-4 border-let-go pl-3">Not as it was sent: {parcel.damaged?.map(shownPath).join(", ")}</p>
      )}
      <div className="mt-1.5 flex flex-wrap gap-x-6 gap-y-1 [&>button]:min-h-6">
        <button type="button" className="doing" onClick={() => setBrowsing(true)}>
          look into it
        </button>
        <button type="button" className="doing" disabled={busy || !near} onClick={() => restore()}>
          bring everything back
        </button>
        <button type="button" className="doing" disabled={busy || !near} onClick={() => restore({ elsewhere: true })}>
          into a new folder
        </button>
        <button type="button" className="doing" disabled={checking || !near} onClick={check}>
          {checking ? "reading" : "check it now"}
        </button>
        <button type="button" className="doing ml-auto" disabled={!near} onClick={askDelete}>
          delete
        </button>
      </div>
      {asking}
      {checked && <Found checked={checked} />}
      {parcel.bag && <p className="mt-1.5 font-mono text-[11.5px] break-all text-ink-2">{parcel.bag}</p>}
      {browsing && <Browse parcel={parcel} near={near} onClose={() => setBrowsing(false)} />}
      {deleting && <Deleting parcel={parcel} what={deleting} onClose={() => setDeleting(undefined)} />}
    </section>
  );
}

/** What is lost with a parcel, before it is deleted. */
function Deleting({ parcel, what, onClose }: { parcel: ParcelView; what: DeleteAnswer; onClose: () => void }) {
  const live = useLive();
  const words = useWords();
  const [network, setNetwork] = useState(true);
  const { files, nowhereElse, inTrash, notKnown, far } = what;
  const of = (part: { files: number; bytes: number }) => `${words.counted(part.files, "file")}, ${words.bytes(part.bytes)}`;
  const destroy = () => {
    onClose();
    void live.act(ask("depots/delete", { parcel: parcel.id, seen: what.seen, network }));
  };
  return (
    <Dialog open onClose={onClose} title={`Delete “${parcel.title}” for good`}>
      <Destroying destroy="Delete it for good" keep="keep it" onDestroy={destroy} onKeep={onClose}>
        <p>
          {of(what)}, in {parcel.depot?.title}. This cannot be undone.
          {parcel.state === "damaged" && ` It was found damaged ${parcel.checked}.`}
        </p>
        {nowhereElse.files > 0 && <Lost title={`Nowhere else that Vuoto knows: ${of(nowhereElse)}.`} />}
        {inTrash.files > 0 && <Lost title={`Otherwise only in the trash, which can be emptied: ${of(inTrash)}.`} />}
        {notKnown.files > 0 && (
          <Lost title={`Not known whether a copy remains: ${of(notKnown)}.`}>
            <p className="text-small text-ink-2">One may lie {notKnown.why.join("; or ")}.</p>
          </Lost>
        )}
        {far.files > 0 && (
          <ReadFirst
            checked={network}
            onChange={setNetwork}
            words={`The only other copy of ${of(far)} lies in a cloud. Read it back from there first.`}
          />
        )}
        {files > nowhereElse.files + inTrash.files + notKnown.files + far.files && (
          <p className="text-ink-2">All else lies elsewhere too, and is read there before anything is deleted.</p>
        )}
      </Destroying>
    </Dialog>
  );
}

const mostNamed = 6;

/** A path in a parcel; `data` alone is all that was sent. */
const shownPath = (path: string) => (path === "data" ? "all of it" : path.replace(/^data\//, ""));

/** What a check found. */
function Found({ checked }: { checked: CheckAnswer }) {
  const words = useWords();
  const bad = [...checked.damaged.map((p) => [p, "differs"]), ...checked.missing.map((p) => [p, "is missing"])] as const;
  const place = new Map(checked.elsewhere.map((one) => [one.path, one.place]));
  return (
    <div role="status" className={`mt-2 border-l-4 pl-3 ${checked.whole ? "border-put" : "border-let-go"}`}>
      {checked.whole ? (
        <p>
          It is whole: {words.counted(checked.files, "file")}, {words.bytes(checked.bytes)}, every checksum the same, just now.
        </p>
      ) : (
        <>
          <p>It is not whole.</p>
          <ul>
            {bad.slice(0, mostNamed).map(([path, how]) => (
              <li key={path}>
                {shownPath(path!)} {how}
                {path && place.has(path) ? `; the same content still lies in ${place.get(path)}` : ""}
              </li>
            ))}
          </ul>
          {bad.length > mostNamed && <p>and {words.count(bad.length - mostNamed)} more</p>}
        </>
      )}
    </div>
  );
}
