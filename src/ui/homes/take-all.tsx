"use client";
import { useEffect, useRef, useState } from "react";
import type { ReadyHome } from "@/contract/homes";
import { ask } from "../kit/ask";
import { Dialog } from "../kit/dialog";
import { useLive } from "../kit/live";
import { Name } from "../kit/name";
import { things } from "../kit/numbers";

/** All that is sure, into all its homes: seen first, homes and single things left out; one act, one undo. */
export function TakeAll({ onClose }: { onClose: () => void }) {
  const live = useLive();
  const { say } = live;
  const [ready, setReady] = useState<ReadyHome[]>();
  useEffect(() => {
    let current = true;
    ask("homes/ready", {}).then(
      (found) => current && setReady(found),
      (problem: unknown) => {
        say(problem);
        onClose();
      },
    );
    return () => {
      current = false;
    };
  }, [say, onClose]);
  const taking = useRef<HTMLButtonElement>(null);
  // What the key that opened this means to do next is one key away.
  useEffect(() => {
    if (ready) taking.current?.focus();
  }, [ready]);
  const [leftOut, setLeftOut] = useState<ReadonlySet<string>>(new Set());
  const homes = (ready ?? [])
    .map((home) => ({ ...home, going: home.things.filter(({ id }) => !leftOut.has(id)) }))
    .filter(({ going }) => going.length > 0);
  const going = homes.reduce((sum, home) => sum + home.going.length, 0);
  const toggle = (ids: string[], out: boolean) =>
    setLeftOut((before) => {
      const next = new Set(before);
      for (const id of ids)
        if (out) next.add(id);
        else next.delete(id);
      return next;
    });
  const take = () => {
    onClose();
    const work = ask("homes/sweep", {
      homes: homes.map(({ id, going: those }) => ({ home: { id }, items: those.map((thing) => thing.id) })),
    });
    void live.act(work);
  };
  return (
    <Dialog
      open
      onClose={onClose}
      title={
        !ready
          ? "Put what is sure into its homes"
          : `${things(going)} into ${homes.length === 1 ? "1 home" : `${homes.length} homes`}`
      }
      wide
    >
      <p className="mb-3 text-ink-2">What is not ticked stays where it lies. One undo brings all of it back.</p>
      <ul className="mb-4 max-h-[40vh] overflow-auto border-y border-line">
        {ready?.map((home) => {
          const ids = home.things.map(({ id }) => id);
          const out = ids.filter((id) => leftOut.has(id)).length;
          return (
            <li key={home.id} className="border-b border-line last:border-0">
              <details>
                <summary className="flex cursor-pointer items-center gap-3 py-1.5">
                  <input
                    type="checkbox"
                    className="size-4 accent-verdigris"
                    aria-label={`fill ${home.title}`}
                    checked={out === 0}
                    ref={(box) => {
                      if (box) box.indeterminate = out > 0 && out < ids.length;
                    }}
                    onChange={() => toggle(ids, out === 0)}
                  />
                  <b className="min-w-0 truncate font-[650]">{home.title}</b>
                  <span className="ml-auto text-small text-ink-2">{things(ids.length - out)}</span>
                  <span className="doing text-small">which</span>
                </summary>
                <ul className="pb-2 pl-7 text-small">
                  {home.things.map(({ id, name, why }) => (
                    <li key={id}>
                      <label className="flex items-baseline gap-2 py-px">
                        <input
                          type="checkbox"
                          className="size-3.5 self-center accent-verdigris"
                          checked={!leftOut.has(id)}
                          onChange={() => toggle([id], !leftOut.has(id))}
                        />
                        <Name>{name}</Name>
                        <span className="ml-auto max-w-[60%] shrink-0 text-right text-ink-2">{why}</span>
                      </label>
                    </li>
                  ))}
                </ul>
              </details>
            </li>
          );
        })}
      </ul>
      <div className="flex items-center gap-6">
        {ready && (
          <button type="button" className="go" ref={taking} disabled={going === 0} onClick={take}>
            Take {going}
          </button>
        )}
        <button type="button" className="doing" onClick={onClose}>
          leave them all
        </button>
      </div>
    </Dialog>
  );
}
