"use client";
import { Command } from "cmdk";
import { type ReactNode, useEffect, useState } from "react";
import { isThere, resembling } from "@/core/homes/resembling";
import { Dialog } from "./dialog";

interface Choice {
  id: string;
  title: string;
  /** What stands beside it. */
  note?: string;
}

const shown = 60;

/** One of several things by typing letters of its name; where `make` says how, also a new one. */
export function Pick({
  open,
  onClose,
  title,
  placeholder,
  choices,
  empty,
  make,
  makeNote,
  onPick,
  onMake,
  children,
}: {
  open: boolean;
  onClose: () => void;
  title: string;
  placeholder: string;
  /** Undefined while they are looked for. */
  choices?: readonly Choice[];
  empty: string;
  make?: string;
  makeNote?: string;
  onPick: (choice: Choice) => void;
  onMake?: (typed: string) => void;
  /** What stands between the field and the list. */
  children?: ReactNode;
}) {
  const [typed, setTyped] = useState("");
  const wanted = typed.trim();
  const found = choices ? resembling(choices, wanted).slice(0, shown) : [];
  const canMake = choices !== undefined && onMake !== undefined && wanted !== "" && !isThere(choices, wanted);
  const first = found[0]?.id ?? (canMake ? `new:${wanted}` : "");
  // What Enter means: the first, until the arrows go to another.
  const [at, setAt] = useState({ first, value: first });
  if (at.first !== first) setAt({ first, value: first });
  const choose = (value: string) => {
    const choice = found.find(({ id }) => id === value);
    setTyped("");
    if (choice) onPick(choice);
    else if (canMake) onMake?.(wanted);
  };
  // Enter that comes before they are found means what is first then.
  const [entered, setEntered] = useState(false);
  useEffect(() => {
    if (!entered || !choices) return;
    setEntered(false);
    if (first !== "") choose(first);
  });
  return (
    <Dialog open={open} onClose={onClose} title={title}>
      <Command
        shouldFilter={false}
        label={title}
        value={at.value}
        onValueChange={(value) => setAt({ first, value })}
        onKeyDown={(event) => event.key === "Enter" && !choices && setEntered(true)}
      >
        <Command.Input className="field" value={typed} onValueChange={setTyped} placeholder={placeholder} data-first />
        {children}
        {!choices && (
          <p role="status" className="mt-3 px-3 py-2 text-ink-2">
            Looking for them.
          </p>
        )}
        {choices && first === "" && <p className="mt-3 px-3 py-2 text-ink-2">{empty}</p>}
        {/* Always there, as the field says that it controls it. */}
        <Command.List className="mt-3 max-h-[44vh] scroll-pb-10 overflow-auto">
          {found.map((choice) => (
            <Command.Item
              key={choice.id}
              value={choice.id}
              onSelect={() => choose(choice.id)}
              className="flex justify-between gap-4 border-t border-line px-3 py-2 first:border-t-0 aria-selected:bg-wash"
            >
              <bdi className="min-w-0 break-words">{choice.title}</bdi>
              {choice.note && <span className="text-small whitespace-nowrap text-ink-2">{choice.note}</span>}
            </Command.Item>
          ))}
          {canMake && (
            <Command.Item
              value={`new:${wanted}`}
              onSelect={() => choose("")}
              className="sticky bottom-0 flex justify-between gap-4 border-t border-line bg-sheet px-3 py-2 aria-selected:bg-wash"
            >
              <span className="doing">
                {make} “{wanted}”
              </span>
              {makeNote && <span className="text-small text-ink-2">{makeNote}</span>}
            </Command.Item>
          )}
        </Command.List>
      </Command>
    </Dialog>
  );
}
