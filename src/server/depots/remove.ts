import type { RemoveDepotInput } from "@/contract/depots";
import type { ReportJson } from "@/contract/items";
import { perform } from "../act";
import { readRecord } from "../db/record";
import type { Engine } from "../engine";
import { depotMeant } from "./depots";

/** Takes a depot off the list. What lies in it stays there. */
export function removeDepot(engine: Engine, input: RemoveDepotInput): Promise<ReportJson> {
  return perform(
    engine,
    "Removing a depot",
    () => {
      const depot = depotMeant(engine, input.depot);
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
}
