"use client";
import type { ReactNode } from "react";

/**
 * What would be lost, and the two ways on: for the two acts that destroy. Keeping is what has the focus at first; only the button
 * that says so destroys.
 */
export function Destroying({
  children,
  destroy,
  keep,
  onDestroy,
  onKeep,
}: {
  children: ReactNode;
  destroy: string;
  keep: string;
  onDestroy: () => void;
  onKeep: () => void;
}) {
  return (
    <>
      <div className="mb-5 flex flex-col gap-3">{children}</div>
      <div className="flex items-center gap-6">
        <button type="button" className="go" onClick={onDestroy}>
          {destroy}
        </button>
        <button type="button" className="doing" data-first onClick={onKeep}>
          {keep}
        </button>
      </div>
    </>
  );
}

/** What would be lost, in one sentence, and what that is about. */
export function Lost({ title, children }: { title: string; children?: ReactNode }) {
  return (
    <div className="border-l-4 border-let-go pl-3">
      <p className="font-semibold">{title}</p>
      {children}
    </div>
  );
}

/** Whether copies in a cloud are read back before anything is destroyed. */
export function ReadFirst({
  checked,
  onChange,
  words,
}: {
  checked: boolean;
  onChange: (checked: boolean) => void;
  words: string;
}) {
  return (
    <label className="flex items-baseline gap-2">
      <input
        type="checkbox"
        className="size-4 shrink-0 self-center accent-verdigris"
        checked={checked}
        onChange={(event) => onChange(event.target.checked)}
      />
      <span>{words}</span>
    </label>
  );
}
