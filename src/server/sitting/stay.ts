import type { ReportJson } from "@/contract/items";
import type { StayInput } from "@/contract/sitting";
import { perform } from "../act";
import type { VerdictRecord } from "../db/record";
import type { Engine } from "../engine";
import { itemsNamed } from "../survey/items";
import { projectMeant } from "./projects";
import { onceDecided, verdictStep } from "./verdict";

/** Things stay where they lie, on purpose: for good, until a date, or while a project is under way. */
export function stay(engine: Engine, input: StayInput): Promise<ReportJson> {
  return perform(
    engine,
    "Leaving things",
    () => {
      const { items, left } = onceDecided(engine, itemsNamed(engine.db, input.items, "anywhere"), input.sitting);
      const named = items.length === 1 ? items[0]!.label : engine.words().counted(items.length, "thing");
      const until = input.until === undefined ? "" : ` until ${engine.words().date(input.until)}`;
      const project = input.project === undefined ? undefined : projectMeant(engine, input.project);
      const during = project ? ` while “${project.title}” is under way` : "";
      const verdict: VerdictRecord = { verdict: "stay", at: engine.now(), until: input.until, project: project?.id };
      return {
        act: "stay",
        words: () => `Left ${named} where ${items.length === 1 ? "it lies" : "they lie"}${until}${during}`,
        steps: [...(project?.steps ?? []), ...items.map((item) => verdictStep(engine, item, verdict))],
        left,
        sitting: input.sitting,
      };
    },
    { trial: input.dryRun, verdict: input },
  );
}
