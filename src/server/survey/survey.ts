import type { ProvenThing, SurveyAnswer } from "@/contract/survey";
import type { Point } from "@/core/ledger/shapes";
import { shownPlace } from "@/core/ledger/step-type";
import { folderOf, isWithin, joinRaw, nameOf, type Raw, rawFromBytes, shownName } from "@/core/names/raw";
import type { ScreenSize } from "@/core/screen/state";
import type { TimeLeft } from "@/core/sitting/pace";
import { boxesAt, coveredArea, laidByAge, overlapping } from "@/core/survey/figures";
import { type Finding, type FindingKind, type Found, findingsOf } from "@/core/survey/findings";
import type { Kind } from "@/core/survey/kinds";
import { fromAccount, type Worktop, type WorktopId } from "../account";
import { readScreen } from "../db/record";
import { useOf } from "../disk/in-use";
import type { Engine } from "../engine";
import { screenOf } from "../screen/screens";
import { outOfSight } from "../screen/sight";
import { timeToClear } from "../sitting/pace";
import { verdictsInForce } from "../sitting/verdict";
import { type Item, itemById, itemsOn, thingsOn } from "./items";
import { elsewhere, nowhereElse } from "./protection";
import { unpackedOf } from "./spent";

/** What lies on a worktop, and where. */
export interface Lying {
  worktop: Worktop;
  items: readonly Item[];
  /** Where each item is drawn, in pixels of the screen. */
  points: Map<string, Point>;
  /** Whether these are the screen's own positions; else the sheet is laid out by age. */
  positioned: boolean;
  screen: ScreenSize;
  /** The height of what is drawn, in pixels; the screen's own where positioned. */
  height: number;
  outOfSight: Set<string>;
}

export interface Sheet extends Lying {
  hollows: { count: number; spots: Point[] };
  figures: {
    items: number;
    bytes: number;
    coveredShare: number | null;
    overlapping: Set<string> | null;
    /** Whether what lies in some of the folders is not counted yet. */
    counting: boolean;
    /** Things without a verdict, and how long these will take; null before there is a pace. */
    undecided: number;
    timeToClear: TimeLeft | null;
  };
}

/** The share of the screen that icons at these points cover with their labels, from 0 to 1. */
export const coveredShareOf = (points: Point[], screen: ScreenSize): number =>
  coveredArea(
    points.flatMap((at) => boxesAt(at, screen)),
    screen,
  ) /
  (screen.width * screen.height);

/** A folder that no walk has counted yet; what is left out or cannot be read never will be. */
export const isBeingCounted = ({ unwalked }: Engine, item: Item): boolean =>
  !item.counted && !item.facts.closed && !unwalked.some(({ folder }) => folder === item.path);

/** Where the things of a worktop lie on its sheet. */
export function placesOn(engine: Engine, worktop: Worktop): Lying {
  const items = itemsOn(engine.db, worktop.id);
  const screen = screenOf(engine);
  const { shown, size } = readScreen(engine.db);
  const given = worktop.id === "desktop" ? screen.positions(engine, items) : undefined;
  const away = worktop.id === "desktop" ? outOfSight(engine, items, shown) : new Set<string>();
  if (given) return { worktop, items, points: given, positioned: true, screen: size, height: size.height, outOfSight: away };
  const laid = laidByAge(items, size);
  const points = new Map(items.map((item, n) => [item.id, laid.points[n]!]));
  return {
    worktop,
    items,
    points,
    positioned: false,
    screen: size,
    height: Math.max(size.height, laid.height),
    outOfSight: away,
  };
}

/** The same with its figures, and without hollows, which clutter nothing. Share and overlaps are of what is in sight, and only where positions are known. */
export function sheetOf(engine: Engine, worktop: Worktop): Sheet {
  const all = placesOn(engine, worktop);
  const items = thingsOn(engine.db, worktop.id);
  const lying = { ...all, items };
  const { outOfSight, screen } = lying;
  const verdicts = verdictsInForce(engine);
  const undecided = items.filter((item) => !verdicts.has(item.id));
  const figures: Sheet["figures"] = {
    items: items.length,
    bytes: items.reduce((sum, item) => sum + item.bytes, 0),
    coveredShare: null,
    overlapping: null,
    counting: items.some((item) => isBeingCounted(engine, item)),
    undecided: undecided.length,
    timeToClear: timeToClear(engine, undecided) ?? null,
  };
  if (lying.positioned) {
    const seen = items.filter((item) => !outOfSight.has(item.id));
    const points = seen.map((item) => lying.points.get(item.id)!);
    figures.coveredShare = coveredShareOf(points, screen);
    const over = overlapping(points, screen);
    figures.overlapping = new Set(seen.filter((_, n) => over.has(n)).map((item) => item.id));
  }
  const things = new Set(items);
  const hollows = all.items.filter((item) => !things.has(item));
  const spots = all.positioned ? hollows.map(({ id }) => all.points.get(id)!) : [];
  return { ...lying, figures, hollows: { count: hollows.length, spots } };
}

