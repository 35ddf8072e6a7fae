import { randomUUID } from "node:crypto";
import type { MoveThingsInput, RenameParcelInput } from "@/contract/depots";
import type { ReportJson } from "@/contract/items";
import type { Json } from "@/core/ledger/shapes";
import type { Plan, Step } from "@/core/ledger/step";
import { Problem } from "@/core/problem";
import { perform } from "../act";
import { type ParcelRecord, readRecord, type VerdictRecord } from "../db/record";
import type { Engine } from "../engine";
import { collecting } from "../sitting/archive";
import { verdictStep } from "../sitting/verdict";
import { itemsNamed } from "../survey/items";
import { parcelMeant, parcels } from "./depots";
import { sendingRow } from "./sending-row";

/** Gives a parcel another title. The folder of one that was sent keeps its name in the depot. */
export async function renameParcel(engine: Engine, input: RenameParcelInput): Promise<ReportJson> {
  const parcel = await parcelMeant(engine, input.parcel);
  if (parcel.found) throw new Problem("parcel-stranger", { place: parcel.title });
  return perform(
    engine,
    "Renaming a parcel",
    () => {
      if (parcels(engine).some((other) => other.id !== parcel.id && other.title === input.title && other.state === "collecting"))
        throw new Problem("name-taken", { name: input.title });
      const key = `parcel:${parcel.id}`;
      const from = readRecord<Json>(engine.db, key);
      return {
        act: "parcel-rename",
        words: () => `Called the parcel “${parcel.title}” “${input.title}”`,
        steps: [{ type: "set", key, from, to: { ...(from as object), title: input.title } }],
        left: [],
      };
    },
    { trial: input.dryRun },
  );
}

/**
 * Puts things that are collected into another parcel, or out of all of them: then they have no verdict any more. One that is on
 * its way is closed.
 */
export function moveThings(engine: Engine, input: MoveThingsInput): Promise<ReportJson> {
  return perform(
    engine,
    "Moving things between parcels",
    () => {
      const { db } = engine;
      const items = itemsNamed(engine.db, input.items, "anywhere");
      const left: Plan["left"] = [];
      const steps: Step[] = [];
      let to: string | undefined;
      if (input.parcel !== undefined) {
        to = collecting(engine, input.parcel)?.[0];
        if (to === undefined) {
          to = randomUUID().slice(0, 8);
          const parcel: ParcelRecord = { title: input.parcel, depot: null, state: "collecting", madeAt: engine.now() };
          steps.push({ type: "set", key: `parcel:${to}`, from: null, to: { ...parcel }, shared: true });
        }
      }
      for (const item of items) {
        const now = readRecord<VerdictRecord>(db, `verdict:${item.id}`);
        const problem =
          now?.verdict !== "archive" || !now.parcel
            ? new Problem("not-collected", { name: item.label })
            : sendingRow(db, now.parcel)
              ? new Problem("on-its-way", { name: item.label })
              : undefined;
        if (problem) left.push({ name: item.label, item: item.id, code: problem.code, why: problem.message });
        else
          steps.push(
            to === undefined
              ? noVerdict(engine, item.id)
              : verdictStep(engine, item, { ...now, verdict: "archive", at: engine.now(), parcel: to }),
          );
      }
      const count = (n: number) => engine.words().counted(n, "thing");
      return {
        act: "parcel-move",
        words: (done) => {
          const n = done.filter((step) => step.type === "set" && step.key.startsWith("verdict:")).length;
          return input.parcel === undefined
            ? `Took ${count(n)} out of ${n === 1 ? "its" : "their"} parcel`
            : `Put ${count(n)} into the parcel “${input.parcel}”`;
        },
        steps: steps.some((step) => step.type === "set" && step.key.startsWith("verdict:")) ? steps : [],
        left,
      };
    },
    { trial: input.dryRun },
  );
}

const noVerdict = ({ db }: Engine, item: string): Step => {
  const key = `verdict:${item}`;
  return { type: "set", key, from: readRecord<Json>(db, key), to: null };
};
