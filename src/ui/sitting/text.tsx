"use client";
import dynamic from "next/dynamic";
import { useState } from "react";
import type { LookView, Tone } from "@/contract/looks";

type Text = Extract<LookView, { form: "text" }>;

/** Drawing Markdown is loaded with the first that is drawn. */
const Markdown = dynamic(() => import("./markdown"), { ssr: false });

const inks: Record<Tone, string> = {
  plain: "",
  word: "font-semibold",
  text: "text-put",
  number: "text-archive",
  remark: "text-ink-2 italic",
  name: "text-verdigris",
};

/** A text: Markdown drawn, code with its tones, all else as it stands. */
export function TextLook({ lines, whole, markdown, tones }: Text) {
  const [plain, setPlain] = useState(false);
  const text = lines.join("\n");
  if (text.trim() === "")
    return <p className="p-6 text-ink-2">{text === "" ? "It is empty." : "It holds nothing but spaces."}</p>;
  return (
    <div className="relative size-full">
      {markdown && !plain ? (
        <div tabIndex={0} role="group" aria-label="the text" className="size-full overflow-auto px-8 py-6">
          <Markdown text={text} />
          {!whole && <p className="mt-4 text-ink-2">It goes on.</p>}
        </div>
      ) : (
        <pre
          tabIndex={0}
          className="size-full overflow-auto p-6 font-mono text-[13px] leading-[1.55] break-words whitespace-pre-wrap"
        >
          {tones ? lines.map((line, n) => <Line key={n} line={line} runs={tones[n] ?? []} />) : text}
          {!whole && "\n…"}
        </pre>
      )}
      {markdown && (
        <button
          type="button"
          className="doing absolute right-2 bottom-2 bg-sheet px-2 py-0.5 text-[12px]"
          aria-pressed={plain}
          onClick={() => setPlain(!plain)}
        >
          {plain ? "drawn" : "as it is written"}
        </button>
      )}
    </div>
  );
}

function Line({ line, runs }: { line: string; runs: [Tone, number][] }) {
  let at = 0;
  return (
    <>
      {runs.map(([tone, letters], n) => {
        const part = line.slice(at, at + letters);
        at += letters;
        return inks[tone] === "" ? (
          part
        ) : (
          <span key={n} className={inks[tone]}>
            {part}
          </span>
        );
      })}
      {line.slice(at)}
      {"\n"}
    </>
  );
}
