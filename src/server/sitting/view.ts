import { randomUUID } from "node:crypto";
import type { PileItem, SettledView, SittingEnd, SittingView, ThingView } from "@/contract/views";
import { Problem } from "@/core/problem";
import { fromAccount } from "../account";
import { useOf } from "../disk/in-use";
import type { Engine, Reading } from "../engine";
import { fitsOf } from "../homes/belonging";
import { homes } from "../homes/homes";
import { factsOf } from "../looks/facts";
import { lookOf, lookSoon } from "../looks/looks";
import { isOutOfSight } from "../quiet/quiet";
import { type Item, itemById, itemsOn, itemsSettledIn } from "../survey/items";
import { comparedInWords } from "../survey/spent";
import { isBeingCounted } from "../survey/survey";
import { showsItself } from "../survey/tile";
import { collecting } from "./archive";
import { givenSoFar } from "./give";
import { timeToClear } from "./pace";
import { verdictsInForce } from "./verdict";

/** What has no verdict in force. */
export function undecided(engine: Reading): Item[] {
  const verdicts = verdictsInForce(engine);
  return engine.account.worktops.flatMap((w) => itemsOn(engine.db, w.id)).filter((item) => !verdicts.has(item.id));
}

/** What has no verdict, likes beside likes, the longest untouched kinds first. */
export function pileOf(engine: Reading): Item[] {
  const items = undecided(engine);
  const oldest = new Map<string, number>();
  for (const item of items) oldest.set(item.kind, Math.min(oldest.get(item.kind) ?? Number.POSITIVE_INFINITY, item.mtimeMs));
  return items.sort(
    (a, b) =>
      oldest.get(a.kind)! - oldest.get(b.kind)! ||
      (a.kind < b.kind ? -1 : a.kind > b.kind ? 1 : 0) ||
      (a.label < b.label ? -1 : 1),
  );
}

export const inPile = (item: Item): PileItem => ({
  id: item.id,
  name: item.label,
  kind: item.kind,
  bytes: item.bytes,
  picture: showsItself(item),
});

const verdictOf: Partial<Record<string, SettledView["verdict"]>> = {
  put: "put away",
  sweep: "put away",
  stay: "stay",
  wait: "wait",
  archive: "archive",
  "let-go": "let go",
  settle: "let go",
};

/** What was settled in a sitting and stands, in the order in which it was. */
function settledIn(engine: Reading, sitting: string): SettledView[] {
  const items = new Map(itemsSettledIn(engine.db, sitting).map((item) => [item.id, inPile(item)]));
  const rows = engine.db
    .prepare<[string], { entry: number; act: string; item: string; took: number; bytes: number | null }>(
      `SELECT e.id AS entry, e.act, v.item, v.took_ms AS took, v.bytes FROM sitting_verdict v JOIN entry e ON e.id = v.entry
       WHERE v.sitting = ? AND e.state = 'done' ORDER BY e.id, v.rowid`,
    )
    .all(sitting);
  const settled = new Map<number, SettledView>();
  for (const { entry, act, item, took, bytes } of rows) {
    const [verdict, found] = [verdictOf[act], items.get(item)];
    if (!verdict || !found) continue;
    const group = settled.get(entry) ?? { items: [], verdict, tookMs: 0, entry };
    group.items.push({ ...found, bytes: bytes ?? found.bytes });
    group.tookMs += took;
    settled.set(entry, group);
  }
  return [...settled.values()];
}

/**
 * A sitting over everything without a verdict, with the first thing already looked at. `of`: one that is gone on with, after
 * its page was left or loaded anew.
 */
export async function sittingView(engine: Engine, of?: string): Promise<SittingView> {
  await givenSoFar(engine);
  const pile = pileOf(engine);
  const first = pile[0];
  return {
    sitting: of ?? randomUUID(),
    settled: of ? settledIn(engine, of) : [],
    pile: pile.map(inPile),
    first: first && (await thing(engine, first.id)),
    parcel: collecting(engine)?.[1].title,
    pace: timeToClear(engine, 1),
    worktopsTotal: engine.account.worktops.reduce((sum, w) => sum + itemsOn(engine.db, w.id).length, 0),
  };
}

