import type { AddHomeInput } from "@/contract/homes";
import type { ReportJson } from "@/contract/items";
import { perform } from "../act";
import type { Engine } from "../engine";
import { homeMeant, homes, walkHomes } from "./homes";

/** Makes a home by its title, or takes an existing folder of the account as one. Answers its id too. */
export async function addHome(
  engine: Engine,
  input: AddHomeInput,
): Promise<ReportJson & { home: { id: string; title: string } }> {
  const { home } = homeMeant(engine, input.home);
  const report = await perform(
    engine,
    "Making a home",
    () => {
      const meant = homeMeant(engine, input.home);
      return { act: "add-home", words: () => `Made ${meant.home.title} a home`, steps: meant.steps, left: [] };
    },
    { trial: input.dryRun },
  );
  if (!input.dryRun && !homes(engine).some((h) => h.id === home.id)) await walkHomes(engine);
  return { ...report, home: { id: home.id, title: home.title } };
}
