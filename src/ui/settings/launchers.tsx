"use client";
import type { SettingsView } from "@/contract/settings";
import { ask } from "../kit/ask";
import { useLive } from "../kit/live";

/** What Vuoto puts among the person's programs, where they want it. */
export function Launchers({ launchers }: { launchers: SettingsView["launchers"] }) {
  const live = useLive();
  return (
    <ul>
      {launchers.map(({ which, name, there }) => (
        <li key={which} className="flex items-baseline gap-5 border-b border-line py-2">
          <span className="min-w-0 flex-1 font-semibold">{name}</span>
          <span className="text-ink-2">{there ? "stands among your programs" : "is not there"}</span>
          <button type="button" className="doing" onClick={() => void live.act(ask("settings/launcher", { which, away: there }))}>
            {there ? "take it away" : "put it there"}
            <span className="sr-only">: {name}</span>
          </button>
        </li>
      ))}
    </ul>
  );
}
