"use client";
import { type ReactNode, useCallback, useEffect, useId, useState } from "react";
import type { FolderRef, FoldersAnswer } from "@/contract/folders";
import { AskProblem, ask } from "./ask";
import { Beside } from "./field";

/** A folder, typed or chosen by looking. What was wrong with it stands beside it. */
export function FolderField({
  label,
  value,
  onChange,
  problem,
  placeholder,
  children,
}: {
  label: string;
  value: string;
  onChange: (value: string) => void;
  problem?: AskProblem;
  placeholder?: string;
  children?: ReactNode;
}) {
  const id = useId();
  const [choosing, setChoosing] = useState(false);
  return (
    <div className="mb-4">
      <label htmlFor={`${id}field`}>{label}</label>
      <div className="mt-1 flex items-end gap-4">
        <input
          id={`${id}field`}
          className="field min-w-0 flex-1 font-mono"
          required
          value={value}
          placeholder={placeholder}
          aria-invalid={problem !== undefined}
          aria-describedby={`${id}beside`}
          onChange={(event) => onChange(event.target.value)}
        />
        <button type="button" className="doing" aria-expanded={choosing} onClick={() => setChoosing(!choosing)}>
          {choosing ? "close" : "look for it"}
        </button>
      </div>
      <Beside id={`${id}beside`} problem={problem} />
      {children}
      {choosing && <Folders at={value} onChoose={onChange} />}
    </div>
  );
}

/** The folders below one, and where to begin; the one that is looked into is the one that is chosen. */
function Folders({ at, onChoose }: { at: string; onChoose: (folder: string) => void }) {
  const [answer, setAnswer] = useState<FoldersAnswer>();
  const [problem, setProblem] = useState<AskProblem>();
  const look = useCallback((folder?: FolderRef) => {
    setProblem(undefined);
    return ask("frame/folders", { folder });
  }, []);
  const fail = (error: unknown) => setProblem(error instanceof AskProblem ? error : undefined);
  // biome-ignore lint/correctness/useExhaustiveDependencies: what is typed later is not followed, what is opened here is.
  useEffect(() => {
    look(at.trim() || undefined)
      .catch(() => look())
      .then(setAnswer)
      .catch(fail);
  }, [look]);
  const open = (path: string) =>
    void look({ path }).then((found) => {
      setAnswer(found);
      onChoose(found.name);
    }, fail);
  if (!answer) return <p role="status">Looking.</p>;
  const { above, folders, more, starts } = answer;
  return (
    <div className="mt-3 border border-line">
      <p className="flex flex-wrap gap-x-5 gap-y-1 border-b border-line px-3 py-1.5 text-small text-ink-2">
        {starts.map(({ path, name, free }) => (
          <span key={path}>
            <button type="button" className="doing" onClick={() => open(path)}>
              {name}
            </button>
            {free && `, ${free} free`}
          </span>
        ))}
      </p>
      <p className="flex items-baseline gap-4 border-b border-line px-3 py-1.5">
        <bdi className="min-w-0 flex-1 truncate font-[650]">{answer.name}</bdi>
        {above && (
          <button type="button" className="doing text-small" onClick={() => open(above.path)}>
            the folder around it
          </button>
        )}
      </p>
      <ul aria-label={`folders in ${answer.name}`} className="max-h-[26vh] overflow-auto">
        {folders.map(({ path, name }) => (
          <li key={path}>
            <button type="button" className="w-full truncate px-3 py-1 text-left hover:bg-wash" onClick={() => open(path)}>
              <bdi>{name}</bdi>
            </button>
          </li>
        ))}
        {folders.length === 0 && <li className="px-3 py-1 text-ink-2">No folder lies in it.</li>}
        {more > 0 && <li className="px-3 py-1 text-ink-2">and {more} more; type the rest of the path</li>}
      </ul>
      <Beside id="folders-problem" problem={problem} />
    </div>
  );
}
