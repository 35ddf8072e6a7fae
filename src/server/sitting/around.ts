import type { SittingAround } from "@/contract/views";
import type { Engine } from "../engine";
import { collecting, parcelsCollecting } from "./archive";
import { notes } from "./note";
import { projectsUnderWay } from "./projects";
import { waiting } from "./undecided";

/** What stands around the pile of a sitting. */
export const aroundNow = (engine: Engine): SittingAround => ({
  parcels: parcelsCollecting(engine),
  parcel: collecting(engine)?.[1].title ?? null,
  projects: projectsUnderWay(engine).map(({ title }) => title),
  notes: notes(engine).home,
  waiting: waiting(engine).length,
});
