"use client";
import { useState } from "react";
import type { FitAnswer } from "@/contract/depots";
import type { DepotView, ParcelView } from "@/contract/views";
import { ask } from "../kit/ask";
import { Dialog } from "../kit/dialog";
import { useLive } from "../kit/live";
import { Name } from "../kit/name";
import { useWords } from "../kit/words";
import { Cut } from "./fitting";

/** A parcel as it would lie in a depot. */
export interface Tried {
  parcel: string;
  depot: string;
  bytes: number;
}

const fits = (depot: DepotView, bytes: number) => depot.state === "ready" && (depot.free === undefined || depot.free >= bytes);

/** A parcel that is collected: where it fits, and what is in it. */
export function Collected({
  parcel,
  depots,
  others,
  onAdd,
  onTry,
}: {
  parcel: ParcelView;
  depots: DepotView[];
  others: ParcelView[];
  onAdd: () => void;
  onTry: (tried: Tried | undefined) => void;
}) {
  const live = useLive();
  const words = useWords();
  const [chosen, setChosen] = useState("");
  const [looking, setLooking] = useState(false);
  const [cut, setCut] = useState<FitAnswer["parcels"][number]>();
  const reachable = depots.filter(({ state }) => state === "ready" || state === "full");
  const to = reachable.find(({ id }) => id === chosen) ?? reachable.find((depot) => fits(depot, parcel.bytes)) ?? reachable[0];
  const room = to && fits(to, parcel.bytes);
  const lacks = to?.free === undefined ? 0 : parcel.bytes - to.free;
  const tried = to && { parcel: parcel.id, depot: to.id, bytes: parcel.bytes };
  const send = () => to && void live.act(ask("depots/send", { parcel: parcel.id, depot: to.id, wait: false }));
  const lookForRoom = () =>
    void ask("depots/fit", {})
      .then(({ parcels }) => setCut(parcels.find(({ id }) => id === parcel.id)))
      .catch(live.say);
  return (
    <section
      aria-label={`parcel ${parcel.title}`}
      className="border-t border-line py-3"
      onPointerEnter={() => onTry(tried)}
      onPointerLeave={() => onTry(undefined)}
      onFocus={() => onTry(tried)}
      onBlur={() => onTry(undefined)}
    >
      <div className="flex flex-wrap items-baseline gap-x-5 gap-y-1">
        <h2 className="text-name font-[650]">{parcel.title}</h2>
        <button type="button" className="doing ml-auto text-small" onClick={() => setLooking(true)}>
          what is in it
        </button>
      </div>
      <p className="text-small text-ink-2">{parcel.words}</p>
      <div className="mt-2 flex flex-wrap items-baseline gap-x-5 gap-y-1">
        {reachable.length > 1 && (
          <label className="flex items-baseline gap-2 text-ink-2">
            to
            <select
              className="border-b-[1.5px] border-ink bg-ground px-2 py-1 text-ink"
              value={to?.id}
              onChange={(event) => {
                setChosen(event.target.value);
                onTry({ parcel: parcel.id, depot: event.target.value, bytes: parcel.bytes });
              }}
            >
              {reachable.map((d) => (
                <option key={d.id} value={d.id}>
                  {d.title}
                  {fits(d, parcel.bytes) ? "" : ", too little room"}
                </option>
              ))}
            </select>
          </label>
        )}
        {!to && (
          <button type="button" className="go" onClick={onAdd}>
            {depots.length > 0 ? "No depot is in reach; add one" : "Add a depot to send it to"}
          </button>
        )}
        {to && room && (
          <button type="button" className="go" onClick={send}>
            Send to {to.title}
          </button>
        )}
        {to && !room && (
          <>
            <span className="border-l-4 border-let-go pl-3">
              {to.title} has too little room for it: {words.bytes(Math.max(0, lacks))} more than is free.
            </span>
            <button type="button" className="doing" onClick={lookForRoom}>
              see how it could be cut
            </button>
          </>
        )}
      </div>
      {to && room && <Takes parcel={parcel} depot={to} />}
      {looking && <Contents parcel={parcel} others={others} onClose={() => setLooking(false)} />}
      {cut && <Cut cut={cut} onClose={() => setCut(undefined)} />}
    </section>
  );
}

