"use client";
import { useEffect, useRef, useState } from "react";
import type { QuietView } from "@/contract/views";
import { Link } from "../kit/link";
import { useLive } from "../kit/live";

/** How a key of one's own, in any desktop that starts commands, takes everything away and brings it back; and whether it does. */
export function OwnKey({ view }: { view: QuietView }) {
  const live = useLive();
  const [copied, setCopied] = useState(false);
  // What was pressed before this page was opened is no answer to it.
  const before = useRef(view.pressed?.entry ?? 0);
  const pressed = view.pressed && view.pressed.entry > before.current ? view.pressed : undefined;
  const [when, setWhen] = useState<string>();
  const entry = pressed?.entry;
  useEffect(() => {
    if (entry !== undefined) setWhen(new Date().toLocaleTimeString());
  }, [entry]);
  const { command } = view;
  const copy = () => {
    if (command === undefined) return;
    navigator.clipboard.writeText(command).then(
      () => setCopied(true),
      () => live.say(new Error("The browser does not let it be copied. Mark the line, and copy it by hand.")),
    );
  };
  return (
    <div className="mx-auto h-full max-w-[780px] overflow-auto px-7 pt-6 pb-8">
      <p className="mb-2 text-small">
        <Link className="doing" href="/quiet">
          back to quiet
        </Link>
      </p>
      <h1 className="mb-4 text-say leading-tight font-medium">A key of your own, from within any program</h1>
      <p className="max-w-[62ch] text-ink-2">
        Most desktops can start a command with a key. Look in their settings for the keyboard, add a key for a command, and give
        it this line:
      </p>
      {command === undefined ? (
        <p className="mt-3 mb-2 border-y border-line py-3">
          The folder of this account has a name that cannot stand in a command. Give the key a small script that starts Vuoto's
          command with it.
        </p>
      ) : (
        <div className="mt-3 mb-2 flex items-start gap-4 border-y border-line py-3">
          <code className="min-w-0 flex-1 font-mono text-small break-all select-all">{command}</code>
          <button type="button" className="go" onClick={copy}>
            {copied ? "Copied" : "Copy"}
          </button>
        </div>
      )}
      <p className="max-w-[62ch] text-small text-ink-2">
        It takes everything out of sight, and given again it brings everything back. It works while Vuoto runs, and while it does
        not, then a moment slower. A launcher that does the same can be put among your programs, in{" "}
        <Link className="doing" href="/settings">
          settings
        </Link>
        .
      </p>
      <h2 className="mt-8 mb-2 border-b border-ink pb-2 font-semibold">Does it arrive?</h2>
      <div role="status" aria-live="polite" className="min-h-[72px]">
        {pressed ? (
          <p className="border-l-4 border-verdigris pl-3">
            <b className="block text-name font-semibold">It arrived{when ? `, at ${when}` : ""}.</b>
            <span className="text-ink-2">{pressed.words}. Press it again to go back.</span>
          </p>
        ) : (
          <p className="text-ink-2">
            Press your key now. As soon as it arrives it is said here. If nothing happens, the line was not taken whole, or the
            desktop has another use for that key.
          </p>
        )}
      </div>
    </div>
  );
}
