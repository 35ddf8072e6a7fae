import { reading } from "@/server/opened";
import { surveyView } from "@/server/survey/view";
import { Survey } from "@/ui/survey/survey";

export default async function Page({ searchParams }: { searchParams: Promise<{ sheet?: string }> }) {
  const { sheet } = await searchParams;
  const view = await reading((engine) => surveyView(engine, sheet));
  return view && <Survey view={view} />;
}
