"use client";
import { useCallback, useState } from "react";
import type { HomeRef } from "@/contract/homes";
import type { ReportJson } from "@/contract/items";
import type { Tile, Verdict } from "@/contract/views";
import { NewTitles } from "../homes/new-titles";
import { ask } from "../kit/ask";
import { HomePicker } from "../kit/home-picker";
import { useHomes } from "../kit/homes";
import { Key } from "../kit/key";
import { useKeys } from "../kit/keys";
import { useLive } from "../kit/live";
import { Name } from "../kit/name";
import { sizeWords, things } from "../kit/numbers";
import { VerdictShape } from "../kit/shapes";
import { tileSize, useWords } from "../kit/words";
import { SettleFamily } from "./family";

const verdicts: { verdict: Verdict; key: string; words: string }[] = [
  { verdict: "stay", key: "S", words: "leave lying, on purpose" },
  { verdict: "put away", key: "P", words: "into a home, old or new" },
  { verdict: "archive", key: "A", words: "collect in the parcel" },
  { verdict: "wait", key: "W", words: "ask again in 30 days" },
  { verdict: "let go", key: "L", words: "to the trash, and back" },
];

/** What is chosen in the plan, and what can be done with it together: one act, one undo. */
export function Chosen({ tiles, onDone, onOpen }: { tiles: Tile[]; onDone: () => void; onOpen: (id: string) => void }) {
  const live = useLive();
  const homes = useHomes();
  const words = useWords();
  const [picking, setPicking] = useState(false);
  const [family, setFamily] = useState<string>();
  const [titling, setTitling] = useState(false);
  const noFamily = useCallback(() => setFamily(undefined), []);
  const items = tiles.map((tile) => tile.id);
  const bytes = tiles.reduce((sum, tile) => sum + tile.bytes, 0);
  const act = (work: Promise<ReportJson>) => void live.act(work).then((report) => report && onDone());
  const put = (home: HomeRef) => {
    setPicking(false);
    act(ask("homes/put", { home, items }));
  };
  const give: Record<Verdict, () => void> = {
    stay: () => act(ask("sitting/stay", { items })),
    "put away": () => setPicking(true),
    archive: () => act(ask("sitting/archive", { items })),
    wait: () => act(ask("sitting/wait", { items })),
    "let go": () => act(ask("sitting/let-go", { items })),
  };
  useKeys({
    s: give.stay,
    p: give["put away"],
    "/": give["put away"],
    a: give.archive,
    w: give.wait,
    l: give["let go"],
    m: () => setTitling(true),
    t: () => tiles[0] && setFamily(tiles[0].id),
    Escape: onDone,
  });
  const only = tiles.length === 1 ? tiles[0] : undefined;
  return (
    <section aria-label="what is chosen" className="border-t-2 border-ink pt-2">
      <div className="flex items-baseline justify-between gap-3">
        <h2 className="min-w-0 text-name font-[650]">{only ? <Name>{only.name}</Name> : `${things(tiles.length)} chosen`}</h2>
        <button type="button" className="doing text-small" onClick={onDone}>
          none <Key>Esc</Key>
        </button>
      </div>
      <p className="mb-2 text-small text-ink-2">
        {only
          ? `${only.kind} · ${tileSize(only, words)} · ${words.ago(only.mtimeMs)}${only.verdict ? ` · ${only.verdict}` : ""}`
          : sizeWords(bytes)}{" "}
        {only && (
          <button type="button" className="doing" onClick={() => onOpen(only.id)}>
            look closer
          </button>
        )}{" "}
        {only && (
          <button type="button" className="doing" onClick={() => setFamily(only.id)}>
            its family <Key>T</Key>
          </button>
        )}{" "}
        <button type="button" className="doing" onClick={() => setTitling(true)}>
          {only ? "a new title" : "new titles"} <Key>M</Key>
        </button>
      </p>
      {verdicts.map(({ verdict, key, words: say }) => (
        <button
          key={verdict}
          type="button"
          onClick={give[verdict]}
          className="grid w-full grid-cols-[26px_92px_1fr_auto] items-center border-t border-line py-[5px] text-left hover:bg-wash"
        >
          <VerdictShape verdict={verdict} size={15} />
          <b className="font-[650]">{verdict}</b>
          <span className="text-small text-ink-2">{say}</span>
          <Key>{key}</Key>
        </button>
      ))}
      {titling && <NewTitles items={items} onClose={() => setTitling(false)} />}
      {family && (
        <SettleFamily item={family} onClose={noFamily} onVerdict={(_, __, asked) => act(ask(asked.act, asked.input as never))} />
      )}
      <HomePicker
        open={picking}
        onClose={() => setPicking(false)}
        onPick={put}
        homes={homes}
        title={`Put ${only ? only.name : things(tiles.length)} away`}
      />
    </section>
  );
}
