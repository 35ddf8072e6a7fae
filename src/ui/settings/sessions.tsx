"use client";
import { useRouter } from "next/navigation";
import type { SessionLine } from "@/contract/guard";
import { ask } from "../kit/ask";
import { useLive } from "../kit/live";

/** The browsers that are let in, each to be shut out again. */
export function Sessions({ sessions }: { sessions: SessionLine[] }) {
  const live = useLive();
  const router = useRouter();
  const end = (session?: string) => void ask("guard/end", { session }).then(() => router.refresh(), live.say);
  return (
    <>
      <ul>
        {sessions.map(({ id, browser, made, used, own }) => (
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
    </>
  );
}
