import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import type { ReportJson } from "@/contract/items";
import type { GivenAnswer, VerdictAct } from "@/contract/sitting";
import type { Outcome, PileItem, SettledView } from "@/contract/views";
import { inOrder, type Order } from "@/core/sitting/order";
import { AskProblem, ask } from "../kit/ask";
import { useLive } from "../kit/live";
import { Answers } from "./answers";
import { Outbox } from "./outbox";

export interface Settled {
  /** One, or a family that was settled together; none of what only went out of sight. */
  items: PileItem[];
  verdict: Outcome | "sight";
  tookMs: number;
  /** The id under which it was given; one from before the page was loaded has its entry alone. */
  given?: string;
  /** The ledger's entry, once it is done, and that of its undo. */
  entry?: number;
  undo?: number;
  /** Of what was done at once and not given: its coming to an end. */
  done?: Promise<unknown>;
}

/** An act that gives a verdict, as it is asked for. */
export interface Asked {
  act: VerdictAct;
  input: Record<string, unknown>;
}

/** A thing that a program has open: it comes up again once it is free. */
export interface Aside {
  item: PileItem;
  why: string;
}

/** What is to be done with a thing that was refused: it lies there no more, a program has it, or its name is taken. */
export interface Refusal {
  item: PileItem;
  code: string;
  why: string;
  asked: Asked;
}

/** The report of a verdict; a problem where it could not be done. */
async function reportOf(answer: Promise<GivenAnswer>): Promise<ReportJson> {
  const { report, problem } = await answer;
  if (report) return report;
  throw new AskProblem(problem?.code ?? "unexpected", problem?.title ?? "It could not be done.", problem?.remedy ?? "");
}

/** Tells what is none of these. */
function without(items: readonly PileItem[]): (item: PileItem) => boolean {
  const ids = new Set(items.map(({ id }) => id));
  return ({ id }) => !ids.has(id);
}

/**
 * The pile of a sitting and what was settled of it. A verdict shows at once, is written down within a moment, and done from
 * there, in the order in which they were given; what is refused lies on the pile again. Undo takes back this sitting's own
 * last verdict, whatever was done elsewhere meanwhile, and `again` gives it again.
 */
