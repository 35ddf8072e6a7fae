import { ledgerView } from "@/server/ledger/view";
import { reading } from "@/server/opened";
import { Ledger } from "@/ui/ledger/ledger";

export default async function Page({ searchParams }: { searchParams: Promise<{ sheet?: string; before?: string }> }) {
  const view = await reading(async (engine) => ledgerView(engine, await searchParams));
  return view && <Ledger view={view} />;
}
