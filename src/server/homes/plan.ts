import { filingPlan, type PlannedHome } from "@/core/homes/filing-plan";
import type { Engine } from "../engine";
import { homes } from "./homes";

/** The filing plan: all homes, each below the one it lies in, with what is too wide or too deep. */
export const planOfHomes = (engine: Engine): PlannedHome[] =>
  filingPlan(homes(engine).map(({ id, title, files }) => ({ id, parts: title.split(" / "), files })));
