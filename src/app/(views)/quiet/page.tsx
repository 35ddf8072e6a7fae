import { reading } from "@/server/opened";
import { quietView } from "@/server/quiet/view";
import { Quiet } from "@/ui/quiet/quiet";

export default async function Page() {
  const view = await reading((engine) => quietView(engine));
  return view && <Quiet view={view} />;
}
