"use client";
import { useEffect, useId, useRef, useState } from "react";
import { type CommandName, commandNames, commands, drawnKey, type Keys } from "@/core/settings/keys";
import { type AskProblem, ask } from "../kit/ask";
import { Beside } from "../kit/field";
import { Key } from "../kit/key";
import { useLive } from "../kit/live";

/** What each key does, and how it gets another. */
export function KeysToSet({ keys }: { keys: Keys }) {
  const live = useLive();
  const changed = commandNames.some((name) => keys[name] !== commands[name].key);
  return (
    <>
      <p className="mb-3 text-ink-2">
        Each is one key, pressed by itself. The arrows, Space, Enter, Esc and the numbers of the homes stay as they are.
      </p>
      <ul className="columns-2 gap-10 max-[760px]:columns-1">
        {commandNames.map((name) => (
          <KeyToSet key={name} name={name} at={keys[name]} />
        ))}
      </ul>
      <button type="button" className="doing mt-3" disabled={!changed} onClick={() => void live.act(ask("settings/key", {}))}>
        {changed ? "all as they were at first" : "all are as they were at first"}
      </button>
    </>
  );
}

function KeyToSet({ name, at }: { name: CommandName; at: string }) {
  const live = useLive();
  const id = useId();
  const [setting, setSetting] = useState(false);
  const [problem, setProblem] = useState<AskProblem>();
  const field = useRef<HTMLInputElement>(null);
  useEffect(() => {
    if (setting) field.current?.focus();
  }, [setting]);
  const { does } = commands[name];
  const give = (key?: string) =>
    void live.act(ask("settings/key", { command: name, key }), setProblem).then((report) => report && setSetting(false));
  return (
    <li className="break-inside-avoid border-b border-line py-1.5">
      <div className="flex items-center gap-3">
        <span className="w-9 shrink-0">
          {at === "" ? <span className="text-small text-ink-2">none</span> : <Key>{drawnKey(at)}</Key>}
        </span>
        <span className="min-w-0 flex-1">{does}</span>
        {setting ? (
          <label className="flex items-center gap-2 text-small text-ink-2">
            press the new key
            <input
              ref={field}
              className="w-9 border-b-[1.5px] border-ink bg-sheet text-center"
              aria-label={`the new key for ${does}`}
              aria-describedby={id}
              aria-invalid={problem !== undefined}
              maxLength={2}
              value=""
              onChange={(event) => give(event.target.value)}
              onKeyDown={(event) => event.key === "Escape" && setSetting(false)}
              onBlur={() => setSetting(false)}
            />
          </label>
        ) : (
          <button
            type="button"
            className="doing text-small"
            aria-label={`another key for ${does}`}
            onClick={() => {
              setProblem(undefined);
              setSetting(true);
            }}
          >
            another key
          </button>
        )}
        {at !== commands[name].key && !setting && (
          <button type="button" className="doing text-small" onClick={() => give()}>
            {drawnKey(commands[name].key)} again
          </button>
        )}
      </div>
      <Beside id={id} problem={problem} />
    </li>
  );
}
