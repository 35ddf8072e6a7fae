import { opened } from "@/server/opened";
import { quietView } from "@/server/quiet/view";
import { Quiet } from "@/ui/quiet/quiet";

export default async function Page() {
  const { engine } = await opened();
  return engine && <Quiet view={quietView(engine)} />;
}
