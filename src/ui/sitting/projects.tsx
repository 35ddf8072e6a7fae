"use client";
import { useRouter } from "next/navigation";
import type { ProjectAnswer } from "@/contract/sitting";
import { ask } from "../kit/ask";
import { useLive } from "../kit/live";
import { Name } from "../kit/name";
import { useWords } from "../kit/words";
import { SheetsOfSitting } from "./sheets";

const named = 12;

/** The projects under way, with what stays for each; ended, its things come up again, or are archived as a whole. */
export function Projects({ list, waiting }: { list: ProjectAnswer[]; waiting: number }) {
  const live = useLive();
  const words = useWords();
  const router = useRouter();
  const end = (project: string, archive: boolean) =>
    void live.act(ask("sitting/end-project", { project, archive })).then(() => router.refresh());
  return (
    <div className="mx-auto flex h-full max-w-[1100px] flex-col px-7 pt-4">
      <SheetsOfSitting now="projects" waiting={waiting} projects={list.length} />
      <h1 className="mb-3 text-say leading-tight font-medium">
        {list.length === 0
          ? "No project is under way."
          : `${words.counted(list.length, "project")} ${list.length === 1 ? "is" : "are"} under way.`}
      </h1>
      <ul tabIndex={0} aria-label="projects" className="min-h-0 flex-1 overflow-auto border-t-2 border-ink">
        {list.length === 0 && (
          <li className="py-3 text-ink-2">
            What belongs to something under way can stay for it: in a sitting, stay until, or while. It comes up again once that
            has ended.
          </li>
        )}
        {list.map(({ title, since, things }) => (
          <li key={title} className="border-b border-line py-3">
            <div className="flex items-baseline gap-6">
              <h2 className="text-name font-semibold">{title}</h2>
              <span className="text-small text-ink-2">
                since {words.date(Date.parse(since))}, {words.counted(things.length, "thing")},{" "}
                {words.bytes(things.reduce((sum, { bytes }) => sum + bytes, 0))}
              </span>
              <span className="ml-auto flex gap-5 text-small">
                <button type="button" className="doing" onClick={() => end(title, false)}>
                  it has ended
                </button>
                {things.length > 0 && (
                  <button type="button" className="doing" onClick={() => end(title, true)}>
                    ended: archive it as a whole
                  </button>
                )}
              </span>
            </div>
            <p className="mt-1 flex flex-wrap gap-x-4 text-small text-ink-2">
              {things.slice(0, named).map(({ id, name }) => (
                <Name key={id} className="max-w-64">
                  {name}
                </Name>
              ))}
              {things.length > named && <span>and {things.length - named} more</span>}
              {things.length === 0 && "Nothing of it lies there any more."}
            </p>
          </li>
        ))}
      </ul>
    </div>
  );
}
