"use client";
import { useRouter } from "next/navigation";
import type { SettingsView } from "@/contract/views";
import { ask } from "../kit/ask";
import { useLive } from "../kit/live";

/** What can be set. */
export function Settings({ view }: { view: SettingsView }) {
  return (
    <div className="mx-auto max-w-[880px] px-7 pt-5 pb-8">
      <h1 className="mb-6 text-say leading-tight font-medium">Settings</h1>
      <Sessions view={view} />
    </div>
  );
}

function Sessions({ view }: { view: SettingsView }) {
  const live = useLive();
  const router = useRouter();
  const end = (session?: string) =>
    void ask<"guard/end", { ended: number }>("guard/end", { session }).then(() => router.refresh(), live.say);
  return (
    <section aria-labelledby="sessions">
      <h2 id="sessions" className="border-b-2 border-ink pb-2 text-name font-[650]">
        Browsers that are let in
      </h2>
      <ul>
        {view.sessions.map(({ id, browser, made, used, own }) => (
          <li key={id} className="flex items-baseline gap-5 border-b border-line py-2.5">
            <span className="min-w-0 flex-1">
              <span className="font-semibold">{browser}</span>
              {own && <span className="text-ink-2"> (this one)</span>}
            </span>
            <span className="text-ink-2">let in {made}</span>
            <span className="text-ink-2">used {used}</span>
            <button type="button" className="doing" aria-label={`shut out ${browser}, let in ${made}`} onClick={() => end(id)}>
              shut out
            </button>
          </li>
        ))}
      </ul>
      <p className="mt-3 flex items-start gap-8 text-ink-2">
        <span className="max-w-[560px] flex-1">
          Each got in by a link that works once. It stays let in until it was not used for thirty days. Whoever is shut out needs
          a fresh link: open Vuoto from your programs, or with the command{" "}
          <code className="font-mono whitespace-nowrap">vuoto open</code>.
        </span>
        <button type="button" className="doing ml-auto" onClick={() => end()}>
          shut all out, this one too
        </button>
      </p>
    </section>
  );
}
