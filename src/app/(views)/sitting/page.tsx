import { tellSitting } from "@/contract/told";
import { reading } from "@/server/opened";
import { sittingView } from "@/server/sitting/view";
import { Sitting } from "@/ui/sitting/sitting";

export default async function Page({ searchParams }: { searchParams: Promise<{ of?: string }> }) {
  const { of } = await searchParams;
  const told = await reading(async (engine) => tellSitting(await sittingView(engine, of?.slice(0, 64))));
  return told && <Sitting told={told} />;
}
