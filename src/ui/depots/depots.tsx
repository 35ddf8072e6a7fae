"use client";
import { useState } from "react";
import type { CheckAnswer } from "@/contract/depots";
import type { DepotsView, DepotView, ParcelView } from "@/contract/views";
import { AskProblem, ask } from "../kit/ask";
import { Dialog } from "../kit/dialog";
import { FolderField } from "../kit/folder-field";
import { useLive } from "../kit/live";
import { Name } from "../kit/name";
import { useWords } from "../kit/words";

/** Parcels on their way and parcels that arrived, and the depots as vessels drawn to their capacity. */
export function Depots({ view }: { view: DepotsView }) {
  const [adding, setAdding] = useState(false);
  const none = view.waiting.length === 0 && view.sent.length === 0;
  return (
    <div className="grid h-full min-h-[520px] grid-cols-[minmax(0,1fr)_minmax(300px,386px)] gap-10 px-7 pt-5 pb-4">
      <div className="min-h-0 overflow-auto pr-2">
        <h1 className="mb-4 text-say leading-tight font-medium">{sentenceOf(view)}</h1>
        {none && (
          <p className="max-w-[560px] text-ink-2">
            Give things the verdict archive, one by one or together in the survey. They are collected in a parcel, sent to a
            depot, read back and compared; only then the originals go to the trash.
          </p>
        )}
        {view.waiting.map((parcel) => (
          <Waiting key={parcel.id} parcel={parcel} depots={view.depots} onAdd={() => setAdding(true)} />
        ))}
        {view.sent.map((parcel) => (
          <Sent key={parcel.id} parcel={parcel} />
        ))}
      </div>
      <div className="min-h-0 overflow-auto">
        <h2 className="mb-3 border-b-2 border-ink pb-2 text-name font-[650]">Depots</h2>
        {view.depots.length === 0 && (
          <p className="mb-4 text-ink-2">
            There is none yet. A depot is a folder outside your worktops and homes: on another disk, best.
          </p>
        )}
        {view.depots.map((depot) => (
          <Vessel
            key={depot.id}
            depot={depot}
            waiting={view.waiting.length > 0 ? view.waiting.reduce((sum, p) => sum + p.things.length, 0) : 0}
          />
        ))}
        <button type="button" className="doing" onClick={() => setAdding(true)}>
          add a depot
        </button>
      </div>
      <AddDepot open={adding} onClose={() => setAdding(false)} suggestion={view.suggestion} />
    </div>
  );
}

function sentenceOf(view: DepotsView): string {
  const parcels = (n: number) => (n === 1 ? "One parcel" : `${n} parcels`);
  if (view.waiting.length > 0) return `${parcels(view.waiting.length)} ${view.waiting.length === 1 ? "is" : "are"} not sent yet.`;
  if (view.sent.length > 0) return `${parcels(view.sent.length)} arrived, whole.`;
  return "No parcel is on its way.";
}

/** A parcel's things as rows of ticks: hollow while collected, full once proven. */
function Ticks({ parcel, share }: { parcel: ParcelView; share: number }) {
  const full = Math.round(parcel.things.length * share);
  return (
    <div aria-hidden="true" className="my-2.5 flex flex-wrap gap-[4px]">
      {parcel.things.slice(0, 600).map((thing, n) => (
        <span key={n} title={thing.name} className={`h-[14px] w-[5px] border border-archive ${n < full ? "bg-archive" : ""}`} />
      ))}
    </div>
  );
}

function Things({ parcel }: { parcel: ParcelView }) {
  return (
    <details className="text-small text-ink-2">
      <summary className="doing cursor-pointer">what is in it</summary>
      <ul className="mt-1 max-h-56 overflow-auto border-t border-line" tabIndex={0}>
        {parcel.things.map((thing, n) => (
          <li key={n} className="flex justify-between gap-4 border-b border-line py-1">
            <Name>{thing.name}</Name>
            <span className="whitespace-nowrap">{thing.size}</span>
          </li>
        ))}
      </ul>
    </details>
  );
}

