import { ledgerView } from "@/server/ledger/view";
import { opened } from "@/server/opened";
import { Ledger } from "@/ui/ledger/ledger";

export default async function Page({ searchParams }: { searchParams: Promise<{ sheet?: string; before?: string }> }) {
  const { engine } = await opened();
  return engine && <Ledger view={ledgerView(engine, await searchParams)} />;
}
