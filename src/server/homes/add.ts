import type { AddHomesInput } from "@/contract/homes";
import type { ReportJson } from "@/contract/items";
import type { Plan } from "@/core/ledger/step";
import { perform } from "../act";
import type { Engine } from "../engine";
import { homeMeant, homes, newSteps, walkHomes } from "./homes";

/** Makes homes by their titles, or takes existing folders of the account as such, as one act. Answers their ids too. */
export async function addHomes(
  engine: Engine,
  input: AddHomesInput,
): Promise<ReportJson & { homes: { id: string; title: string }[] }> {
  const meant = input.homes.map((ref) => homeMeant(engine, ref).home);
  const report = await perform(engine, "Making homes", () => planHomes(engine, input), { trial: input.dryRun });
  const known = new Set(homes(engine).map((home) => home.id));
  if (!input.dryRun && meant.some((home) => !known.has(home.id))) await walkHomes(engine);
  return { ...report, homes: meant.map(({ id, title }) => ({ id, title })) };
}

function planHomes(engine: Engine, input: AddHomesInput): Plan {
  const made = input.homes.map((ref) => homeMeant(engine, ref));
  const named = made.length === 1 ? `${made[0]!.home.title} a home` : engine.words().counted(made.length, "home");
  return { act: "add-home", words: () => `Made ${named}`, steps: newSteps(made.flatMap(({ steps }) => steps)), left: [] };
}
