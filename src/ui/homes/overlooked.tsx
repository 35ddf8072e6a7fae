"use client";
import { useState } from "react";
import type { Tile } from "@/contract/views";
import { ask } from "../kit/ask";
import { HomePicker } from "../kit/home-picker";
import { useHomes } from "../kit/homes";
import { Key } from "../kit/key";
import { useKeys } from "../kit/keys";
import { useLive } from "../kit/live";
import { things } from "../kit/numbers";
import { Thumb } from "./thumb";

/** What fits no home yet, chosen together for a home that is typed. */
export function Overlooked({ tiles, onBack }: { tiles: Tile[]; onBack: () => void }) {
  const live = useLive();
  const homes = useHomes();
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const [picking, setPicking] = useState(false);
  const items = tiles.filter((tile) => chosen.has(tile.id)).map((tile) => tile.id);
  const toggle = (id: string) =>
    setChosen((before) => {
      const next = new Set(before);
      if (!next.delete(id)) next.add(id);
      return next;
    });
  useKeys({ p: () => items.length > 0 && setPicking(true), Escape: onBack });
  return (
    <>
      <div className="mt-5 mb-3 flex items-baseline gap-4">
        <h1 className="text-[24px] leading-tight font-medium">
          <b className="border-b-2 border-verdigris font-bold">{things(tiles.length)}</b> {tiles.length === 1 ? "fits" : "fit"} no
          home yet.
        </h1>
        <button type="button" className="doing ml-auto" onClick={onBack}>
          back to the homes <Key>Esc</Key>
        </button>
      </div>
      <ul className="grid min-h-0 flex-1 auto-rows-min grid-cols-[repeat(auto-fill,minmax(125px,1fr))] gap-3 overflow-auto pt-1">
        {tiles.map((tile) => (
          <li key={tile.id}>
            <button
              type="button"
              aria-pressed={chosen.has(tile.id)}
              onClick={() => toggle(tile.id)}
              className="block w-full text-left"
            >
              <Thumb tile={tile} dashed={false} at={chosen.has(tile.id)} />
              <span className="mt-1 block truncate text-[11.5px]">
                <bdi>{tile.name}</bdi>
              </span>
            </button>
          </li>
        ))}
      </ul>
      <div className="mt-3 flex items-center gap-6 border-t-2 border-ink pt-3">
        <button type="button" className="go" disabled={items.length === 0} onClick={() => setPicking(true)}>
          Put {items.length} away <Key>P</Key>
        </button>
        <p className="text-[13px] text-ink-2">Choose some that belong together, then a home for them, old or new.</p>
      </div>
      <HomePicker
        open={picking}
        onClose={() => setPicking(false)}
        homes={homes}
        title={`Put ${things(items.length)} away`}
        onPick={(home) => {
          setPicking(false);
          void live.act(ask("homes/put", { home, items })).then((report) => report && setChosen(new Set()));
        }}
      />
    </>
  );
}
