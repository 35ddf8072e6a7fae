"use client";
import { useCallback, useState } from "react";
import type { HomeRef } from "@/contract/homes";
import type { ReportJson } from "@/contract/items";
import type { Tile, Verdict } from "@/contract/views";
import { NewTitles } from "../homes/new-titles";
import { ask } from "../kit/ask";
import { useGrown } from "../kit/grown";
import { HomePicker } from "../kit/home-picker";
import { Key, KeyOf } from "../kit/key";
import { useKeys } from "../kit/keys";
import { useLive } from "../kit/live";
import { Name } from "../kit/name";
import { things } from "../kit/numbers";
import { VerdictShape } from "../kit/shapes";
import { tileSize, useWords } from "../kit/words";
import { SettleFamily } from "./family";

const verdicts: { verdict: Verdict; words: string }[] = [
  { verdict: "stay", words: "leave there on purpose" },
  { verdict: "put away", words: "into a home, old or new" },
  { verdict: "archive", words: "into the parcel" },
  { verdict: "wait", words: "ask again in 30 days" },
  { verdict: "let go", words: "to the trash, and back" },
];

/** What is chosen in the plan, and what can be done with it together: one act, one undo. */
export function Chosen({ tiles, onDone, onOpen }: { tiles: Tile[]; onDone: () => void; onOpen: (id: string) => void }) {
  const live = useLive();
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
  // Only the desktop has a screen on which things can be out of sight.
  const onDesktop = tiles.every(({ worktop }) => worktop === "desktop");
  const allAway = tiles.every(({ outOfSight }) => outOfSight);
  const hide = () => act(ask(allAway ? "quiet/bring-back" : "quiet/hide", { items }));
  useKeys({
    ...give,
    ...(onDesktop ? { "out of sight": hide } : {}),
    "type a home": give["put away"],
    "new titles": () => setTitling(true),
    family: () => tiles[0] && setFamily(tiles[0].id),
    Escape: onDone,
  });
  const only = useGrown(tiles.length === 1 ? tiles[0] : undefined);
  return (
    <section aria-label="what is chosen" className="border-t-2 border-ink pt-2">
      <div className="flex items-baseline justify-between gap-3">
        <h2 className="min-w-0 text-name font-[650]">{only ? <Name>{only.name}</Name> : `${things(tiles.length)} chosen`}</h2>
        <button type="button" className="doing text-small" onClick={onDone}>
          none <Key>Esc</Key>
        </button>
      </div>
      <p className="mt-1 mb-2 text-small leading-6 text-ink-2">
        {only
          ? `${only.kind} · ${tileSize(only, words)} · ${words.ago(only.mtimeMs)}${only.verdict ? ` · ${only.verdict}` : ""}`
          : words.bytes(bytes)}{" "}
        {only && (
          <button type="button" className="doing" onClick={() => onOpen(only.id)}>
            look closer
          </button>
        )}{" "}
        {only && (
          <button type="button" className="doing" onClick={() => setFamily(only.id)}>
            its family <KeyOf command="family" />
          </button>
        )}{" "}
        <button type="button" className="doing" onClick={() => setTitling(true)}>
          {only ? "a new title" : "new titles"} <KeyOf command="new titles" />
        </button>{" "}
        {onDesktop && (
          <button type="button" className="doing" onClick={hide}>
            {allAway ? "back in sight" : "out of sight"} <KeyOf command="out of sight" />
          </button>
        )}
      </p>
      {verdicts.map(({ verdict, words: say }) => (
        <button
          key={verdict}
          type="button"
          onClick={give[verdict]}
          className="grid w-full grid-cols-[26px_92px_1fr_auto] items-center border-t border-line py-[5px] text-left hover:bg-wash"
        >
          <VerdictShape verdict={verdict} size={15} />
          <b className="font-[650]">{verdict}</b>
          <span className="text-small text-ink-2">{say}</span>
          <KeyOf command={verdict} />
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
        title={`Put ${only ? only.name : things(tiles.length)} away`}
      />
    </section>
  );
}
