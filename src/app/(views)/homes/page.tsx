import { sweepView } from "@/server/homes/view";
import { opened } from "@/server/opened";
import { Sweep } from "@/ui/homes/sweep";

export default async function Page({ searchParams }: { searchParams: Promise<{ home?: string }> }) {
  const { engine } = await opened();
  const { home } = await searchParams;
  return engine && <Sweep view={sweepView(engine, home)} />;
}
