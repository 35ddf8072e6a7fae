"use client";
import { useState } from "react";
import type { DepotsView, ProposalView } from "@/contract/views";
import { ask } from "../kit/ask";
import { useLive } from "../kit/live";
import { AddDepot } from "./add-depot";
import { Arrived } from "./arrived";
import { Collected, type Tried } from "./collected";
import { FindInParcels } from "./find";
import { Fitting } from "./fitting";
import { FromHome } from "./from-home";
import { OnItsWay } from "./on-its-way";
import { Proposal } from "./proposal";
import { Vessel } from "./vessel";

/** Parcels on their way and parcels that arrived, and the depots as vessels drawn to their capacity. */
export function Depots({ view }: { view: DepotsView }) {
  const live = useLive();
  const [adding, setAdding] = useState(false);
  const [tried, setTried] = useState<Tried>();
  const [fromHome, setFromHome] = useState(false);
  const [fitting, setFitting] = useState(false);
  const [proposal, setProposal] = useState<ProposalView>();
  const collected = view.waiting.filter(({ state }) => state === "collecting");
  const onTheirWay = view.waiting.filter(({ state }) => state !== "collecting");
  // Sent meanwhile, it would not lie there a second time.
  const trying = collected.some(({ id }) => id === tried?.parcel) ? tried : undefined;
  const none = view.waiting.length === 0 && view.sent.length === 0;
  return (
    <div className="grid h-full min-h-[520px] grid-cols-[minmax(0,1fr)_minmax(280px,386px)] gap-10 px-7 pt-5 pb-4 max-[760px]:h-auto max-[760px]:grid-cols-1">
      <div className="min-h-0 overflow-auto pr-2 max-[760px]:overflow-visible">
        <h1 className="mb-4 text-say leading-tight font-medium">{sentenceOf(view)}</h1>
        {none && (
          <p className="mb-5 max-w-[560px] text-ink-2">
            A parcel takes what you want to keep and need not see: to another disk, a drive in the drawer, or a cloud. Give things
            the verdict archive, one by one or together in the survey. Each is read back from where it went and compared, and only
            then its original goes to the trash.
          </p>
        )}
        {onTheirWay.map((parcel) => (
          <OnItsWay key={parcel.id} parcel={parcel} />
        ))}
        {collected.map((parcel) => (
          <Collected
            key={parcel.id}
            parcel={parcel}
            depots={view.depots}
            others={collected.filter(({ id }) => id !== parcel.id)}
            onAdd={() => setAdding(true)}
            onTry={setTried}
          />
        ))}
        {collected.length > 1 && view.depots.length > 0 && (
          <p className="border-t border-line py-2.5">
            <button type="button" className="doing" onClick={() => setFitting(true)}>
              see where all of them have room
            </button>
          </p>
        )}
        {view.proposals.length > 0 && (
          <section aria-label="what else could go" className="border-t border-line py-2.5">
            <h2 className="font-[650]">What else could go</h2>
            <ul className="text-small text-ink-2">
              {view.proposals.map((one) => (
                <li key={one.id} className="flex items-baseline justify-between gap-4 py-0.5">
                  <span>
                    <b className="font-semibold text-ink">{one.title}</b>: {one.words}
                  </span>
                  <button
                    type="button"
                    className="doing min-h-6"
                    aria-label={`look at ${one.title}`}
                    onClick={() => setProposal(one)}
                  >
                    look
                  </button>
                </li>
              ))}
            </ul>
          </section>
        )}
        <p className="border-t border-line py-2.5">
          <button type="button" className="doing" onClick={() => setFromHome(true)}>
            collect what lies in a home
          </button>
        </p>
        {view.sent.length > 0 && <FindInParcels />}
        {view.sent.map((parcel) => (
          <Arrived key={parcel.id} parcel={parcel} near={view.depots.find(({ id }) => id === parcel.depot?.id)?.state} />
        ))}
      </div>
      <div className="min-h-0 overflow-auto max-[760px]:overflow-visible">
        <h2 className="mb-3 border-b-2 border-ink pb-2 text-name font-[650]">Depots</h2>
        {view.depots.length === 0 && (
          <p className="mb-4 text-ink-2">
            There is none yet. A depot is where parcels go: a folder outside your worktops and homes, a drive, or a cloud.
          </p>
        )}
        {view.depots.map((depot) => (
          <Vessel key={depot.id} depot={depot} tried={trying?.depot === depot.id ? trying : undefined} />
        ))}
        <button type="button" className="doing" onClick={() => setAdding(true)}>
          add a depot
        </button>
        {view.drives.length > 0 && (
          <section aria-label="sample drives" className="mt-6 border-t border-line pt-2 text-small text-ink-2">
            <h3 className="font-semibold text-ink">Drives of the sample account, stand-ins</h3>
            {view.drives.map(({ name, pluggedIn }) => (
              <p key={name} className="flex items-baseline justify-between">
                <span>
                  {name}, {pluggedIn ? "plugged in" : "in the drawer"}
                </span>
                <button
                  type="button"
                  className="doing min-h-6"
                  aria-label={`${pluggedIn ? "pull out" : "plug in"} the ${name}`}
                  onClick={() => void ask("depots/plug", { drive: name, in: !pluggedIn }).catch(live.say)}
                >
                  {pluggedIn ? "pull it out" : "plug it in"}
                </button>
              </p>
            ))}
          </section>
        )}
      </div>
      <AddDepot open={adding} onClose={() => setAdding(false)} suggestions={view.suggestions} />
      {fitting && <Fitting onClose={() => setFitting(false)} />}
      {fromHome && <FromHome onClose={() => setFromHome(false)} />}
      {proposal && <Proposal proposal={proposal} onClose={() => setProposal(undefined)} />}
    </div>
  );
}

function sentenceOf({ waiting, sent }: DepotsView): string {
  const parcels = (n: number) => (n === 1 ? "one parcel" : `${n} parcels`);
  const are = (n: number) => (n === 1 ? "is" : "are");
  const going = waiting.filter(({ state }) => state === "sending").length;
  const still = waiting.filter(({ state }) => state === "paused" || state === "failed").length;
  const collected = waiting.length - going - still;
  const said = [
    going > 0 && `${parcels(going)} ${are(going)} on ${going === 1 ? "its" : "their"} way`,
    still > 0 && `${parcels(still)} ${still === 1 ? "stands" : "stand"} still`,
    collected > 0 && `${parcels(collected)} ${are(collected)} not sent yet`,
  ].filter((words) => words !== false);
  const damaged = sent.filter(({ state }) => state === "damaged").length;
  if (said.length === 0 && damaged > 0) said.push(`${parcels(damaged)} ${are(damaged)} damaged`);
  if (said.length === 0 && sent.length > 0) said.push(`${parcels(sent.length)} arrived, whole`);
  if (said.length === 0) said.push("no parcel is on its way");
  const words = said.join(", ");
  return `${words[0]!.toUpperCase()}${words.slice(1)}.`;
}