/** One thing: what it looks like, its facts, what is known about it, and the homes that fit. */
export async function thing(engine: Engine, id: string, wait?: boolean): Promise<ThingView> {
  const item = itemById(engine.db, id);
  if (!item?.worktop) throw new Problem("unknown-item", { name: item?.label });
  const words = engine.words();
  const titles = new Map(homes(engine).map((home) => [home.id, home.title]));
  const { look, late } = wait ? { look: await lookOf(engine, item) } : await lookSoon(engine, item);
  const facts: string[] = [item.kind, ...factsOf(look, words)];
  if (item.facts.width) facts.push(`${item.facts.width} by ${item.facts.height} pixels`);
  facts.push(
    item.identity.type === "folder"
      ? item.facts.closed
        ? "may not be looked into"
        : `${words.counted(item.facts.entries ?? 0, "entry", "entries")}${item.counted ? `, ${words.bytes(item.bytes)}` : isBeingCounted(engine, item) ? ", being counted" : ""}`
      : words.bytes(item.identity.bytes),
  );
  facts.push(item.worktop === "desktop" ? "on the desktop" : "in downloads", `last changed ${words.ago(item.mtimeMs)}`);
  return {
    id: item.id,
    name: item.label,
    kind: item.kind,
    facts,
    proofs: await proofsOf(engine, item),
    look,
    late,
    homes: fitsOf(engine.belonging, item).map((fit) => ({ id: fit.home, title: titles.get(fit.home) ?? "", why: fit.why })),
    outOfSight: item.worktop === "desktop" ? isOutOfSight(engine, item) : undefined,
  };
}

async function proofsOf(engine: Engine, item: Item): Promise<ThingView["proofs"]> {
  const proofs: ThingView["proofs"] = [];
  const shown = (path: string) => fromAccount(engine.account, path);
  if (item.facts.dead) proofs.push({ title: "leads nowhere", text: `${shown(item.facts.dead)} was looked for and is not there` });
  else if (item.facts.leadsTo) proofs.push({ title: "leads to", text: shown(item.facts.leadsTo) });
  if (item.sha256) {
    const twins = engine.db
      .prepare<[string, string, string], number>(
        `SELECT (SELECT count(*) FROM item WHERE sha256 = ? AND id <> ? AND worktop IS NOT NULL AND seen = 1)
              + (SELECT count(*) FROM filed WHERE sha256 = ?)`,
      )
      .pluck()
      .get(item.sha256, item.id, item.sha256)!;
    if (twins > 0)
      proofs.push({
        title: "identical elsewhere",
        text: `${engine.words().counted(twins, "other file has", "other files have")} the same SHA-256`,
      });
  }
  const compared = comparedInWords(engine, item);
  if (compared) proofs.push({ title: "unpacked beside it", text: compared });
  const use = useOf(engine.disk, item.path, await engine.inUse.lately());
  proofs.push(
    use
      ? { title: "in use", text: `${use}; it will be left alone` }
      : { title: "no program we can see has it open", text: item.kindWhy },
  );
  return proofs;
}

/** What a sitting came to: how many things lay there before and after, and what left. */
export async function sittingEnd(engine: Engine, sitting: string): Promise<SittingEnd> {
  await givenSoFar(engine);
  const { db } = engine;
  const entries = db
    .prepare<[string], number>("SELECT count(*) FROM entry WHERE sitting = ? AND target = id AND state = 'done'")
    .pluck()
    .get(sitting)!;
  const went = { stay: 0, wait: 0, "put away": 0, archive: 0, "let go": 0 };
  let freed = 0;
  for (const { items, verdict } of settledIn(engine, sitting)) {
    went[verdict] += items.length;
    if (verdict === "put away" || verdict === "let go") freed += items.reduce((sum, { bytes }) => sum + bytes, 0);
  }
  const left = went["put away"] + went["let go"];
  const settled = Object.values(went).reduce((sum, n) => sum + n, 0);
  const after = engine.account.worktops.reduce((sum, w) => sum + itemsOn(db, w.id).length, 0);
  const parcel = collecting(engine)?.[1].title;
  return { before: after + left, after, freed: engine.words().bytes(freed), settled, went, parcel, entries };
}
