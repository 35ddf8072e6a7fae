import { tellLedger } from "@/contract/told";
import { ledgerView } from "@/server/ledger/view";
import { reading } from "@/server/opened";
import { Ledger } from "@/ui/ledger/ledger";

export default async function Page({
  searchParams,
}: {
  searchParams: Promise<{ sheet?: string; before?: string; word?: string }>;
}) {
  const told = await reading(async (engine) => tellLedger(ledgerView(engine, await searchParams)));
  return told && <Ledger told={told} />;
}
