import { quietView } from "@/server/quiet/view";
import { opened } from "@/server/opened";
import { Quiet } from "@/ui/quiet/quiet";

export default async function Page() {
  const { engine } = await opened();
  return engine && <Quiet view={quietView(engine)} />;
}