export function useSettling(
  sitting: string,
  initial: PileItem[],
  before: SettledView[],
  onRefused: (refused: Refusal) => "pile" | "aside" | "gone",
) {
  const live = useLive();
  const [pile, showPile] = useState(initial);
  const lies = useRef(initial);
  const [aside, showAside] = useState<readonly Aside[]>([]);
  const waits = useRef<readonly Aside[]>([]);
  const [settled, setSettled] = useState<readonly Settled[]>(before);
  // What is shown follows this, which keys pressed in quick succession find up to date.
  const standing = useRef<Settled[]>(before);
  const undone = useRef<Settled[]>([]);
  const skipped = useRef<string[]>([]);
  const count = useRef(0);
  const line = useRef<Promise<unknown>>(Promise.resolve());
  const began = useRef(Date.now());
  const say = useRef(live.say);
  say.current = live.say;
  const refusing = useRef(onRefused);
  refusing.current = onRefused;
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
  const setAside = useCallback((next: readonly Aside[]) => {
    waits.current = next;
    showAside(next);
  }, []);
  /** The thing that is the next, which a key pressed before it is shown does not mean. */
  const next = useCallback((isMeant: (item: PileItem) => boolean) => lies.current.find(isMeant), []);
  const drop = useCallback((id: string) => setPile((all) => all.filter((item) => item.id !== id)), [setPile]);
  /** Lays things on top, wherever they were on the pile. */
  const layBack = useCallback((items: PileItem[]) => setPile((all) => [...items, ...all.filter(without(items))]), [setPile]);
  const takeOff = useCallback((items: PileItem[]) => setPile((all) => all.filter(without(items))), [setPile]);

  /** The order of what lies ahead. What was put off for later is in it again. */
  const arrange = useCallback(
    (order: Order) => {
      skipped.current = [];
      const place = new Map(initial.map(({ id }, n) => [id, n]));
      setPile((all) =>
        inOrder(
          all.toSorted((a, b) => (place.get(a.id) ?? 0) - (place.get(b.id) ?? 0)),
          order,
        ),
      );
    },
    [initial, setPile],
  );
  /** The first of those that are meant comes last. */
  const later = useCallback(
    (isMeant: (item: PileItem) => boolean) => {
      const first = lies.current.find(isMeant);
      if (!first || lies.current.length === 1) return;
      skipped.current.push(first.id);
      began.current = Date.now();
      setPile((all) => [...all.filter((item) => item !== first), first]);
    },
    [setPile],
  );
  const jump = useCallback(
    (id: string) => {
      const found = lies.current.find((item) => item.id === id) ?? waits.current.find(({ item }) => item.id === id)?.item;
      if (!found) return;
      began.current = Date.now();
      setAside(waits.current.filter(({ item }) => item.id !== id));
      layBack([found]);
    },
    [layBack, setAside],
  );
  /** The one that was put off last comes up again. */
  const back = useCallback(() => {
    for (let id = skipped.current.pop(); id !== undefined; id = skipped.current.pop())
      if (lies.current.some((item) => item.id === id)) return jump(id);
  }, [jump]);
  /** A program has it open: it is passed over until it is free. */
  const passOver = useCallback(
    (item: PileItem, why: string) => {
      takeOff([item]);
      setAside([...waits.current.filter((other) => other.item.id !== item.id), { item, why }]);
    },
    [setAside, takeOff],
  );
  /** Of what was passed over: why each is in use still. Those that are free come up again. */
  const stillInUse = useCallback(
    (whys: ReadonlyMap<string, string>) => {
      const items = waits.current.flatMap(({ item }) => (whys.has(item.id) ? [] : [item]));
      const still = waits.current.flatMap(({ item, why }) => {
        const now = whys.get(item.id);
        return now === undefined ? [] : [{ item, why: now || why }];
      });
      const isSame = still.length === waits.current.length && still.every(({ why }, n) => why === waits.current[n]!.why);
      if (!isSame) setAside(still);
      if (items.length === 0) return;
      // What is looked at just now stays where it is.
      setPile(([first, ...rest]) => [...(first ? [first] : []), ...items, ...rest]);
    },
    [setAside, setPile],
  );

  /** Gives a verdict, and answers what it came to; after those that were given before. */
  const give = useCallback(
    (id: string, act: VerdictAct, input: Record<string, unknown>): Promise<ReportJson | undefined> => {
      count.current++;
      const answer = outbox.give({ id, act, input }).then(() => answers.of(id));
      const came = line.current.then(() => live.act(reportOf(answer)));
      line.current = came;
      return came;
    },
    [live, outbox, answers],
  );

  const settle = useCallback(
    async (items: PileItem[], verdict: Outcome, { act, input }: Asked) => {
      const given = crypto.randomUUID();
      const group: Settled = { items, verdict, tookMs: Date.now() - began.current, given };
      began.current = Date.now();
      takeOff(items);
      now([...standing.current, group]);
      undone.current = [];
      const report = await give(given, act, { ...input, sitting, tookMs: group.tookMs });
      const refused = new Map(report?.refused.map(({ item, code, why }) => [item ?? "", { code, why }]));
      const returning = report && report.done > 0 ? items.filter((item) => refused.has(item.id)) : items;
      if (returning.length === 0) {
        group.entry = report?.entry ?? undefined;
        return;
      }
      const left = { ...group, items: items.filter((item) => !returning.includes(item)), entry: report?.entry ?? undefined };
      // Taken back meanwhile, it lies there already.
      if (!standing.current.includes(group)) return;
      now(standing.current.flatMap((one) => (one !== group ? [one] : left.items.length > 0 ? [left] : [])));
      const lying: PileItem[] = [];
      for (const item of returning) {
        const { code, why } = refused.get(item.id) ?? { code: "", why: "" };
        const where = refusing.current({ item, code, why, asked: { act, input } });
        if (where === "pile") lying.push(item);
        else if (where === "aside") passOver(item, "");
      }
      layBack(lying);
    },
    [give, layBack, now, passOver, sitting, takeOff],
  );

  /** What was done with the thing that is looked at, and leaves it there, is undone by the same key. */
  const noteDone = useCallback(
    (work: Promise<number | undefined>) => {
      const group: Settled = { items: [], verdict: "sight", tookMs: 0 };
      // At once: an undo that follows on its heels means it.
      now([...standing.current, group]);
      group.done = work.then((entry) => {
        group.entry = entry;
        if (entry === undefined) now(standing.current.filter((one) => one !== group));
      });
    },
    [now],
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
    await last.done;
    if (last.done && last.entry === undefined) return;
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

  const given = useCallback(() => count.current, []);
  const isWritten = useCallback(() => outbox.isEmpty(), [outbox]);

  return {
    pile,
    next,
    aside,
    settled,
    settle,
    undo,
    again,
    drop,
    arrange,
    later,
    back,
    jump,
    passOver,
    stillInUse,
    lay: layBack,
    takeOff,
    noteDone,
    /** How many verdicts were given or taken back so far, and whether each is written down. */
    given,
    isWritten,
  };
}
