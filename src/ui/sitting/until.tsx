"use client";
import { useEffect, useState } from "react";
import { Dialog } from "../kit/dialog";
import { useWords } from "../kit/words";

const day = 86_400_000;
const soon = [
  ["a week", 7],
  ["a month", 30],
  ["three months", 91],
  ["a year", 365],
] as const;

type DayFromWords = (text: string, now: number) => number | undefined;

/** Reading dates from words is loaded when they are typed. */
function useDay(text: string): number | undefined | "reading" {
  const [read, setRead] = useState<{ by: DayFromWords }>();
  useEffect(() => {
    let wanted = true;
    void import("@/core/sitting/dates").then(({ dayFromWords }) => wanted && setRead({ by: dayFromWords }));
    return () => {
      wanted = false;
    };
  }, []);
  if (text.trim() === "") return undefined;
  return read ? read.by(text, Date.now()) : "reading";
}

/** A date in words, shown as a date before Enter; or one of a few; and, of what stays, a project. */
export function Until({
  verdict,
  onClose,
  onPick,
  projects,
  onProject,
}: {
  verdict: "wait" | "stay";
  onClose: () => void;
  onPick: (until: number) => void;
  projects?: string[];
  onProject?: (title: string) => void;
}) {
  const words = useWords();
  const [text, setText] = useState("");
  const [project, setProject] = useState("");
  const at = useDay(text);
  const title = verdict === "wait" ? "Wait until" : "Stay until, or while";
  return (
    <Dialog open onClose={onClose} title={title}>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          if (typeof at === "number") onPick(at);
        }}
      >
        <label className="block">
          a day, in words
          <input
            className="field mt-1"
            value={text}
            data-first
            autoComplete="off"
            placeholder="friday, in two weeks, 1 march"
            onChange={(event) => setText(event.target.value)}
          />
        </label>
        <p role="status" className="mt-2 mb-3 min-h-6 text-ink-2">
          {typeof at === "number" ? (
            <>
              That is <b className="font-semibold text-ink">{words.date(at)}</b>.
            </>
          ) : text.trim() !== "" && at === undefined ? (
            "That is not a day in the future."
          ) : null}
        </p>
        <p className="flex flex-wrap items-baseline gap-x-5 gap-y-2">
          <button type="submit" className="go" disabled={typeof at !== "number"}>
            {verdict === "wait" ? "Wait until then" : "Stay until then"}
          </button>
          {soon.map(([said, days]) => (
            <button key={said} type="button" className="doing" onClick={() => onPick(Date.now() + days * day)}>
              {said}
            </button>
          ))}
        </p>
      </form>
      {onProject && (
        <form
          className="mt-5 border-t border-line pt-4"
          onSubmit={(event) => {
            event.preventDefault();
            if (project.trim()) onProject(project.trim());
          }}
        >
          <label className="block">
            or while a project is under way
            <input
              className="field mt-1"
              value={project}
              maxLength={120}
              autoComplete="off"
              placeholder="its title"
              onChange={(event) => setProject(event.target.value)}
            />
          </label>
          <p className="mt-3 flex flex-wrap items-baseline gap-x-5 gap-y-2">
            <button type="submit" className="go" disabled={project.trim() === ""}>
              Stay for it
            </button>
            {projects?.map((one) => (
              <button key={one} type="button" className="doing" onClick={() => onProject(one)}>
                {one}
              </button>
            ))}
          </p>
        </form>
      )}
    </Dialog>
  );
}
