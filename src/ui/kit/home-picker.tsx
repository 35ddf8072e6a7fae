"use client";
import { useState } from "react";
import type { HomeRef } from "@/contract/homes";
import { useHomes } from "./homes";
import { Pick } from "./pick";

/** Types a home: one of those there are, or a new one made in passing; with `naming` also a new title for what goes there. */
export function HomePicker({
  open,
  onClose,
  onPick,
  title,
  naming,
}: {
  open: boolean;
  onClose: () => void;
  onPick: (home: HomeRef, title: string, newTitle?: string) => void;
  title: string;
  /** The name of the thing without its ending, and that. */
  naming?: { stem: string; ending: string };
}) {
  const homes = useHomes(open);
  const [named, setNamed] = useState(naming?.stem ?? "");
  const newTitle = naming && named.trim() !== "" && named.trim() !== naming.stem ? named.trim() : undefined;
  return (
    <Pick
      open={open}
      onClose={onClose}
      title={title}
      placeholder="type a home, or a new one"
      choices={homes?.map(({ id, title: of, files }) => ({ id, title: of, note: files === 1 ? "1 file" : `${files} files` }))}
      empty="There is no home yet. Type the name of one."
      make="make"
      makeNote="new; a slash goes deeper"
      onPick={({ id, title: of }) => onPick({ id }, of, newTitle)}
      onMake={(typed) => onPick({ title: typed }, typed, newTitle)}
    >
      {naming && (
        <label className="mt-3 block text-small text-ink-2">
          its title there
          <span className="mt-1 flex items-baseline gap-1">
            <input className="field flex-1" value={named} maxLength={200} onChange={(event) => setNamed(event.target.value)} />
            {naming.ending}
          </span>
        </label>
      )}
    </Pick>
  );
}
