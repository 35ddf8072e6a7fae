import type { RemoveDepotInput } from "@/contract/depots";
import type { ReportJson } from "@/contract/items";
import { perform } from "../act";
import { readRecord } from "../db/record";
import type { Engine } from "../engine";
import { depotMeant } from "./depots";
import { expectNoneOnItsWay, sendingRows } from "./sending-row";
import { forgetSignIn } from "./sign-ins";

/** Takes a depot off the list. What lies in it stays there; a sign-in is forgotten. */
export async function removeDepot(engine: Engine, input: RemoveDepotInput): Promise<ReportJson> {
  const depot = depotMeant(engine, input.depot);
  expectNoneOnItsWay(engine.db, depot.id);
  // What was sent of a parcel that is not to go there goes first, where the depot is in reach.
  if (!input.dryRun)
    for (const row of sendingRows(engine.db))
      if (row.depot === depot.id && row.state === "removing") await engine.sendings.removed(row.parcel);
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
