import { reading } from "@/server/opened";
import { sittingView } from "@/server/sitting/view";
import { Sitting } from "@/ui/sitting/sitting";

export default async function Page({ searchParams }: { searchParams: Promise<{ of?: string }> }) {
  const { of } = await searchParams;
  const view = await reading((engine) => sittingView(engine, of?.slice(0, 64)));
  return view && <Sitting view={view} />;
}
