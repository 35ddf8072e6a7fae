"use client";
import { useCallback, useEffect, useState } from "react";
import type { LeaveOutInput, LeftOutAnswer } from "@/contract/survey";
import { ask } from "../kit/ask";
import { Typed } from "../kit/field";
import { useLive } from "../kit/live";

/** What the walk does not look into, and why: seen here, and changed. */
export function LeftOut({ headed = false }: { headed?: boolean }) {
  const live = useLive();
  const [answer, setAnswer] = useState<LeftOutAnswer>();
  const [typed, setTyped] = useState("");
  const load = useCallback(() => {
    ask("survey/left-out", {}).then(setAnswer).catch(live.say);
  }, [live.say]);
  useEffect(load, [load]);
  const change = (input: LeaveOutInput) => void live.act(ask("survey/leave-out", input)).then(load);
  const Box = headed ? "section" : "div";
  if (!answer) return <p role="status">Looking.</p>;
  const { always, names, folders, unreadable, enormous } = answer;
  return (
    <Box aria-label={headed ? "what is not looked into" : undefined} className="mb-6">
      {headed && <h3 className="mb-1 font-[650]">What is not looked into</h3>}
      <ul className="mb-3 border-y border-line text-small">
        {unreadable.map(({ folder, title }) => (
          <Line key={folder} title={title} why="cannot be read; what lies there counts as existing nowhere else" />
        ))}
        {folders.map(({ folder, title }) => (
          <Line
            key={folder}
            title={title}
            why="because you said so"
            onAgain={() => change({ folder: { path: folder }, out: false })}
          />
        ))}
        {names.map((name) => (
          <Line
            key={name}
            title={name}
            why="every folder of this name, except on the desktop and in downloads"
            onAgain={() => change({ name, out: false })}
          />
        ))}
        {always.map(({ title, why }) => (
          <Line key={title} title={title} why={why} />
        ))}
        {enormous.map(({ title, files }) => (
          <Line key={title} title={title} why={`looked into, although it holds ${files} files`} />
        ))}
      </ul>
      <Typed
        label="a folder, or a name for every folder that is called so"
        value={typed}
        onChange={setTyped}
        does="leave it out"
        onGive={(text) =>
          ask("survey/leave-out", /[/~]/.test(text) ? { folder: text, out: true } : { name: text, out: true }).finally(load)
        }
      />
    </Box>
  );
}

function Line({ title, why, onAgain }: { title: string; why: string; onAgain?: () => void }) {
  return (
    <li className="flex items-baseline gap-4 border-b border-line py-1 last:border-0">
      <bdi className="min-w-0 flex-1 truncate">{title}</bdi>
      <span className="text-ink-2">{why}</span>
      {onAgain && (
        <button type="button" className="doing" onClick={onAgain}>
          look into it again<span className="sr-only">: {title}</span>
        </button>
      )}
    </li>
  );
}
