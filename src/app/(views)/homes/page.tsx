import { sweepSheets } from "@/contract/views";
import { sweepView } from "@/server/homes/view";
import { opened } from "@/server/opened";
import { Sweep } from "@/ui/homes/sweep";

export default async function Page({ searchParams }: { searchParams: Promise<{ home?: string; sheet?: string }> }) {
  const { engine } = await opened();
  const { home, sheet } = await searchParams;
  const known = sweepSheets.find((one) => one === sheet);
  return engine && <Sweep view={sweepView(engine, home, known)} />;
}