/** The findings over both worktops. */
export async function findings(engine: Engine): Promise<Finding[]> {
  const using = await engine.inUse.lately();
  const items = engine.account.worktops.flatMap((worktop) => thingsOn(engine.db, worktop.id));
  const known = elsewhere(engine);
  const verdicts = verdictsInForce(engine);
  const filed = engine.db
    .prepare<[], { sha256: string; folder: Buffer; name: Buffer; home: number }>(
      `SELECT sha256, folder, name, home FROM filed_at WHERE sha256 IN
       (SELECT sha256 FROM item WHERE worktop IS NOT NULL AND seen = 1 AND sha256 IS NOT NULL)`,
    )
    .all()
    // One in a folder on a worktop is a copy too, if a weaker one; what lies in a backup is none to do without.
    .filter(({ home, folder }) => home === 1 || engine.account.worktops.some((w) => isWithin(w.folder, rawFromBytes(folder))))
    .sort((a, b) => a.home - b.home);
  return findingsOf(
    items.map((item) => ({
      id: item.id,
      kind: item.kind,
      label: item.label,
      where: item.worktop === "desktop" ? "on the desktop" : "in downloads",
      folder: item.identity.type === "folder",
      bytes: item.bytes,
      mtimeMs: item.mtimeMs,
      arrivedMs: item.arrivedAt,
      openedMs: item.openedAt,
      sha256: item.sha256,
      dead: item.facts.dead && fromAccount(engine.account, item.facts.dead),
      entries: item.facts.entries,
      inUse: useOf(engine.disk, item.path, using, { ...item.identity, dev: item.dev }),
      unpacked: unpackedOf(engine, item),
      inside: insideOf(engine, item),
      elsewhere: known?.get(item.id),
      decided: verdicts.has(item.id),
    })),
    filed.map((file) => {
      const folder = rawFromBytes(file.folder);
      const place = joinRaw(folder, rawFromBytes(file.name));
      return { sha256: file.sha256, label: `${shownName(nameOf(place))} in ${shownPlace(folder, engine.account.root)}`, place };
    }),
    engine.now(),
  );
}

function insideOf({ inside, account }: Engine, { path }: Item) {
  const found = inside.get(path);
  const other = found && shownPlace(folderOf(found.other), account.root);
  return found && { ...found, name: shownName(found.name), other: `${shownName(nameOf(found.other))} in ${other}` };
}

/** The things that a finding is about now, each with its own proof. */
export async function findingInDetail(engine: Engine, kind: FindingKind): Promise<ProvenThing[]> {
  const words = engine.words();
  const found = (await findings(engine)).find((finding) => finding.kind === kind);
  return (found?.each ?? []).flatMap(({ id, proof }) => {
    const item = itemById(engine.db, id);
    return item ? [{ id, proof, name: item.label, size: words.bytes(item.bytes), worktop: item.worktop ?? "" }] : [];
  });
}

/** The survey as data, for the command line. */
export async function survey(engine: Engine, input: { worktop?: WorktopId } = {}): Promise<SurveyAnswer> {
  const found = await findings(engine);
  const sheets = engine.account.worktops.map((worktop) => sheetOf(engine, worktop));
  const paths = new Map(sheets.flatMap((sheet) => sheet.items.map((item) => [item.id, shownName(item.path)])));
  return {
    account: shownName(engine.account.root),
    worktops: sheets
      .filter((sheet) => input.worktop === undefined || sheet.worktop.id === input.worktop)
      .map(({ worktop, items, points, positioned, figures }) => ({
        id: worktop.id,
        path: shownName(worktop.folder),
        figures: {
          items: figures.items,
          bytes: figures.bytes,
          coveredShare: figures.coveredShare,
          overlapping: figures.overlapping?.size ?? null,
          nowhereElse: nowhereElse(engine, worktop.id)?.length ?? null,
          minutesToClear: figures.timeToClear === null ? null : figures.timeToClear.ms / 60_000,
          kinds: totalsOf(items),
          hidden: engine.hidden.get(worktop.id) ?? 0,
        },
        items: items.map((item) => ({
          id: item.id,
          name: item.label,
          path: shownName(joinRaw(item.folder, item.name)),
          kind: item.kind,
          bytes: item.bytes,
          modifiedAt: new Date(item.mtimeMs).toISOString(),
          position: positioned ? points.get(item.id) : undefined,
        })),
      })),
    findings: found.map((finding) => ({
      kind: finding.kind,
      items: finding.each.flatMap(({ id }) => paths.get(id) ?? []),
      proof: finding.proof,
      proofs: finding.each.flatMap(({ id, proof }) => (paths.has(id) ? [proof] : [])),
      stays: finding.each.flatMap(({ id, stays }) => (paths.has(id) ? [placeOf(stays, paths)] : [])),
      wins: finding.wins,
    })),
  };
}

/** Things and bytes of each kind, the largest first. */
function totalsOf(items: readonly Item[]) {
  const totals = new Map<Kind, { kind: Kind; items: number; bytes: number }>();
  for (const { kind, bytes } of items) {
    const total = totals.get(kind) ?? { kind, items: 0, bytes: 0 };
    totals.set(kind, { kind, items: total.items + 1, bytes: total.bytes + bytes });
  }
  return [...totals.values()].sort((a, b) => b.bytes - a.bytes || b.items - a.items);
}

/** The path of what stays for a twin, as shown. */
function placeOf(stays: Found["stays"], paths: ReadonlyMap<string, string>): string | null {
  if (!stays) return null;
  return "id" in stays ? (paths.get(stays.id) ?? null) : shownName(stays.place as Raw);
}
