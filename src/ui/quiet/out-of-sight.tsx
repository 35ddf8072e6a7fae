"use client";
import { useMemo, useState } from "react";
import type { QuietView, Tile } from "@/contract/views";
import { kinds } from "@/core/survey/kinds";
import { KeyOf } from "../kit/key";
import { LongList } from "../kit/long-list";
import { Name } from "../kit/name";
import { things } from "../kit/numbers";
import { Glyph } from "../plan/glyph";
import { awayWords } from "./away-words";

type Row = { id: string; kind: Tile["kind"]; count: number } | (Tile & { count?: undefined });

/** Narrowing is offered from so many on. */
const manyThings = 8;

/** All that is out of sight, by kind, narrowed by a word; each can be looked at, and brought back by itself. */
export function OutOfSight({
  view,
  busy,
  onLook,
  onBring,
  onEverything,
}: {
  view: QuietView;
  busy: boolean;
  onLook: (id: string) => void;
  onBring: (ids: string[]) => void;
  onEverything: () => void;
}) {
  const [word, setWord] = useState("");
  const away = useMemo(() => view.sheet?.tiles.filter((tile) => tile.outOfSight) ?? [], [view]);
  const sought = word.trim().toLowerCase();
  const found = sought === "" ? away : away.filter(({ name }) => name.toLowerCase().includes(sought));
  const rows = useMemo(
    () =>
      kinds.flatMap((kind): Row[] => {
        const of = found.filter((tile) => tile.kind === kind);
        return of.length === 0 ? [] : [{ id: `kind ${kind}`, kind, count: of.length }, ...of];
      }),
    [found],
  );
  if (away.length === 0)
    return (
      <>
        <h2 className="mb-3 border-b border-ink pb-2 font-semibold">Everything is in sight</h2>
        <p className="text-small text-ink-2">
          What you take out of sight is listed here, and the way to it stands in the foot of every view.
        </p>
      </>
    );
  return (
    <>
      <h2 className="mb-2 border-b border-ink pb-2 font-semibold">{awayWords(away.length, view.believed)}</h2>
      {away.length >= manyThings && (
        <input
          type="search"
          aria-label="narrow by a word of the name"
          placeholder="a word of the name"
          className="mb-1 border-b border-line bg-transparent py-1 text-small outline-none focus:border-verdigris"
          value={word}
          onChange={(event) => setWord(event.target.value)}
        />
      )}
      {found.length === 0 ? (
        <p className="flex-1 py-2 text-small text-ink-2">Nothing out of sight has “{word.trim()}” in its name.</p>
      ) : (
        <LongList label="what is out of sight" rowHeight={26} list={rows}>
          {(row) =>
            row.count !== undefined ? (
              <span className="flex h-full items-center gap-2 text-small font-semibold">
                <Glyph kind={row.kind} width={15} />
                {row.kind} <span className="font-normal text-ink-2">{row.count}</span>
              </span>
            ) : (
              <span className="flex h-full items-center gap-2 pl-[23px] text-small">
                <button type="button" className="min-w-0 flex-1 text-left hover:underline" onClick={() => onLook(row.id)}>
                  <Name>{row.name}</Name>
                </button>
                {!view.allOrNothing && (
                  <button
                    type="button"
                    className="doing"
                    disabled={busy}
                    aria-label={`show ${row.name}`}
                    onClick={() => onBring([row.id])}
                  >
                    show
                  </button>
                )}
              </span>
            )
          }
        </LongList>
      )}
      <span className="mt-3 flex flex-wrap items-center gap-x-4 gap-y-2">
        <button type="button" className="go" disabled={busy} onClick={onEverything}>
          Bring everything back <KeyOf command="quiet" />
        </button>
        {sought !== "" && found.length > 0 && !view.allOrNothing && (
          <button type="button" className="doing text-small" disabled={busy} onClick={() => onBring(found.map(({ id }) => id))}>
            show {found.length === 1 ? "this one" : `these ${things(found.length)}`}
          </button>
        )}
      </span>
    </>
  );
}
