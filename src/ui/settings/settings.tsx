"use client";
import type { ReactNode } from "react";
import type { SettingsView } from "@/contract/settings";
import { LeftOut } from "../survey/left-out";
import { Protected } from "../survey/places";
import { KeysToSet } from "./keys";
import { Launchers } from "./launchers";
import { Leaving } from "./leaving";
import { RecordKept } from "./record-kept";
import { ScreenSize } from "./screen-size";
import { Sessions } from "./sessions";

/** The only places in which anything is made, changed or taken away. */
function Writes({ writes }: Pick<SettingsView, "writes">) {
  return (
    <>
      <p className="mb-3 text-ink-2">Nowhere else is anything made, changed or taken away, whatever is asked.</p>
      <ul className="border-y border-line text-small">
        {writes.map(({ place, why }) => (
          <li key={place} className="flex items-baseline gap-4 border-b border-line py-1 last:border-0">
            <bdi className="min-w-0 flex-1 font-mono break-all">{place}</bdi>
            <span className="text-ink-2">{why}</span>
          </li>
        ))}
      </ul>
    </>
  );
}

/** What can be set: one sheet after the other. */
export function Settings({ view }: { view: SettingsView }) {
  const sections: [id: string, title: string, content: ReactNode][] = [
    ["keys", "The keys", <KeysToSet key="keys" keys={view.keys} />],
    ["screen", "The screen", <ScreenSize key="screen" screen={view.screen} />],
    ["protected", "Places that are protected", <Protected key="protected" />],
    ["left-out", "What is not looked into", <LeftOut key="left-out" />],
    ["launchers", "Among your programs", <Launchers key="launchers" launchers={view.launchers} />],
    ["sessions", "Browsers that are let in", <Sessions key="sessions" sessions={view.sessions} />],
    ["record", "What Vuoto keeps", <RecordKept key="record" record={view.record} pictures={view.pictures} />],
    ["leaving", "Leaving", <Leaving key="leaving" />],
    ["writes", "Where Vuoto may write", <Writes key="writes" writes={view.writes} />],
  ];
  return (
    <div className="mx-auto max-w-[880px] px-7 pt-5 pb-8">
      <h1 className="text-say leading-tight font-medium">Settings</h1>
      <p className="mt-2 mb-7 flex flex-wrap gap-x-5 gap-y-1">
        {sections.map(([id, title]) => (
          <a key={id} href={`#${id}`} className="doing">
            {title}
          </a>
        ))}
      </p>
      {sections.map(([id, title, content]) => (
        <section key={id} aria-labelledby={id} className="mb-9">
          <h2 id={id} className="mb-3 scroll-mt-4 border-b-2 border-ink pb-2 text-name font-[650]">
            {title}
          </h2>
          {content}
        </section>
      ))}
    </div>
  );
}
