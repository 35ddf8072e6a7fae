import { tellSitting } from "@/contract/told";
import { fromAccount } from "@/server/account";
import { reading } from "@/server/opened";
import { projects } from "@/server/sitting/projects";
import { undecidedList } from "@/server/sitting/undecided";
import { sittingView } from "@/server/sitting/view";
import { Projects } from "@/ui/sitting/projects";
import { Sitting } from "@/ui/sitting/sitting";
import { Undecided } from "@/ui/sitting/undecided";

export default async function Page({ searchParams }: { searchParams: Promise<{ of?: string; sheet?: string }> }) {
  const { of, sheet } = await searchParams;
  if (sheet === "undecided" || sheet === "projects") {
    const lists = await reading(async (engine) => ({
      list: undecidedList(engine).map((one) => ({ ...one, path: fromAccount(engine.account, one.path) })),
      under: projects(engine),
    }));
    if (!lists) return lists;
    return sheet === "undecided" ? (
      <Undecided list={lists.list} projects={lists.under.length} />
    ) : (
      <Projects list={lists.under} waiting={lists.list.length} />
    );
  }
  const told = await reading(async (engine) => tellSitting(await sittingView(engine, of?.slice(0, 64))));
  return told && <Sitting told={told} />;
}
