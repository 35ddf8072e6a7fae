import type { PileItem } from "@/contract/views";
import { dueFirst } from "@/core/sitting/order";
import { readRecords, type VerdictRecord } from "../db/record";
import { kept } from "../db/revision";
import type { Engine, Reading } from "../engine";
import { families, joinedInWords } from "../survey/family";
import { type Item, itemById, liesAbout, thingsOn } from "../survey/items";
import { findings } from "../survey/survey";
import { showsItself } from "../survey/tile";
import { verdictsInForce } from "./verdict";

/** What has no verdict in force, and what was put off of things in a folder and is due. */
export function undecided(engine: Engine): Item[] {
  const verdicts = verdictsInForce(engine);
  return [...lying(engine), ...dueInside(engine)].filter((item) => !verdicts.has(item.id));
}

const lying = ({ account, db }: Reading) => account.worktops.flatMap((worktop) => thingsOn(db, worktop.id));

/** What was put off and lies on no worktop, with its date: kept, as it is asked for with every frame. */
const putOffElsewhere = kept("put off elsewhere", ["record", "item"], (db): readonly { item: Item; until: number }[] => {
  const found: { item: Item; until: number }[] = [];
  for (const [id, { until }] of readRecords<VerdictRecord>(db, "verdict")) {
    const item = until === undefined ? undefined : itemById(db, id);
    if (item && until !== undefined && !item.worktop) found.push({ item, until });
  }
  return found;
});

/** What lies in a folder comes up by itself only once it was put off. */
const dueInside = (engine: Engine): Item[] =>
  putOffElsewhere(engine.db, "").flatMap(({ item, until }) =>
    until <= engine.now() && liesAbout(engine, item.path) && engine.disk.identity(item.path) ? [item] : [],
  );

const byName = new Intl.Collator("en", { numeric: true });

export const byKind = (a: Item, b: Item): number =>
  (a.kind < b.kind ? -1 : a.kind > b.kind ? 1 : 0) || byName.compare(a.label, b.label);

/** A pile: what is due first, then family by family, then single things so that like follows like. */
export interface PileNow {
  items: Item[];
  /** What joins each family, in words. */
  families: string[];
  /** The number of a thing's family, from one on. */
  familyOf: ReadonlyMap<string, number>;
  /** When what was put off was to come up again. */
  due: ReadonlyMap<string, number>;
}

export const pileOf = (engine: Engine): Promise<PileNow> => pileFrom(engine, undecided(engine));

/** A pile of these. */
export async function pileFrom(engine: Engine, lying: readonly Item[]): Promise<PileNow> {
  const found = await findings(engine);
  const words = engine.words();
  const items = [...lying];
  const verdicts = readRecords<VerdictRecord>(engine.db, "verdict");
  const due = new Map<string, number>();
  for (const { id } of items) {
    const until = verdicts.get(id)?.until;
    if (until !== undefined) due.set(id, until);
  }
  const joined = families(items, found);
  const familyOf = new Map(joined.flatMap(({ items: of }, n) => of.map((id) => [id, n + 1] as const)));
  const rank = (item: Item) => familyOf.get(item.id) ?? joined.length + 1;
  items.sort((a, b) => dueFirst({ due: due.get(a.id) }, { due: due.get(b.id) }) || rank(a) - rank(b) || byKind(a, b));
  return { items, families: joined.map(({ joined: by }) => joinedInWords(by, words)), familyOf, due };
}

/** A thing of the pile. */
export const inPile = (item: Item, pile?: PileNow): PileItem => ({
  id: item.id,
  name: item.label,
  kind: item.kind,
  bytes: item.bytes,
  picture: showsItself(item),
  // To the second: no view says it finer.
  mtimeMs: Math.floor(item.mtimeMs / 1000) * 1000,
  worktop: item.worktop ?? "",
  family: pile?.familyOf.get(item.id),
  due: pile?.due.get(item.id),
});
