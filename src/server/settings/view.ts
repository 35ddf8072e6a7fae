import type { SettingsView } from "@/contract/views";
import type { Reading } from "../engine";
import { tokenIn } from "../guard/guard";
import { findSession, sessions } from "../guard/sessions";

/** What can be set: the browsers that are let in. */
export function settingsView(engine: Reading, headers: Headers): SettingsView {
  const token = tokenIn({ method: "GET", headers });
  return { sessions: sessions(engine, token && findSession(engine.db, engine.now(), token)) };
}
