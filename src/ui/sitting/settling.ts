import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import type { ReportJson } from "@/contract/items";
import type { GivenAnswer, VerdictAct } from "@/contract/sitting";
import type { PileItem, SettledView, Verdict } from "@/contract/views";
import { AskProblem, ask } from "../kit/ask";
import { useLive } from "../kit/live";
import { Answers } from "./answers";
import { Outbox } from "./outbox";

export interface Settled {
  /** One, or a family that was settled together. */
  items: PileItem[];
  verdict: Verdict;
  tookMs: number;
  /** The id under which it was given; one from before the page was loaded has its entry alone. */
  given?: string;
  /** The ledger's entry, once it is done, and that of its undo. */
  entry?: number;
  undo?: number;
}

/** An act that gives a verdict, as it is asked for. */
export interface Asked {
  act: VerdictAct;
  input: Record<string, unknown>;
}

/** The report of a verdict; a problem where it could not be done. */
async function reportOf(answer: Promise<GivenAnswer>): Promise<ReportJson> {
  const { report, problem } = await answer;
  if (report) return report;
  throw new AskProblem(problem?.code ?? "unexpected", problem?.title ?? "It could not be done.", problem?.remedy ?? "");
}

/**
 * The pile of a sitting and what was settled of it. A verdict shows at once, is written down within a moment, and done from
 * there, in the order in which they were given; what is refused lies on the pile again. Undo takes back this sitting's own
 * last verdict, whatever was done elsewhere meanwhile, and `again` gives it again.
 */
export function useSettling(sitting: string, initial: PileItem[], before: SettledView[]) {
  const live = useLive();
  const [pile, showPile] = useState(initial);
  const lies = useRef(initial);
  const [settled, setSettled] = useState<readonly Settled[]>(before);
  // What is shown follows this, which keys pressed in quick succession find up to date.
  const standing = useRef<Settled[]>(before);
  const undone = useRef<Settled[]>([]);
  const line = useRef<Promise<unknown>>(Promise.resolve());
  const began = useRef(Date.now());
  const say = useRef(live.say);
  say.current = live.say;
  const outbox = useMemo(() => new Outbox((problem) => say.current(problem)), []);
  const answers = useMemo(() => new Answers((problem) => say.current(problem)), []);

  useEffect(() => {
    window.addEventListener("pagehide", outbox.leave);
    return () => {
      window.removeEventListener("pagehide", outbox.leave);
      outbox.leave();
    };
  }, [outbox]);

  const now = useCallback((next: Settled[]) => {
    standing.current = next;
    setSettled(next);
  }, []);
  const setPile = useCallback((change: (before: PileItem[]) => PileItem[]) => {
    lies.current = change(lies.current);
    showPile(lies.current);
  }, []);
  /** The thing that is the next, which a key pressed before it is shown does not mean. */
  const next = useCallback(() => lies.current[0], []);
  const drop = useCallback((id: string) => setPile((before) => before.filter((item) => item.id !== id)), [setPile]);
  const layBack = useCallback(
    (items: PileItem[]) => setPile((before) => [...items, ...before.filter((item) => !items.includes(item))]),
    [setPile],
  );
  const takeOff = useCallback(
    (items: PileItem[]) => {
      const ids = new Set(items.map((item) => item.id));
      setPile((before) => before.filter((item) => !ids.has(item.id)));
    },
    [setPile],
  );

  /** Gives a verdict, and answers what it came to; after those that were given before. */
  const give = useCallback(
    (id: string, act: VerdictAct, input: Record<string, unknown>): Promise<ReportJson | undefined> => {
      const answer = outbox.give({ id, act, input }).then(() => answers.of(id));
      const came = line.current.then(() => live.act(reportOf(answer)));
      line.current = came;
      return came;
    },
    [live, outbox, answers],
  );

  const settle = useCallback(
    async (items: PileItem[], verdict: Verdict, { act, input }: Asked) => {
      const given = crypto.randomUUID();
      const group: Settled = { items, verdict, tookMs: Date.now() - began.current, given };
      began.current = Date.now();
      takeOff(items);
      now([...standing.current, group]);
      undone.current = [];
      const report = await give(given, act, { ...input, sitting, tookMs: group.tookMs });
      const refused = new Set(report?.refused.flatMap(({ item }) => item ?? []));
      const back = report && report.done > 0 ? items.filter((item) => refused.has(item.id)) : items;
      if (back.length === 0) {
        group.entry = report?.entry ?? undefined;
        return;
      }
      const left = { ...group, items: items.filter((item) => !back.includes(item)), entry: report?.entry ?? undefined };
      // Taken back meanwhile, it lies there already.
      if (!standing.current.includes(group)) return;
      now(standing.current.flatMap((one) => (one !== group ? [one] : left.items.length > 0 ? [left] : [])));
      layBack(back);
    },
    [give, layBack, now, sitting, takeOff],
  );

  const undo = useCallback(async () => {
    const last = standing.current.at(-1);
    if (!last) {
      // Only once this sitting's own are taken back is it the turn of what was done elsewhere.
      line.current = line.current.then(async () => {
        const report = await live.act(ask("ledger/undo", {}));
        // That may concern anything on the pile.
        if (report && report.done > 0) window.location.reload();
      });
      return;
    }
    now(standing.current.slice(0, -1));
    layBack(last.items);
    began.current = Date.now();
    const which = last.given === undefined ? { entry: last.entry } : { given: last.given };
    const report = await give(crypto.randomUUID(), "ledger/undo", which);
    const refused = new Set(report?.refused.flatMap(({ item }) => item ?? []));
    const kept = report && report.done > 0 ? last.items.filter((item) => refused.has(item.id)) : last.items;
    if (kept.length < last.items.length)
      undone.current.push({
        ...last,
        items: last.items.filter((item) => !kept.includes(item)),
        undo: report?.entry ?? undefined,
      });
    if (kept.length === 0) return;
    // What could not be taken back is settled still.
    takeOff(kept);
    now([...standing.current, { ...last, items: kept }]);
  }, [give, layBack, live, now, takeOff]);

  const again = useCallback(() => {
    line.current = line.current.then(async () => {
      const last = undone.current.pop();
      const report = await live.act(last ? ask("ledger/undo", { entry: last.undo }) : ask("ledger/again", {}));
      if (!report || report.done === 0) return;
      if (!last) return window.location.reload();
      const refused = new Set(report.refused.flatMap(({ item }) => item ?? []));
      const items = last.items.filter((item) => !refused.has(item.id));
      // Its own entry stands again.
      now([...standing.current, { ...last, items }]);
      takeOff(items);
      began.current = Date.now();
    });
  }, [live, now, takeOff]);

  return { pile, next, settled, settle, undo, again, drop };
}
