import { opened } from "@/server/opened";
import { sittingView } from "@/server/sitting/view";
import { Sitting } from "@/ui/sitting/sitting";

export default async function Page({ searchParams }: { searchParams: Promise<{ of?: string }> }) {
  const { engine } = await opened();
  const { of } = await searchParams;
  return engine && <Sitting view={await sittingView(engine, of?.slice(0, 64))} />;
}
