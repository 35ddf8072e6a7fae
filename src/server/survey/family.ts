import type { FamilyAnswer, FamilyOnSheet } from "@/contract/survey";
import { type Family, familiesOf, type Joined } from "@/core/survey/families";
import type { Finding } from "@/core/survey/findings";
import type { Words } from "@/core/words/words";
import type { WorktopId } from "../account";
import type { Engine } from "../engine";
import { verdictsInForce } from "../sitting/verdict";
import { type Item, itemById, itemsIn, thingsOn } from "./items";
import { findings } from "./survey";

export const families = (items: readonly Item[], found: Finding[]): Family[] =>
  familiesOf(
    items.map(({ id, label, kind, arrivedAt }) => ({ id, label, kind, arrivedMs: arrivedAt })),
    found,
  );

/** What joins a family, as the words under which it is listed. */
export function joinedInWords(joined: Joined, words: Words): string {
  switch (joined.by) {
    case "proof":
      return joined.finding;
    case "name":
      return `named “${joined.stem}”`;
    case "arrival":
      return `came together on ${words.date(joined.at)}`;
    case "kind":
      return `of one kind: ${joined.kind}`;
    default:
      return joined satisfies never;
  }
}

/** What lies on a worktop, by what belongs together. */
export async function familiesOn(engine: Engine, worktop: WorktopId): Promise<FamilyOnSheet[]> {
  const words = engine.words();
  const found = await findings(engine);
  return families(thingsOn(engine.db, worktop), found).map(({ joined, items }) => ({ why: joinedInWords(joined, words), items }));
}

/**
 * The family of a thing among all that has no verdict yet, over both worktops, or in the opened folder in which it lies; null where
 * it is by itself.
 */
export async function family(engine: Engine, id: string): Promise<FamilyAnswer | null> {
  const found = await findings(engine);
  const words = engine.words();
  const verdicts = verdictsInForce(engine);
  const itself = itemById(engine.db, id);
  const lying =
    itself && !itself.worktop
      ? itemsIn(engine.db, itself.folder)
      : engine.account.worktops.flatMap((worktop) => thingsOn(engine.db, worktop.id));
  const items = lying.filter((item) => item.id === id || !verdicts.has(item.id));
  const its = families(items, found).find((one) => one.items.includes(id));
  if (!its || its.items.length < 2) return null;
  const { joined } = its;
  const proofs = new Map(
    joined.by === "proof"
      ? found.find(({ kind }) => kind === joined.finding)!.each.map(({ id: of, proof }) => [of, proof] as const)
      : [],
  );
  const byId = new Map(items.map((item) => [item.id, item]));
  return {
    why: joinedInWords(joined, words),
    settles: joined.by === "proof" ? joined.finding : null,
    each: its.items.map((of) => {
      const item = byId.get(of)!;
      return {
        id: of,
        name: item.label,
        proof: proofs.get(of) ?? `${item.kind}, last changed ${words.ago(item.mtimeMs)}`,
        size: words.bytes(item.bytes),
        worktop: item.worktop ?? "",
      };
    }),
  };
}
