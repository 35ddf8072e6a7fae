import { randomUUID } from "node:crypto";
import type { SettledView, SittingEnd, SittingView, ThingView } from "@/contract/views";
import { shownPlace } from "@/core/ledger/step-type";
import { Problem } from "@/core/problem";
import { inWords } from "@/core/sitting/pace";
import type { Words } from "@/core/words/words";
import { fromAccount } from "../account";
import { readRecord, readScreen, type VerdictRecord } from "../db/record";
import { useOf } from "../disk/in-use";
import type { Engine, Reading } from "../engine";
import { fitsOf } from "../homes/belonging";
import { homes } from "../homes/homes";
import { factsOf } from "../looks/facts";
import { lookOf, lookSoon } from "../looks/looks";
import { isOutOfSight } from "../quiet/quiet";
import { type DayFigures, figuresNow } from "../survey/figures-of-day";
import { type Item, itemById, itemsSettledIn, liesAbout } from "../survey/items";
import { protectionOf } from "../survey/protection";
import { comparedInWords } from "../survey/spent";
import { isBeingCounted } from "../survey/survey";
import { parcelsCollecting } from "./archive";
import { aroundNow } from "./around";
import { before, placesNow, sittingBefore } from "./before";
import { givenSoFar } from "./give";
import { timesTaken, timeToClear } from "./pace";
import { inPile, pileOf } from "./pile";

const verdictOf: Partial<Record<string, SettledView["verdict"]>> = {
  put: "put away",
  sweep: "put away",
  stay: "stay",
  wait: "wait",
  archive: "archive",
  note: "note",
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
  const pile = await pileOf(engine);
  const [first] = pile.items;
  return {
    sitting: of ?? randomUUID(),
    settled: of ? settledIn(engine, of) : [],
    pile: pile.items.map((item) => inPile(item, pile)),
    families: pile.families,
    first: first && (await thing(engine, first.id)),
    around: aroundNow(engine),
    times: timesTaken(engine).map(({ kind, ms }) => [kind, ms]),
    before: lastTime(engine, pile.items, of),
  };
}

/** Where the person stopped last time, and what is left, in one sentence. */
function lastTime(engine: Engine, left: readonly Item[], of?: string): string | undefined {
  const last = sittingBefore(engine, of);
  if (!last || left.length === 0) return undefined;
  const words = engine.words();
  const time = timeToClear(engine, left);
  const rest = `${words.count(left.length)} ${left.length === 1 ? "is" : "are"} left${time ? `, ${inWords(time, words)} at your pace` : ""}`;
  return `The last sitting, ${words.ago(last.at)}, settled ${words.count(last.settled)} and ended with ${last.last}; ${rest}.`;
}

/** One thing: what it looks like, its facts, what is known about it, and the homes that fit. */
export async function thing(engine: Engine, id: string, wait?: boolean): Promise<ThingView> {
  const item = itemById(engine.db, id);
  if (!item || !(item.worktop || liesAbout(engine, item.path)) || !engine.disk.identity(item.path))
    throw new Problem("unknown-item", { name: item?.label });
  return viewOf(engine, item, wait);
}

/** The same of a thing wherever it lies. */
export async function viewOf(engine: Engine, item: Item, wait?: boolean): Promise<ThingView> {
  const words = engine.words();
  const known = new Map(homes(engine).map((home) => [home.id, home]));
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
  facts.push(whereIs(engine, item), `last changed ${words.ago(item.mtimeMs)}`);
  const use = useOf(engine.disk, item.path, await engine.inUse.lately());
  return {
    id: item.id,
    name: item.label,
    kind: item.kind,
    facts,
    proofs: proofsOf(engine, item, use),
    look,
    late,
    inUse: use,
    program: item.identity.type === "file" && !engine.account.sample && look.form !== "link" && look.form !== "shortcut",
    folder: item.identity.type === "folder" && !item.facts.closed,
    homes: fitsOf(engine.belonging, item).map((fit) => {
      const home = known.get(fit.home);
      const synchronised = home && protectionOf(engine, home.folder) === "synchronised";
      return { id: fit.home, title: home?.title ?? "", why: fit.why, ...(synchronised ? { synchronised } : {}) };
    }),
    outOfSight: item.worktop === "desktop" ? isOutOfSight(engine, item) : undefined,
  };
}

