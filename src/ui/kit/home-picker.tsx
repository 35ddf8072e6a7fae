"use client";
import { Command } from "cmdk";
import { useState } from "react";
import type { HomeRef } from "@/contract/homes";
import { isThere, resembling } from "@/core/homes/resembling";
import { Dialog } from "./dialog";
import { useHomes } from "./homes";

const shownHomes = 60;

/** Types a home: one of those there are, or a new one made in passing. */
export function HomePicker({
  open,
  onClose,
  onPick,
  title,
}: {
  open: boolean;
  onClose: () => void;
  onPick: (home: HomeRef, title: string) => void;
  title: string;
}) {
  const [typed, setTyped] = useState("");
  const wanted = typed.trim();
  const homes = useHomes(open);
  const found = homes ? resembling(homes, wanted).slice(0, shownHomes) : [];
  const pick = (home: HomeRef, name: string) => {
    setTyped("");
    onPick(home, name);
  };
  return (
    <Dialog open={open} onClose={onClose} title={title}>
      <Command shouldFilter={false} label={title}>
        <Command.Input
          className="field"
          value={typed}
          onValueChange={setTyped}
          placeholder="type a home, or a new one"
          autoFocus
        />
        <Command.List className="mt-3 max-h-[44vh] scroll-pb-10 overflow-auto">
          {found.map((home) => (
            <Command.Item
              key={home.id}
              value={home.id}
              onSelect={() => pick({ id: home.id }, home.title)}
              className="flex justify-between gap-4 border-t border-line px-3 py-2 first:border-t-0 aria-selected:bg-wash"
            >
              <span>{home.title}</span>
              <span className="text-small whitespace-nowrap text-ink-2">
                {home.files === 1 ? "1 file" : `${home.files} files`}
              </span>
            </Command.Item>
          ))}
          {!homes && (
            <p role="status" className="px-3 py-2 text-ink-2">
              Looking for the homes.
            </p>
          )}
          {homes && wanted !== "" && !isThere(homes, wanted) && (
            <Command.Item
              value={`new:${wanted}`}
              onSelect={() => pick({ title: wanted }, wanted)}
              className="sticky bottom-0 flex justify-between gap-4 border-t border-line bg-sheet px-3 py-2 aria-selected:bg-wash"
            >
              <span className="doing">make “{wanted}”</span>
              <span className="text-small text-ink-2">new; a slash goes deeper</span>
            </Command.Item>
          )}
          {homes?.length === 0 && wanted === "" && (
            <p className="px-3 py-2 text-ink-2">There is no home yet. Type the name of one.</p>
          )}
        </Command.List>
      </Command>
    </Dialog>
  );
}
