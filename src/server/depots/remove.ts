import type { RemoveDepotInput } from "@/contract/depots";
import type { ReportJson } from "@/contract/items";
import { Problem } from "@/core/problem";
import { perform } from "../act";
import { readRecord } from "../db/record";
import type { Engine } from "../engine";
import { depotMeant, parcelById } from "./depots";
import { sendingRows } from "./sending-row";
import { forgetSignIn } from "./sign-ins";

/** Takes a depot off the list. What lies in it stays there; a sign-in is forgotten. */
export async function removeDepot(engine: Engine, input: RemoveDepotInput): Promise<ReportJson> {
  const depot = depotMeant(engine, input.depot);
  const onItsWay = sendingRows(engine.db).find((row) => row.depot === depot.id && row.state !== "removing");
  if (onItsWay)
    throw new Problem("on-its-way", {
      name: depot.title,
      detail: `the parcel ${parcelById(engine, onItsWay.parcel)?.title ?? ""}`,
    });
  const report = await perform(
    engine,
    "Removing a depot",
    () => {
      const key = `depot:${depot.id}`;
      return {
        act: "remove-depot",
        words: () => `Took the depot ${depot.title} off the list`,
        steps: [{ type: "set", key, from: readRecord(engine.db, key), to: null }],
        left: [],
      };
    },
    { trial: input.dryRun },
  );
  if (report.entry !== null) forgetSignIn(engine.db, depot.id);
  return report;
}