function Waiting({ parcel, depots, onAdd }: { parcel: ParcelView; depots: DepotView[]; onAdd: () => void }) {
  const live = useLive();
  const reachable = depots.filter((depot) => depot.there);
  const [depot, setDepot] = useState("");
  const [busy, setBusy] = useState(false);
  const job = live.jobs.find((one) => one.parcel === parcel.id);
  const to = depot || reachable[0]?.id;
  const send = () => {
    if (!to) return;
    setBusy(true);
    void live.act(ask("depots/send", { parcel: parcel.id, depot: to })).finally(() => setBusy(false));
  };
  return (
    <section aria-label={`parcel ${parcel.title}`} className="mb-6 border border-ink bg-sheet p-5">
      <h2 className="text-head leading-tight font-semibold">{parcel.title}</h2>
      <p className="text-ink-2">{parcel.words}</p>
      <Ticks parcel={parcel} share={job && job.of > 0 ? job.done / job.of : 0} />
      <Things parcel={parcel} />
      <div className="mt-4 flex items-center gap-5">
        {reachable.length > 1 && (
          <label className="flex items-center gap-2 text-ink-2">
            to
            <select
              className="border-b-[1.5px] border-ink bg-sheet px-2 py-1 text-ink"
              value={to}
              onChange={(event) => setDepot(event.target.value)}
            >
              {reachable.map((d) => (
                <option key={d.id} value={d.id}>
                  {d.title}
                </option>
              ))}
            </select>
          </label>
        )}
        {to ? (
          <button type="button" className="go" disabled={busy} onClick={send}>
            {busy ? "Sending" : `Send to ${reachable.find((d) => d.id === to)?.title}`}
          </button>
        ) : (
          <button type="button" className="go" onClick={onAdd}>
            {depots.length > 0 ? "No depot is in reach; add one" : "Add a depot to send it to"}
          </button>
        )}
        {busy && job && (
          <button type="button" className="doing" onClick={() => void ask("jobs/cancel", { job: job.id }).catch(live.say)}>
            cancel
          </button>
        )}
      </div>
    </section>
  );
}

const intoNewFolder = "All of it goes into one new folder, and nothing to its old place.";

function Sent({ parcel }: { parcel: ParcelView }) {
  const live = useLive();
  const words = useWords();
  const [checked, setChecked] = useState<CheckAnswer>();
  const [busy, setBusy] = useState(false);
  const check = () => {
    setBusy(true);
    ask("depots/check", { parcel: parcel.id })
      .then(setChecked)
      .catch(live.say)
      .finally(() => setBusy(false));
  };
  const [asking, setAsking] = useState<Asking>();
  const restore = (more: { into?: string; programs?: boolean } = {}) => {
    setBusy(true);
    setAsking(undefined);
    const work = ask("depots/restore", { parcel: parcel.id, ...more });
    // What only needs an answer is asked, and no problem yet.
    void work
      .then(
        () => live.act(work),
        (problem: unknown) => {
          const asks = problem instanceof AskProblem && (problem.code === "asks-programs" || problem.code === "parcel-stranger");
          if (asks) setAsking({ ...more, code: problem.code, title: problem.title });
          else if (more.into !== undefined && problem instanceof AskProblem)
            setAsking({ ...more, problem, code: "", title: intoNewFolder });
          else live.say(problem);
        },
      )
      .finally(() => setBusy(false));
  };
  return (
    <section aria-label={`parcel ${parcel.title}`} className="mb-6 border-t border-line pt-4">
      <h2 className="text-name font-[650]">{parcel.title}</h2>
      <p className="text-ink-2">{parcel.words}</p>
      <Ticks parcel={parcel} share={1} />
      <Things parcel={parcel} />
      <div className="mt-2 flex gap-6">
        <button type="button" className="doing" disabled={busy} onClick={check}>
          check it now
        </button>
        <button type="button" className="doing" disabled={busy} onClick={() => restore()}>
          bring everything back
        </button>
        <button type="button" className="doing" disabled={busy} onClick={() => setAsking({ code: "", title: intoNewFolder })}>
          into a new folder
        </button>
      </div>
      {asking && <Restoring asking={asking} title={parcel.title} onClose={() => setAsking(undefined)} onGo={restore} />}
      {checked && (
        <p role="status" className={`mt-2 border-l-4 pl-3 ${checked.whole ? "border-put" : "border-let-go"}`}>
          {checked.whole
            ? `It is whole: ${words.counted(checked.files, "file")}, ${words.bytes(checked.bytes)}, every checksum the same, just now.`
            : `It is not whole: ${[...checked.damaged.map((p) => `${p} differs`), ...checked.missing.map((p) => `${p} is missing`)].slice(0, 6).join("; ")}.`}
        </p>
      )}
      {parcel.bag && <p className="mt-2 font-mono text-[11.5px] break-all text-ink-2">{parcel.bag}</p>}
    </section>
  );
}

