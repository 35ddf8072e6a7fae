import { randomUUID } from "node:crypto";
import type { ReportJson } from "@/contract/items";
import type { ArchiveInput } from "@/contract/sitting";
import type { Plan, Step } from "@/core/ledger/step";
import { perform } from "../act";
import { type ParcelRecord, readRecords } from "../db/record";
import type { Engine, Reading } from "../engine";
import { type Item, itemsLying } from "../survey/items";
import { onceDecided, verdictStep } from "./verdict";

/** Things are collected in a parcel; they stay where they lie until it was sent and proven. */
export function archive(engine: Engine, input: ArchiveInput): Promise<ReportJson> {
  return perform(engine, "Collecting a parcel", () => planArchive(engine, input), { trial: input.dryRun, verdict: input });
}

/** The parcel that is being collected, by title or the latest. */
export function collecting(engine: Reading, title?: string): [id: string, parcel: ParcelRecord] | undefined {
  return [...readRecords<ParcelRecord>(engine.db, "parcel")]
    .filter(([, parcel]) => parcel.state === "collecting" && (title === undefined || parcel.title === title))
    .sort((a, b) => b[1].madeAt - a[1].madeAt)[0];
}

/** The titles of the parcels that are collected, the latest first. */
export const parcelsCollecting = (engine: Reading): string[] =>
  [...readRecords<ParcelRecord>(engine.db, "parcel").values()]
    .filter(({ state }) => state === "collecting")
    .sort((a, b) => b.madeAt - a.madeAt)
    .map(({ title }) => title);

/** The steps that collect things in the parcel of a title, or without one in the latest; it is made where there is none. */
export function collectSteps(engine: Reading, items: Item[], parcelTitle?: string): { title: string; steps: Step[] } {
  const steps: Step[] = [];
  let [id, parcel] = collecting(engine, parcelTitle) ?? [];
  if (!id || !parcel) {
    id = randomUUID().slice(0, 8);
    parcel = {
      title: parcelTitle ?? `Archive ${new Date(engine.now()).getFullYear()}`,
      depot: null,
      state: "collecting",
      madeAt: engine.now(),
    };
    steps.push({ type: "set", key: `parcel:${id}`, from: null, to: { ...parcel }, shared: true });
  }
  steps.push(...items.map((item) => verdictStep(engine, item, { verdict: "archive", at: engine.now(), parcel: id })));
  return { title: parcel.title, steps };
}

function planArchive(engine: Reading, input: ArchiveInput): Plan {
  const { items, left } = onceDecided(engine, itemsLying(engine, input.items), input.sitting);
  const { title, steps } = collectSteps(engine, items, input.parcel);
  const named = items.length === 1 ? items[0]!.label : engine.words().counted(items.length, "thing");
  return { act: "archive", words: () => `Collected ${named} in the parcel “${title}”`, steps, left, sitting: input.sitting };
}
