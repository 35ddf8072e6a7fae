import { tellQuiet } from "@/contract/told";
import { frameView } from "@/server/frame";
import { opened } from "@/server/opened";
import { quietView, withoutNames } from "@/server/quiet/view";
import { CannotOpen } from "@/ui/frame/cannot-open";
import { FullScreen } from "@/ui/quiet/full-screen";

export default async function Page() {
  const { engine, problem } = await opened();
  if (!engine) return <CannotOpen title={problem.title} remedy={problem.remedy} />;
  // First what was heard of until then: what happens while the rest is read is heard of after.
  const frame = frameView(engine);
  const view = quietView(engine);
  return <FullScreen told={tellQuiet(frame.sharing ? withoutNames(view) : view)} frame={frame} />;
}
