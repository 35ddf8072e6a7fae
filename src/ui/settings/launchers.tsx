"use client";
import type { LauncherState, SettingsView } from "@/contract/settings";
import { ask } from "../kit/ask";
import { useLive } from "../kit/live";

/** What Vuoto puts among the person's programs, where they want it. */
export function Launchers({ launchers }: { launchers: SettingsView["launchers"] }) {
  const live = useLive();
  return (
    <ul>
      {launchers.map(({ which, name, state }) => {
        const give = (away: boolean) => void live.act(ask("settings/launcher", { which, away }));
        return (
          <li key={which} className="flex items-baseline gap-5 border-b border-line py-2">
            <span className="min-w-0 flex-1 font-semibold">{name}</span>
            <span className="text-ink-2">{stateWords(which, state)}</span>
            {(state === "none" || state === "changed") && (
              <button type="button" className="doing" onClick={() => give(false)}>
                {state === "none" ? "put it there" : "make it anew"}
                <span className="sr-only">: {name}</span>
              </button>
            )}
            {(state === "as made" || state === "changed") && (
              <button type="button" className="doing" onClick={() => give(true)}>
                take it away<span className="sr-only">: {name}</span>
              </button>
            )}
          </li>
        );
      })}
    </ul>
  );
}

function stateWords(which: SettingsView["launchers"][number]["which"], state: LauncherState): string {
  const words: Record<LauncherState, string> = {
    none: "is not there",
    "as made": which === "at log-in" ? "is started when you log in" : "stands among your programs",
    changed: "is there, and was changed since",
    "another's": "another program has that name",
  };
  return words[state];
}
