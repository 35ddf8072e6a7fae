import { headers } from "next/headers";
import { reading } from "@/server/opened";
import { settingsView } from "@/server/settings/view";
import { Settings } from "@/ui/settings/settings";

export default async function Page() {
  const view = await reading(async (engine) => settingsView(engine, await headers()));
  return view && <Settings view={view} />;
}
