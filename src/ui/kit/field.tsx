"use client";
import { type FormEvent, type ReactNode, useId, useState } from "react";
import type { ReportJson } from "@/contract/items";
import type { AskProblem } from "./ask";
import { useLive } from "./live";

/** What is wrong with what was typed, beside it. */
export function Beside({ id, problem }: { id: string; problem?: AskProblem }) {
  return (
    <p id={id} role="alert" className={problem ? "mt-1.5 text-small text-let-go" : "sr-only"}>
      {problem && `${problem.title} ${problem.remedy}`}
    </p>
  );
}

/** One line to be typed, with what is done with it. What was wrong with it stands beside it until something else is typed. */
export function Typed({
  label,
  placeholder,
  value,
  onChange,
  onGive,
  does,
  ready = value.trim() !== "",
  between,
}: {
  label: string;
  placeholder?: string;
  value: string;
  onChange: (value: string) => void;
  onGive: (value: string) => Promise<ReportJson>;
  does: string;
  ready?: boolean;
  between?: ReactNode;
}) {
  const live = useLive();
  const id = useId();
  const [problem, setProblem] = useState<AskProblem>();
  const give = (event: FormEvent) => {
    event.preventDefault();
    void live.act(onGive(value.trim()), setProblem).then((report) => report && onChange(""));
  };
  return (
    <form onSubmit={give}>
      <div className="flex items-end gap-4">
        <label className="min-w-0 flex-1 text-small text-ink-2">
          {label}
          <input
            className="mt-1 block w-full border-b border-ink bg-transparent py-1 text-ink outline-none focus:border-verdigris"
            placeholder={placeholder}
            value={value}
            aria-invalid={problem !== undefined}
            aria-describedby={id}
            onChange={(event) => {
              setProblem(undefined);
              onChange(event.target.value);
            }}
          />
        </label>
        {between}
        <button type="submit" className="doing" disabled={!ready}>
          {does}
        </button>
      </div>
      <Beside id={id} problem={problem} />
    </form>
  );
}
