import { tellSitting } from "@/contract/told";
import { fromAccount } from "@/server/account";
import { reading } from "@/server/opened";
import { projects, projectsUnderWay } from "@/server/sitting/projects";
import { undecidedList, waiting } from "@/server/sitting/undecided";
import { sittingView } from "@/server/sitting/view";
import { Projects } from "@/ui/sitting/projects";
import { Sitting } from "@/ui/sitting/sitting";
import { Undecided } from "@/ui/sitting/undecided";

export default async function Page({ searchParams }: { searchParams: Promise<{ of?: string; sheet?: string }> }) {
  const { of, sheet } = await searchParams;
  if (sheet === "undecided") {
    const view = await reading((engine) => ({
      list: undecidedList(engine).map((one) => ({ ...one, path: fromAccount(engine.account, one.path) })),
      projects: projectsUnderWay(engine).length,
    }));
    return view && <Undecided {...view} />;
  }
  if (sheet === "projects") {
    const view = await reading((engine) => ({ list: projects(engine), waiting: waiting(engine).length }));
    return view && <Projects {...view} />;
  }
  const told = await reading(async (engine) => tellSitting(await sittingView(engine, of?.slice(0, 64))));
  return told && <Sitting told={told} />;
}
