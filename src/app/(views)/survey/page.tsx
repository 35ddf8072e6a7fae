import { tellSurvey } from "@/contract/told";
import { reading } from "@/server/opened";
import { surveyView } from "@/server/survey/view";
import { Survey } from "@/ui/survey/survey";

export default async function Page({ searchParams }: { searchParams: Promise<{ sheet?: string }> }) {
  const { sheet } = await searchParams;
  const told = await reading(async (engine) => tellSurvey(await surveyView(engine, sheet)));
  return told && <Survey told={told} />;
}
