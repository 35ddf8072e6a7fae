import { tellQuiet } from "@/contract/told";
import { reading } from "@/server/opened";
import { quietView } from "@/server/quiet/view";
import { Quiet } from "@/ui/quiet/quiet";

export default async function Page({ searchParams }: { searchParams: Promise<{ sheet?: string }> }) {
  const { sheet } = await searchParams;
  const told = await reading((engine) => tellQuiet(quietView(engine)));
  return told && <Quiet told={told} sheet={sheet} />;
}
