import { opened } from "@/server/opened";
import { surveyView } from "@/server/survey/view";
import { Survey } from "@/ui/survey/survey";

export default async function Page({ searchParams }: { searchParams: Promise<{ sheet?: string }> }) {
  const { engine } = await opened();
  const { sheet } = await searchParams;
  return engine && <Survey view={await surveyView(engine, sheet)} />;
}