interface Asking {
  /** What was wrong with the folder that was named. */
  problem?: AskProblem;
  code: string;
  title: string;
  into?: string;
}

/** What is to be answered before a parcel is brought back: where to, or whether what can be run comes along. */
function Restoring({
  asking,
  title,
  onClose,
  onGo,
}: {
  asking: Asking;
  title: string;
  onClose: () => void;
  onGo: (more: { into?: string; programs?: boolean }) => void;
}) {
  const [into, setInto] = useState(asking.into ?? "");
  const [problem, setProblem] = useState(asking.problem);
  const programs = asking.code === "asks-programs";
  return (
    <Dialog open onClose={onClose} title={`Bring “${title}” back`}>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          onGo(programs ? { into: asking.into, programs: true } : { into });
        }}
      >
        <p className="mb-4 text-ink-2">{asking.title}</p>
        {!programs && (
          <FolderField
            label="The new folder: choose where, and add its name"
            value={into}
            onChange={(next) => {
              setProblem(undefined);
              setInto(next);
            }}
            problem={problem}
            placeholder="~/Documents/from the parcel"
          />
        )}
        <button type="submit" className="go" disabled={!programs && into.trim() === ""}>
          {programs ? "Bring them back as they are" : "Bring it back there"}
        </button>
      </form>
    </Dialog>
  );
}

/** A depot drawn as what it holds and what is free. */
function Vessel({ depot, waiting }: { depot: DepotView; waiting: number }) {
  const live = useLive();
  const used = depot.used.reduce((sum, part) => sum + part.share, 0);
  return (
    <section aria-label={`depot ${depot.title}`} className="mb-6">
      <div className="flex items-baseline justify-between gap-3">
        <h3 className="font-[650]">{depot.title}</h3>
        <button
          type="button"
          className="doing text-small"
          onClick={() => void live.act(ask("depots/remove", { depot: depot.id }))}
        >
          take off the list
        </button>
      </div>
      <div
        aria-hidden="true"
        className={`my-1.5 flex h-12 border border-t-0 ${depot.there ? "border-ink" : "border-dashed border-ink-3"}`}
      >
        {depot.used.map((part, n) => (
          <span key={n} className="hatch h-full border-r border-archive" style={{ width: `max(6px, ${part.share * 100}%)` }} />
        ))}
        {waiting > 0 && depot.there && <span className="h-full w-2 border-r border-dashed border-archive" />}
      </div>
      <p className="text-small text-ink-2">
        {depot.there ? (
          <>
            {depot.free} free;{" "}
            {depot.used.length === 0
              ? "nothing of yours in it yet"
              : `${depot.used.length === 1 ? "one parcel" : `${depot.used.length} parcels`} in it${used < 0.01 ? ", under 1 %" : ""}`}
          </>
        ) : (
          "It is not there: unplugged, moved, or gone. Nothing can be sent or checked until it is back."
        )}
      </p>
      <p className="font-mono text-[11.5px] break-all text-ink-2">{depot.folder}</p>
    </section>
  );
}

function AddDepot({ open, onClose, suggestion }: { open: boolean; onClose: () => void; suggestion?: string }) {
  const live = useLive();
  const [folder, setFolder] = useState("");
  const [title, setTitle] = useState("");
  const [problem, setProblem] = useState<AskProblem>();
  const choose = (next: string) => {
    setProblem(undefined);
    setFolder(next);
  };
  return (
    <Dialog open={open} onClose={onClose} title="Add a depot">
      <form
        onSubmit={(event) => {
          event.preventDefault();
          void live.act(ask("depots/add", { folder, title: title.trim() || undefined }), setProblem).then((report) => {
            if (!report) return;
            choose("");
            onClose();
          });
        }}
      >
        <FolderField label="The folder" value={folder} onChange={choose} problem={problem} placeholder="/media/disk/archive">
          {suggestion && (
            <p className="mt-2 text-small text-ink-2">
              Beside the sample account lies one:{" "}
              <button type="button" className="doing break-all" onClick={() => choose(suggestion)}>
                {suggestion}
              </button>
            </p>
          )}
        </FolderField>
        <label className="mb-5 block">
          What you call it
          <input
            className="field mt-1"
            value={title}
            maxLength={120}
            onChange={(event) => setTitle(event.target.value)}
            placeholder="the folder's own name"
          />
        </label>
        <button type="submit" className="go" disabled={folder.trim() === ""}>
          Add it
        </button>
      </form>
    </Dialog>
  );
}
