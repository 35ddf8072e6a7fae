import { useCallback, useRef, useState } from "react";
import type { ReportJson } from "@/contract/items";
import type { PileItem, Verdict } from "@/contract/views";
import { ask } from "../kit/ask";
import { useLive } from "../kit/live";

export interface Settled {
  /** One, or a family that was settled together. */
  items: PileItem[];
  verdict: Verdict;
  tookMs: number;
  /** The ledger's entry, once it is done, and that of its undo. */
  entry?: number;
  undo?: number;
}

/**
 * The pile of a sitting and what was settled of it. A verdict shows at once; the acts are done one after the other, in the
 * order in which they were given, and what is refused lies on the pile again. Undo takes back this sitting's own last
 * verdict, whatever was done elsewhere meanwhile, and `again` gives it again.
 */
export function useSettling(initial: PileItem[]) {
  const live = useLive();
  const [pile, setPile] = useState(initial);
  const [settled, setSettled] = useState<readonly Settled[]>([]);
  // What is shown follows this, which keys pressed in quick succession find up to date.
  const given = useRef<Settled[]>([]);
  const undone = useRef<Settled[]>([]);
  const line = useRef<Promise<unknown>>(Promise.resolve());
  const began = useRef(Date.now());

  const now = useCallback((next: Settled[]) => {
    given.current = next;
    setSettled(next);
  }, []);
  const drop = useCallback((id: string) => setPile((before) => before.filter((item) => item.id !== id)), []);

  const settle = useCallback(
    (items: PileItem[], verdict: Verdict, work: (tookMs: number) => Promise<ReportJson>) => {
      const ids = new Set(items.map((item) => item.id));
      const group: Settled = { items, verdict, tookMs: Date.now() - began.current };
      began.current = Date.now();
      setPile((before) => before.filter((item) => !ids.has(item.id)));
      now([...given.current, group]);
      undone.current = [];
      line.current = line.current.then(async () => {
        const report = await live.act(work(group.tookMs));
        const refused = new Set(report?.refused.map(({ name }) => name));
        const back = report && report.done > 0 ? items.filter((item) => refused.has(item.name)) : items;
        const done: Settled = {
          ...group,
          items: items.filter((item) => !back.includes(item)),
          entry: report?.entry ?? undefined,
        };
        now(given.current.flatMap((one) => (one !== group ? [one] : done.items.length > 0 ? [done] : [])));
        if (back.length > 0) setPile((before) => [...back, ...before.filter((item) => !back.includes(item))]);
      });
    },
    [live, now],
  );

  const undo = useCallback(() => {
    line.current = line.current.then(async () => {
      const last = given.current.at(-1);
      const report = await live.act(ask("ledger/undo", { entry: last?.entry }));
      if (!report || report.done === 0) return;
      // What was done elsewhere may concern anything on the pile.
      if (!last) return window.location.reload();
      const refused = new Set(report.refused.map(({ name }) => name));
      const back = last.items.filter((item) => !refused.has(item.name));
      now(given.current.filter((one) => one !== last));
      undone.current.push({ ...last, items: back, undo: report.entry ?? undefined });
      setPile((before) => [...back, ...before.filter((item) => !back.includes(item))]);
      began.current = Date.now();
    });
  }, [live, now]);

  const again = useCallback(() => {
    line.current = line.current.then(async () => {
      const last = undone.current.pop();
      const report = await live.act(last ? ask("ledger/undo", { entry: last.undo }) : ask("ledger/again", {}));
      if (!report || report.done === 0) return;
      if (!last) return window.location.reload();
      const refused = new Set(report.refused.map(({ name }) => name));
      const items = last.items.filter((item) => !refused.has(item.name));
      now([...given.current, { ...last, items }]);
      setPile((before) => before.filter((item) => !items.includes(item)));
      began.current = Date.now();
    });
  }, [live, now]);

  return { pile, settled, settle, undo, again, drop };
}
