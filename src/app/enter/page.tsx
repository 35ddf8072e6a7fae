import { linkStands } from "@/server/guard/guard";
import { Enter } from "@/ui/frame/enter";

export default async function Page({ searchParams }: { searchParams: Promise<{ link?: string; to?: string }> }) {
  const { link, to } = await searchParams;
  return <Enter link={link} to={to} stands={link !== undefined && linkStands(link, Date.now())} />;
}
