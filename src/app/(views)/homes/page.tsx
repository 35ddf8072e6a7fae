import { tellSweep } from "@/contract/told";
import { sweepSheets } from "@/contract/views";
import { sweepView } from "@/server/homes/view";
import { reading } from "@/server/opened";
import { Sweep } from "@/ui/homes/sweep";

export default async function Page({ searchParams }: { searchParams: Promise<{ home?: string; sheet?: string }> }) {
  const { home, sheet } = await searchParams;
  const known = sweepSheets.find((one) => one === sheet);
  const told = await reading((engine) => sweepView(engine, home, known).then(tellSweep));
  return told && <Sweep told={told} />;
}
