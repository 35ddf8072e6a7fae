"use client";
import { useEffect, useState } from "react";
import type { HomeRef } from "@/contract/homes";
import type { VerdictAct } from "@/contract/sitting";
import type { FamilyAnswer } from "@/contract/survey";
import type { Verdict } from "@/contract/views";
import { commandOn } from "@/core/settings/keys";
import { ask } from "../kit/ask";
import { Dialog } from "../kit/dialog";
import { HomePicker } from "../kit/home-picker";
import { KeyOf } from "../kit/key";
import { useLeftOut } from "../kit/left-out";
import { useLive } from "../kit/live";
import { Name } from "../kit/name";
import { things } from "../kit/numbers";
import { VerdictShape } from "../kit/shapes";

const verdicts: { verdict: Verdict; words: string }[] = [
  { verdict: "stay", words: "all stay, on purpose" },
  { verdict: "put away", words: "all into one home" },
  { verdict: "archive", words: "all into the parcel" },
  { verdict: "wait", words: "ask again in 30 days" },
  { verdict: "let go", words: "all to the trash, and back" },
];

/** A thing's family, settled together by one verdict: seen first, single ones left out; one act, one undo. */
export function SettleFamily({
  item,
  onClose,
  onVerdict,
}: {
  item: string;
  onClose: () => void;
  /** Gives the verdict on these, by one act. */
  onVerdict: (ids: string[], verdict: Verdict, asked: { act: VerdictAct; input: Record<string, unknown> }) => void;
}) {
  const live = useLive();
  const [family, setFamily] = useState<FamilyAnswer | null>();
  const [leftOut, toggle] = useLeftOut();
  const [picking, setPicking] = useState(false);
  useEffect(() => {
    ask("survey/family", { item })
      .then(setFamily)
      .catch((problem: unknown) => {
        live.say(problem);
        onClose();
      });
  }, [item, live.say, onClose]);
  const items = (family?.each ?? []).map(({ id }) => id).filter((id) => !leftOut.has(id));
  const settle = (verdict: Verdict, act: VerdictAct, more: Record<string, unknown> = {}) => {
    onVerdict(items, verdict, { act, input: { ...more, items } });
    onClose();
  };
  const put = (home: HomeRef) => settle("put away", "homes/put", { home });
  const finding = family?.settles;
  const give: Record<Verdict, () => void> = {
    stay: () => settle("stay", "sitting/stay"),
    "put away": () => setPicking(true),
    archive: () => settle("archive", "sitting/archive"),
    wait: () => settle("wait", "sitting/wait"),
    "let go": () => (finding ? settle("let go", "survey/settle", { finding }) : settle("let go", "sitting/let-go")),
  };
  const press = (key: string) => {
    const command = commandOn(live.frame.keys, key);
    const found = verdicts.find(({ verdict }) => verdict === command);
    if (!found || items.length === 0) return false;
    give[found.verdict]();
    return true;
  };
  if (picking)
    return <HomePicker open onClose={() => setPicking(false)} onPick={put} title={`Put ${things(items.length)} away`} />;
  return (
    <Dialog
      open
      onClose={onClose}
      title={family ? `${things(family.each.length)}: ${family.why}` : "Its family"}
      wide
      onKey={press}
    >
      {family === undefined && <p role="status">Looking for what belongs with it.</p>}
      {family === null && <p>Nothing else lies there that belongs with it: no proof, no name, no day of arrival joins them.</p>}
      {family && (
        <>
          <p className="mb-3 text-ink-2">
            {finding
              ? "What is let go is checked once more at the moment it goes."
              : "They are settled together by one verdict. What is not ticked is left as it is."}
          </p>
          <ul className="mb-4 max-h-[32vh] overflow-auto border-y border-line">
            {family.each.map(({ id, name, proof, size, worktop }) => (
              <li key={id} className="border-b border-line last:border-0">
                <label className="flex items-baseline gap-3 py-1">
                  <input
                    type="checkbox"
                    className="size-4 shrink-0 self-center accent-verdigris"
                    checked={!leftOut.has(id)}
                    onChange={() => toggle(id)}
                  />
                  <Name className="font-[650]">{name}</Name>
                  <span className="min-w-0 flex-1 truncate text-small text-ink-2">{proof}</span>
                  <span className="shrink-0 text-small text-ink-2">
                    {size}
                    {worktop === "downloads" ? ", in downloads" : ""}
                  </span>
                </label>
              </li>
            ))}
          </ul>
          <fieldset className="grid grid-cols-5 border border-ink" disabled={items.length === 0}>
            <legend className="sr-only">the verdict on {things(items.length)}</legend>
            {verdicts.map(({ verdict, words }, n) => (
              <button
                key={verdict}
                type="button"
                onClick={give[verdict]}
                className={`relative flex flex-col items-start px-3 py-2 text-left hover:bg-wash disabled:opacity-45 ${n > 0 ? "border-l border-line" : ""}`}
              >
                <VerdictShape verdict={verdict} size={15} />
                <span className="absolute top-2 right-2">
                  <KeyOf command={verdict} />
                </span>
                <b className="mt-1 leading-tight font-[650]">{verdict}</b>
                <span className="text-[11.5px] leading-[1.25] text-ink-2">{words}</span>
              </button>
            ))}
          </fieldset>
          <p className="mt-2 text-small text-ink-2">
            {items.length} of {family.each.length} are settled; one undo brings them back.
          </p>
        </>
      )}
    </Dialog>
  );
}
