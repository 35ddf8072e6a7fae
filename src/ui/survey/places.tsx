"use client";
import { useCallback, useEffect, useState } from "react";
import type { PlaceView } from "@/contract/views";
import { ask } from "../kit/ask";
import { Dialog } from "../kit/dialog";
import { Typed } from "../kit/field";
import { useLive } from "../kit/live";
import { LeftOut } from "./left-out";

type Protection = PlaceView["protection"];
const choices: [Protection, string][] = [
  [null, "not backed up"],
  ["synchronised", "synchronised"],
  ["backed up", "backed up"],
];

/** Which places are protected, asked over the view for which it matters. */
export function Places({ onClose }: { onClose: () => void }) {
  return (
    <Dialog open onClose={onClose} title="Which places are protected?" wide>
      <Protected />
      <LeftOut headed />
      <button type="button" className="go" onClick={onClose}>
        Done
      </button>
    </Dialog>
  );
}

/** Which places are protected, and how: asked, never assumed. What would be lost is told from this. */
export function Protected() {
  const live = useLive();
  const [places, setPlaces] = useState<PlaceView[]>();
  const [typed, setTyped] = useState("");
  const load = useCallback(() => {
    ask("survey/places", {}).then(setPlaces).catch(live.say);
  }, [live.say]);
  useEffect(load, [load]);
  const mark = (path: string, protection: Protection) =>
    void live.act(ask("survey/protect", { folder: { path }, protection })).then(load);
  return (
    <div className="mb-6">
      <p className="mb-4 text-ink-2">
        A thing is safe if a copy of it lies in a place that is backed up. What is only synchronised is deleted there too when you
        delete it here, so it does not count.
      </p>
      {!places && <p role="status">Looking.</p>}
      {places && (
        <ul className="mb-4 max-h-[34vh] overflow-auto border-y border-line">
          {places.map((place) => (
            <li key={place.id} className="flex items-center gap-4 border-b border-line py-2 last:border-0">
              <bdi className="min-w-0 flex-1 truncate" title={place.path}>
                {place.title}
              </bdi>
              <fieldset className="flex gap-4 text-small">
                <legend className="sr-only">How {place.title} is protected</legend>
                {choices.map(([protection, words]) => (
                  <label key={words} className="flex items-center gap-1.5">
                    <input
                      type="radio"
                      className="accent-verdigris"
                      name={place.id}
                      checked={place.protection === protection}
                      onChange={() => mark(place.folder, protection)}
                    />
                    {words}
                  </label>
                ))}
              </fieldset>
            </li>
          ))}
        </ul>
      )}
      <Typed
        label="another folder of copies, such as a backup disk"
        placeholder="/media/backup"
        value={typed}
        onChange={setTyped}
        ready={/^[/~]/.test(typed.trim())}
        does="mark as backed up"
        onGive={(folder) => ask("survey/protect", { folder, protection: "backed up" }).finally(load)}
      />
    </div>
  );
}