/** From so long a file alone is worth a word: cut short it begins anew; milliseconds. */
const longAlone = 60_000;

/** What is over sooner needs no word. */
const worthSaying = 10_000;

/** How long it takes, where it is known how fast that depot was; each byte goes there and comes back. */
function Takes({ parcel, depot }: { parcel: ParcelView; depot: DepotView }) {
  const words = useWords();
  const { rate } = depot;
  if (!rate) return null;
  const { largest } = parcel;
  const whole = (2000 * parcel.bytes) / rate;
  if (whole < worthSaying) return null;
  const alone = largest ? (2000 * largest.bytes) / rate : 0;
  return (
    <p className="mt-1 text-small text-ink-2">
      About {words.duration(whole)}, sent and read back, as fast as {depot.title} was the last time.
      {largest && alone > longAlone && (
        <>
          {" "}
          <Name>{largest.name}</Name> is sent in one piece, which alone takes {words.duration(alone)}: cut short, it begins anew.
        </>
      )}
    </p>
  );
}

/** The things of a parcel that is collected: into another one, or out of it; and its title. */
function Contents({ parcel, others, onClose }: { parcel: ParcelView; others: ParcelView[]; onClose: () => void }) {
  const live = useLive();
  const [marked, setMarked] = useState<ReadonlySet<string>>(new Set());
  const [title, setTitle] = useState(parcel.title);
  const [to, setTo] = useState("");
  const items = parcel.things.filter(({ id }) => marked.has(id)).map(({ id }) => id);
  const move = (into?: string) =>
    void live.act(ask("depots/move", { items, parcel: into })).then((report) => report && setMarked(new Set()));
  const mark = (id: string) => {
    const next = new Set(marked);
    if (!next.delete(id)) next.add(id);
    setMarked(next);
  };
  return (
    <Dialog open wide onClose={onClose} title={`In “${parcel.title}”`}>
      <form
        className="mb-4 flex items-end gap-4"
        onSubmit={(event) => {
          event.preventDefault();
          void live.act(ask("depots/rename", { parcel: parcel.id, title: title.trim() }));
        }}
      >
        <label className="min-w-0 flex-1">
          What it is called
          <input className="field mt-1" value={title} maxLength={120} onChange={(event) => setTitle(event.target.value)} />
        </label>
        <button type="submit" className="doing" disabled={title.trim() === "" || title.trim() === parcel.title}>
          rename
        </button>
      </form>
      <ul className="max-h-[38vh] overflow-auto border-y border-line" tabIndex={0} aria-label="things in it">
        {parcel.things.map((thing) => (
          <li key={thing.id} className="border-b border-line">
            <label className="flex items-baseline gap-3 py-1">
              <input
                type="checkbox"
                className="size-6 shrink-0 self-center accent-verdigris"
                checked={marked.has(thing.id)}
                onChange={() => mark(thing.id)}
              />
              <Name className="min-w-0 flex-1 truncate">{thing.name}</Name>
              <span className="whitespace-nowrap text-ink-2">{thing.size}</span>
            </label>
          </li>
        ))}
      </ul>
      <div className="mt-4 flex flex-wrap items-end gap-5">
        <button
          type="button"
          className="doing"
          onClick={() => setMarked(new Set(marked.size === parcel.things.length ? [] : parcel.things.map(({ id }) => id)))}
        >
          {marked.size === parcel.things.length ? "mark none" : "mark all"}
        </button>
        <button type="button" className="doing" disabled={items.length === 0} onClick={() => move()}>
          take what is marked out of it
        </button>
        <label>
          or into another parcel
          <input
            className="field mt-1"
            list="other-parcels"
            value={to}
            maxLength={120}
            placeholder="its name, or a new one"
            onChange={(event) => setTo(event.target.value)}
          />
          <datalist id="other-parcels">
            {others.map((other) => (
              <option key={other.id} value={other.title} />
            ))}
          </datalist>
        </label>
        <button type="button" className="go" disabled={items.length === 0 || to.trim() === ""} onClick={() => move(to.trim())}>
          Put them there
        </button>
      </div>
    </Dialog>
  );
}
