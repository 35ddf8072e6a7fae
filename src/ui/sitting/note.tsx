"use client";
import { useEffect, useState } from "react";
import type { NotesAnswer } from "@/contract/sitting";
import { ask } from "../kit/ask";
import { useLive } from "../kit/live";
import { Pick } from "../kit/pick";

/** Adds a thing to a note that lies there, or to a new one of a title. */
export function IntoNote({ name, onClose, onPick }: { name: string; onClose: () => void; onPick: (title: string) => void }) {
  const { say } = useLive();
  const [notes, setNotes] = useState<NotesAnswer>();
  useEffect(() => {
    ask("sitting/notes", {}).then(setNotes, say);
  }, [say]);
  return (
    <Pick
      open
      onClose={onClose}
      title={`Put ${name} into a note`}
      placeholder="type a note, or a new one"
      choices={notes?.notes.map((title) => ({ id: title, title }))}
      empty="No note lies there yet. Type the title of one."
      make="begin"
      onPick={({ title }) => onPick(title)}
      onMake={onPick}
    />
  );
}
