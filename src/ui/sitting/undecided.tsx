"use client";
import { useRouter } from "next/navigation";
import { useState } from "react";
import type { UndecidedAnswer } from "@/contract/sitting";
import { ask } from "../kit/ask";
import { Link } from "../kit/link";
import { useLive } from "../kit/live";
import { LongList } from "../kit/long-list";
import { Name } from "../kit/name";
import { useWords } from "../kit/words";
import { SheetsOfSitting } from "./sheets";
import { Until } from "./until";

/** What waits for a later verdict: since when and until when, those that are due first. */
export function Undecided({ list, projects }: { list: UndecidedAnswer[]; projects: number }) {
  const live = useLive();
  const words = useWords();
  const router = useRouter();
  const [changing, setChanging] = useState<UndecidedAnswer>();
  const due = list.filter((one) => one.due && one.state !== "gone").length;
  const decide = (item: string, until: number) =>
    void live.act(ask("sitting/wait", { items: [item], until })).then(() => router.refresh());
  return (
    <div className="mx-auto flex h-full max-w-[1100px] flex-col px-7 pt-4">
      <SheetsOfSitting now="undecided" waiting={list.length} projects={projects} />
      <div className="mb-3 flex items-baseline gap-6">
        <h1 className="text-say leading-tight font-medium">
          {list.length === 0
            ? "Nothing waits for a later verdict."
            : due > 0
              ? `${words.counted(due, "thing")} ${due === 1 ? "is" : "are"} due of ${words.count(list.length)} that wait.`
              : `${words.counted(list.length, "thing")} ${list.length === 1 ? "waits" : "wait"}; none is due.`}
        </h1>
        {due > 0 && (
          <Link className="doing" href="/sitting">
            decide
          </Link>
        )}
      </div>
      {list.length === 0 ? (
        <p className="border-t-2 border-ink py-3 text-ink-2">
          In a sitting, a thing that you are not sure about yet can wait: it comes up again on its date.
        </p>
      ) : (
        <div className="flex min-h-0 flex-1 flex-col border-t-2 border-ink">
          <LongList label="what waits" rowHeight={52} list={list}>
            {(one) => (
              <div className="grid h-full grid-cols-[minmax(0,1fr)_15rem_7rem] items-center gap-5 border-b border-line">
                <div className="min-w-0">
                  <Name className="block truncate font-semibold">{one.name}</Name>
                  <span className="block truncate text-small text-ink-2">
                    {one.state === "gone" ? "It is no longer there: somebody moved, renamed or deleted it." : one.path}
                    {one.state === "changed" && " · changed since"}
                  </span>
                </div>
                <span className="text-small">
                  <b className="block font-semibold">
                    {one.due ? "due since" : "until"} {words.date(Date.parse(one.until))}
                  </b>
                  <span className="text-ink-2">waits since {words.date(Date.parse(one.since))}</span>
                </span>
                {one.state !== "gone" && (
                  <button type="button" className="doing justify-self-end text-small" onClick={() => setChanging(one)}>
                    another date
                  </button>
                )}
              </div>
            )}
          </LongList>
        </div>
      )}
      {changing && (
        <Until
          verdict="wait"
          onClose={() => setChanging(undefined)}
          onPick={(until) => {
            decide(changing.id, until);
            setChanging(undefined);
          }}
        />
      )}
    </div>
  );
}
