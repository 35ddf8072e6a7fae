import { linkStands } from "@/server/guard/guard";
import { Enter } from "@/ui/frame/enter";

export default async function Page({ searchParams }: { searchParams: Promise<{ link?: string; to?: string }> }) {
  const { link, to } = await searchParams;
  return (
    <>
      <title>Vuoto</title>
      <link rel="icon" href="/icon.svg" type="image/svg+xml" />
      <Enter link={link} to={to} stands={link !== undefined && linkStands(link, Date.now())} />
    </>
  );
}
