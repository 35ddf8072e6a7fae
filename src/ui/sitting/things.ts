import { useCallback, useEffect, useRef, useState } from "react";
import type { PileItem, SittingAround, SittingNow, SittingView, ThingView } from "@/contract/views";
import { AskProblem, ask } from "../kit/ask";
import { useLive } from "../kit/live";

const ahead = 4;
/** So many lie ahead in sight: of these it is asked whether they still do. */
const drawn = 48;
/** So long after a question that failed it is asked again. */
const asksAgainMs = 2000;
/** Once something changed it is asked how it stands, and no more often. */
const calmMs = 700;

/** The verdicts that are on their way. */
interface Giving {
  /** Each that was given is written down. */
  isWritten(): boolean;
  /** How many were given so far. */
  given(): number;
}

/** A thing that is looked at, as it is now: nothing that has a key changes its place, and what was free to be decided stays so. */
export function asShown(before: ThingView | undefined, now: ThingView): ThingView {
  if (!before) return now;
  const homes = new Map(now.homes.map((home) => [home.id, home]));
  const known = before.homes.flatMap(({ id }) => homes.get(id) ?? []);
  for (const { id } of known) homes.delete(id);
  const isSame = JSON.stringify(before.look) === JSON.stringify(now.look);
  return { ...now, look: isSame ? before.look : now.look, inUse: before.inUse, homes: [...known, ...homes.values()] };
}

/**
 * What is known of the things ahead, asked for before they come up, and how it stands around the pile: looked at anew after
 * whatever was done or changed, here or elsewhere.
 */
export function useThings(pile: PileItem[], drop: (id: string) => void, { isWritten, given }: Giving, view: SittingView) {
  const { atOnce } = useLive();
  const [things, setThings] = useState<ReadonlyMap<string, ThingView>>(new Map(view.first ? [[view.first.id, view.first]] : []));
  const asked = useRef(new Set(things.keys()));
  /** Why what lies ahead cannot be asked for now; it is tried again. */
  const [trouble, setTrouble] = useState<string>();
  const [around, setAround] = useState<SittingAround>(view.around);
  /** Of what is looked at: it was decided elsewhere, or lies there no more. */
  const [over, setOver] = useState<SittingNow["over"][number]>();
  const stale = useRef(new Set<string>());
  const lying = useRef<string[]>([]);
  lying.current = pile.slice(0, drawn).map(({ id }) => id);

  /** Looked at once more: what is known of it may be out of date. */
  const forget = useCallback((ids: Iterable<string>) => {
    for (const id of ids) asked.current.delete(id);
    setThings((before) => new Map([...before].filter(([id]) => asked.current.has(id))));
  }, []);
  const change = useCallback((id: string, to: Partial<ThingView>) => {
    setThings((before) => {
      const known = before.get(id);
      return known ? new Map(before).set(id, { ...known, ...to }) : before;
    });
  }, []);

  const askAhead = useCallback(() => {
    for (const item of pile.slice(0, ahead)) {
      if (asked.current.has(item.id)) continue;
      asked.current.add(item.id);
      ask("sitting/thing", { item: item.id })
        .then((found) => {
          const { form } = found.look;
          if (form === "picture") new Image().src = `/api/looks/picture?item=${found.id}&size=large`;
          if (form === "pages") new Image().src = `/api/looks/page?item=${found.id}&n=1`;
          if (form === "font") new Image().src = `/api/looks/letters?item=${found.id}`;
          setThings((before) => new Map(before).set(found.id, found));
          setTrouble(undefined);
        })
        .catch((problem: unknown) => {
          // Gone meanwhile: it leaves the pile by itself. Of anything else it stays there, and is asked for again.
          if (problem instanceof AskProblem && problem.code === "unknown-item") return drop(item.id);
          asked.current.delete(item.id);
          setTrouble(problem instanceof AskProblem ? problem.title : "Something unexpected went wrong.");
        });
    }
  }, [pile, drop]);
  useEffect(askAhead, [askAhead]);
  useEffect(() => {
    if (trouble === undefined) return;
    const timer = setInterval(askAhead, asksAgainMs);
    return () => clearInterval(timer);
  }, [trouble, askAhead]);

  const soon = useRef(() => {});
  useEffect(() => {
    let timer: ReturnType<typeof setTimeout> | undefined;
    let unseen = false;
    const look = async () => {
      timer = undefined;
      // Nobody sees it: it is asked once somebody does.
      unseen = document.hidden;
      if (unseen) return;
      if (!isWritten()) return soon.current();
      const [before, ids] = [given(), lying.current];
      const now = await ask("sitting/now", { ahead: ids }).catch(() => undefined);
      // The next change asks again.
      if (!now) return;
      if (given() !== before) return soon.current();
      setAround(now);
      const { first } = now;
      if (first) {
        stale.current.delete(first.id);
        asked.current.add(first.id);
        setThings((known) => new Map(known).set(first.id, asShown(known.get(first.id), first)));
      }
      // What is looked at does not go from under the eyes, and the keys.
      const [current] = lying.current;
      setOver(now.over.find(({ id }) => id === current));
      for (const { id } of now.over) if (id !== current) drop(id);
    };
    soon.current = () => {
      timer ??= setTimeout(() => void look(), calmMs);
    };
    const seen = () => {
      if (unseen && !document.hidden) soon.current();
    };
    const changed = atOnce(() => {
      stale.current = new Set(asked.current);
      soon.current();
    });
    document.addEventListener("visibilitychange", seen);
    return () => {
      clearTimeout(timer);
      changed();
      document.removeEventListener("visibilitychange", seen);
    };
  }, [atOnce, drop, given, isWritten]);
  const first = pile[0]?.id;
  useEffect(() => {
    if (first !== undefined && stale.current.has(first)) soon.current();
  }, [first]);

  return { things, around, over: over?.id === first ? over : undefined, trouble, forget, change };
}
