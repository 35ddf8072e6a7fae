import { randomUUID } from "node:crypto";
import type { ReportJson } from "@/contract/items";
import type { ArchiveInput } from "@/contract/sitting";
import type { Plan, Step } from "@/core/ledger/step";
import { perform } from "../act";
import { type ParcelRecord, readRecords } from "../db/record";
import { sendingRows } from "../depots/sending-row";
import type { Engine, Reading } from "../engine";
import { type Item, itemsLying } from "../survey/items";
import { onceDecided, verdictStep } from "./verdict";

/** Things are collected in a parcel; they stay where they lie until it was sent and proven. */
export function archive(engine: Engine, input: ArchiveInput): Promise<ReportJson> {
  return perform(engine, "Collecting a parcel", () => planArchive(engine, input), { trial: input.dryRun, verdict: input });
}

/** The parcels that are collected, the latest first. One that is on its way takes no more. */
function open(engine: Reading): [id: string, parcel: ParcelRecord][] {
  const onTheirWay = new Set(sendingRows(engine.db).map(({ parcel }) => parcel));
  return [...readRecords<ParcelRecord>(engine.db, "parcel")]
    .filter(([id, parcel]) => parcel.state === "collecting" && !onTheirWay.has(id))
    .sort((a, b) => b[1].madeAt - a[1].madeAt);
}

/** The parcel that is being collected, by title, or the latest that was made for no things of its own. */
export const collecting = (engine: Reading, title?: string): [id: string, parcel: ParcelRecord] | undefined =>
  open(engine).find(([, parcel]) => (title === undefined ? !parcel.apart : parcel.title === title));

/** The titles of the parcels that are collected, the latest first; those that were made for things of their own come last. */
export const parcelsCollecting = (engine: Reading): string[] =>
  open(engine)
    .sort((a, b) => Number(a[1].apart ?? false) - Number(b[1].apart ?? false))
    .map(([, { title }]) => title);

/** The steps that collect things in the parcel of a title, or without one in the latest; it is made where there is none. */
export function collectSteps(
  engine: Reading,
  items: Item[],
  parcelTitle?: string,
  { fromHome, apart }: { fromHome?: true; apart?: true } = {},
): { title: string; steps: Step[] } {
  const steps: Step[] = [];
  let [id, parcel] = collecting(engine, parcelTitle) ?? [];
  if (!id || !parcel) {
    id = randomUUID().slice(0, 8);
    parcel = {
      title: freeTitle(engine, parcelTitle ?? `Archive ${new Date(engine.now()).getFullYear()}`),
      depot: null,
      state: "collecting",
      madeAt: engine.now(),
      ...(apart && { apart }),
    };
    steps.push({ type: "set", key: `parcel:${id}`, from: null, to: { ...parcel }, shared: true });
  }
  steps.push(
    ...items.map((item) =>
      verdictStep(engine, item, { verdict: "archive", at: engine.now(), parcel: id, ...(fromHome ? { fromHome } : {}) }),
    ),
  );
  return { title: parcel.title, steps };
}

/** A title that no parcel has that is still to be sent. */
function freeTitle(engine: Reading, wanted: string): string {
  const taken = new Set(
    [...readRecords<ParcelRecord>(engine.db, "parcel").values()].flatMap(({ title, state }) =>
      state === "collecting" ? [title] : [],
    ),
  );
  let title = wanted;
  for (let n = 2; taken.has(title); n++) title = `${wanted} (${n})`;
  return title;
}

function planArchive(engine: Reading, input: ArchiveInput): Plan {
  const { items, left } = onceDecided(engine, itemsLying(engine, input.items), input.sitting);
  const { title, steps } = collectSteps(engine, items, input.parcel);
  const named = items.length === 1 ? items[0]!.label : engine.words().counted(items.length, "thing");
  return { act: "archive", words: () => `Collected ${named} in the parcel “${title}”`, steps, left, sitting: input.sitting };
}