function whereIs({ account }: Engine, { worktop, folder }: Item): string {
  if (worktop === "desktop") return "on the desktop";
  return worktop === "downloads" ? "in downloads" : `in ${shownPlace(folder, account.root)}`;
}

function proofsOf(engine: Engine, item: Item, use: string | undefined): ThingView["proofs"] {
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
        text: `${engine.words().counted(twins, "other file has", "other files have")} the same content, to the last byte`,
      });
  }
  const compared = comparedInWords(engine, item);
  if (compared) proofs.push({ title: "unpacked beside it", text: compared });
  const verdict = readRecord<VerdictRecord>(engine.db, `verdict:${item.id}`);
  if (verdict?.until !== undefined && verdict.until <= engine.now())
    proofs.push({
      title: "due",
      text: `it ${verdict.verdict === "wait" ? "waited" : "stayed"} since ${engine.words().date(verdict.since ?? verdict.at)}, until ${engine.words().date(verdict.until)}`,
    });
  proofs.push(
    use
      ? { title: "in use", text: `${use}; it will be left alone` }
      : { title: "not open in any program", text: "as far as can be seen from here" },
    { title: "why it is taken for this kind", text: item.kindWhy },
  );
  return proofs;
}

/** What a sitting came to: what lay there before and after, and where everything went. */
export async function sittingEnd(engine: Engine, sitting: string): Promise<SittingEnd> {
  await givenSoFar(engine);
  const { db } = engine;
  const words = engine.words();
  const entries = db
    .prepare<[string], number>("SELECT count(*) FROM entry WHERE sitting = ? AND target = id AND state = 'done'")
    .pluck()
    .get(sitting)!;
  const went = { stay: 0, wait: 0, "put away": 0, archive: 0, note: 0, "let go": 0 };
  const verdicts = new Map<string, SettledView["verdict"]>();
  for (const { items, verdict } of settledIn(engine, sitting)) {
    went[verdict] += items.length;
    for (const { id } of items) verdicts.set(id, verdict);
  }
  const settled = Object.values(went).reduce((sum, n) => sum + n, 0);
  const lay = before(engine, sitting);
  const [then, now] = [total(lay?.figures ?? {}), total(figuresNow(engine))];
  const places = placesNow(engine);
  const { width, height, icon } = readScreen(engine.db).size;
  return {
    won: wonIn(then, now, words),
    drawn:
      lay?.places && places
        ? {
            width,
            height,
            icon,
            before: lay.places.map(([id, x, y]) => ({ x, y, verdict: verdicts.get(id) })),
            after: places.map(([, x, y]) => ({ x, y })),
          }
        : undefined,
    before: then.items,
    after: now.items,
    settled,
    went,
    parcel: parcelsCollecting(engine)[0],
    entries,
  };
}

/** The figures of all worktops together; a share of the screen is the desktop's alone. */
function total(figures: Partial<Record<string, DayFigures>>): DayFigures {
  const each = Object.values(figures).filter((one) => one !== undefined);
  const sum = (of: (one: DayFigures) => number | null) =>
    each.some((one) => of(one) !== null) ? each.reduce((all, one) => all + (of(one) ?? 0), 0) : null;
  return {
    items: sum((one) => one.items) ?? 0,
    bytes: sum((one) => one.bytes) ?? 0,
    coveredShare: sum((one) => one.coveredShare),
    overlapping: sum((one) => one.overlapping),
    nowhereElse: sum((one) => one.nowhereElse),
  };
}

/** What was won, in the survey's figures: a line for each, before and after. */
function wonIn(then: DayFigures, now: DayFigures, words: Words): SittingEnd["won"] {
  const lines: SittingEnd["won"] = [
    { figure: "things", before: words.count(then.items), after: words.count(now.items) },
    { figure: "together", before: words.bytes(then.bytes), after: words.bytes(now.bytes) },
  ];
  const more = (figure: string, before: number | null, after: number | null, say: (n: number) => string) => {
    if (before !== null && after !== null) lines.push({ figure, before: say(before), after: say(after) });
  };
  more("of the screen covered", then.coveredShare, now.coveredShare, words.share);
  more("overlapping", then.overlapping, now.overlapping, words.count);
  more("nowhere else", then.nowhereElse, now.nowhereElse, words.count);
  return lines;
}
