import { randomUUID } from "node:crypto";
import type { ReportJson } from "@/contract/items";
import type { EndProjectInput, ProjectAnswer } from "@/contract/sitting";
import type { Plan, Step } from "@/core/ledger/step";
import { shownName } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import { perform } from "../act";
import { type ProjectRecord, readRecords, type VerdictRecord } from "../db/record";
import type { Engine, Reading } from "../engine";
import { type Item, itemById, liesAbout } from "../survey/items";
import { collectSteps } from "./archive";

interface Project extends ProjectRecord {
  id: string;
}

const same = (a: string, b: string) => a.localeCompare(b, undefined, { sensitivity: "base" }) === 0;

/** What is under way, the latest begun first. */
export function projectsUnderWay({ db }: Pick<Reading, "db">): Project[] {
  return [...readRecords<ProjectRecord>(db, "project")]
    .flatMap(([id, project]) => (project.endedAt === undefined ? [{ id, ...project }] : []))
    .sort((a, b) => b.startedAt - a.startedAt);
}

/** The project of that title that is under way; one that is not yet, with the step that begins it. */
export function projectMeant(engine: Reading, title: string): { id: string; title: string; steps: Step[] } {
  const known = projectsUnderWay(engine).find((project) => same(project.title, title));
  if (known) return { id: known.id, title: known.title, steps: [] };
  const id = randomUUID().slice(0, 8);
  return { id, title, steps: [{ type: "set", key: `project:${id}`, from: null, to: { title, startedAt: engine.now() } }] };
}

/** The things that stay for a project, as far as they still lie about. */
function thingsOfProject(engine: Engine, id: string): Item[] {
  const items: Item[] = [];
  for (const [of, verdict] of readRecords<VerdictRecord>(engine.db, "verdict")) {
    if (verdict.project !== id) continue;
    const item = itemById(engine.db, of);
    if (item && (item.worktop || liesAbout(engine, item.path)) && engine.disk.identity(item.path)) items.push(item);
  }
  return items.sort((a, b) => a.label.localeCompare(b.label));
}

export const projects = (engine: Engine): ProjectAnswer[] =>
  projectsUnderWay(engine).map(({ id, title, startedAt }) => ({
    title,
    since: new Date(startedAt).toISOString(),
    things: thingsOfProject(engine, id).map((item) => ({
      id: item.id,
      name: item.label,
      path: shownName(item.path),
      bytes: item.bytes,
    })),
  }));

/** Ends a project: its things come up again, or, with `archive`, are collected as a whole in a parcel of its title. */
export function endProject(engine: Engine, input: EndProjectInput): Promise<ReportJson> {
  return perform(engine, "Ending a project", () => planEnd(engine, input), { trial: input.dryRun });
}

function planEnd(engine: Engine, { project: title, archive }: EndProjectInput): Plan {
  const project = projectsUnderWay(engine).find((one) => same(one.title, title));
  if (!project) throw new Problem("unknown-project", { name: title });
  const { id, ...record } = project;
  const things = thingsOfProject(engine, id);
  const counted = engine.words().counted(things.length, "thing");
  const steps: Step[] = [
    {
      type: "set",
      key: `project:${id}`,
      from: { ...record },
      to: { ...record, endedAt: engine.now(), things: things.map((item) => item.id) },
    },
  ];
  if (archive && things.length === 0) throw new Problem("parcel-empty", { name: project.title });
  if (archive) steps.push(...collectSteps(engine, things, project.title, { apart: true }).steps);
  const becomes = archive
    ? `and collected its ${counted} in a parcel`
    : things.length === 0
      ? "of which nothing lies there any more"
      : `whose ${counted} ${things.length === 1 ? "comes" : "come"} up again`;
  return { act: "end-project", words: () => `Ended the project “${project.title}”, ${becomes}`, steps, left: [] };
}
