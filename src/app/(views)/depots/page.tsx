import { depotsView } from "@/server/depots/view";
import { reading } from "@/server/opened";
import { Depots } from "@/ui/depots/depots";

export default async function Page() {
  const view = await reading((engine) => depotsView(engine));
  return view && <Depots view={view} />;
}
