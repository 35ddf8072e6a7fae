import { headers } from "next/headers";
import { opened } from "@/server/opened";
import { settingsView } from "@/server/settings/view";
import { Settings } from "@/ui/settings/settings";

export default async function Page() {
  const { engine } = await opened();
  return engine && <Settings view={settingsView(engine, await headers())} />;
}
