import { opened } from "@/server/opened";
import { sittingView } from "@/server/sitting/view";
import { Sitting } from "@/ui/sitting/sitting";

export default async function Page() {
  const { engine } = await opened();
  return engine && <Sitting view={await sittingView(engine)} />;
}
