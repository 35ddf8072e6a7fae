import { depotsView } from "@/server/depots/view";
import { opened } from "@/server/opened";
import { Depots } from "@/ui/depots/depots";

export default async function Page() {
  const { engine } = await opened();
  return engine && <Depots view={depotsView(engine)} />;
}
