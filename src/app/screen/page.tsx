import { cookieName } from "@/server/guard/guard";
import { opened } from "@/server/opened";
import { quietView } from "@/server/quiet/view";
import { CannotOpen } from "@/ui/frame/cannot-open";
import { FullScreen } from "@/ui/quiet/full-screen";

export default async function Page() {
  const { engine, problem } = await opened();
  if (!engine) return <CannotOpen title={problem.title} remedy={problem.remedy} />;
  const after = engine.events.last;
  return <FullScreen view={quietView(engine)} after={after} stream={cookieName()} />;
}
