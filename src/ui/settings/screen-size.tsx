"use client";
import { type FormEvent, useId, useState } from "react";
import type { SettingsView } from "@/contract/settings";
import { iconSizes } from "@/core/screen/state";
import { type AskProblem, ask } from "../kit/ask";
import { Beside } from "../kit/field";
import { useLive } from "../kit/live";

/** How the desktop is drawn here, and what quiet does on this screen. */
export function ScreenSize({ screen }: { screen: SettingsView["screen"] }) {
  const live = useLive();
  const id = useId();
  const [now, setNow] = useState({ width: String(screen.width), height: String(screen.height), icon: screen.icon });
  const [problem, setProblem] = useState<AskProblem>();
  const set = (part: Partial<typeof now>) => {
    setProblem(undefined);
    setNow({ ...now, ...part });
  };
  const same = Number(now.width) === screen.width && Number(now.height) === screen.height && now.icon === screen.icon;
  const give = (event: FormEvent) => {
    event.preventDefault();
    const [width, height] = [Number(now.width), Number(now.height)];
    const icon = iconSizes.find((size) => size === now.icon) ?? 64;
    void live.act(ask("settings/screen", { width, height, icon }), setProblem);
  };
  const pixels = (label: string, part: "width" | "height") => (
    <label className="flex items-baseline gap-2">
      {label}
      <input
        type="number"
        className="field w-24"
        aria-describedby={id}
        value={now[part]}
        onChange={(event) => set({ [part]: event.target.value })}
      />
    </label>
  );
  return (
    <>
      <fieldset className="mb-4">
        <legend className="sr-only">What draws the desktop</legend>
        {screen.choice.map(({ name, title, sentence, caution, cannot, unfit, byCommandAlone, commands, pointers }) => (
          <label key={name} className="flex items-start gap-3 border-b border-line py-2">
            <input
              type="radio"
              name="screen"
              className="mt-1 accent-verdigris"
              checked={screen.name === name}
              disabled={byCommandAlone && screen.name !== name}
              onChange={() => void live.act(ask("settings/use-screen", { name }))}
            />
            <span>
              <b className="font-semibold">{title}</b>
              <span className="block text-ink-2">{caution ? `${sentence} ${caution}` : sentence}</span>
              {byCommandAlone && (
                <span className="block text-ink-2">
                  {unfit ?? (
                    <>
                      It is chosen with <code className="font-mono">vuoto screen use {name}</code>.
                    </>
                  )}
                </span>
              )}
              {commands?.map(({ does, line }) => (
                <span key={does} className="flex gap-2 font-mono text-small">
                  <span className="w-12 shrink-0 text-ink-2">{does}</span>
                  <span className="min-w-0 break-all">{line}</span>
                </span>
              ))}
              {pointers && <span className="block text-ink-2">{pointers}</span>}
              {cannot > 0 && (
                <span className="block text-ink-2">
                  {cannot === 1 ? "1 thing stays" : `${cannot} things stay`} in sight on it: an end of line is in the name.
                </span>
              )}
            </span>
          </label>
        ))}
      </fieldset>
      <form onSubmit={give}>
        <p className="mb-3 text-ink-2">
          {screen.name === "simulated"
            ? "Vuoto draws this one: say how large it is to be."
            : "Vuoto cannot ask how large it is. Say it, and the plan is drawn to scale."}
        </p>
        <div className="flex flex-wrap items-baseline gap-x-6 gap-y-3">
          {pixels("wide", "width")}
          {pixels("high", "height")}
          <label className="flex items-baseline gap-2">
            icons of
            <select
              className="border-b-[1.5px] border-ink bg-sheet px-2 py-1 text-ink"
              value={now.icon}
              onChange={(event) => set({ icon: Number(event.target.value) })}
            >
              {iconSizes.map((size) => (
                <option key={size} value={size}>
                  {size}
                </option>
              ))}
            </select>
            pixels
          </label>
          <button type="submit" className="doing" disabled={same}>
            draw it like this
          </button>
        </div>
        <Beside id={id} problem={problem} />
      </form>
    </>
  );
}
