"use client";
import { useEffect, useRef, useState } from "react";
import type { ProgramAnswer } from "@/contract/looks";
import { ask } from "../kit/ask";
import { Dialog } from "../kit/dialog";
import { useLive } from "../kit/live";

/** Programs whose call was shown in this browser, and agreed to. */
const agreed = {
  has: (id: string) => localStorage.getItem(`program ${id}`) !== null,
  add: (id: string) => localStorage.setItem(`program ${id}`, "agreed"),
};

/** Opens a thing in the program that the computer has for it; what would be called is shown before the first time. */
export function InProgram({ item, name, onClose }: { item: string; name: string; onClose: () => void }) {
  const { say, tell } = useLive();
  const [program, setProgram] = useState<ProgramAnswer>();
  const open = useRef<(found: ProgramAnswer) => void>(undefined);
  open.current = ({ id }) => {
    agreed.add(id);
    ask("looks/in-program", { item, program: id }).then(
      ({ started }) => tell(`${name} is opened in ${started}.`, ["As long as it is open there, it is left alone here."]),
      say,
    );
    onClose();
  };
  useEffect(() => {
    let wanted = true;
    ask("looks/program", { item }).then(
      (found) => {
        if (!wanted) return;
        if (agreed.has(found.id)) open.current?.(found);
        else setProgram(found);
      },
      (problem: unknown) => {
        if (!wanted) return;
        say(problem);
        onClose();
      },
    );
    return () => {
      wanted = false;
    };
  }, [item, say, onClose]);
  return (
    <Dialog open onClose={onClose} title={program ? `Open it in ${program.title}` : "Looking for its program"}>
      {program && (
        <>
          <p className="mb-2 text-ink-2">This is what is called, word by word and without a shell:</p>
          <ol className="mb-4 border-y border-line py-2 font-mono text-[13px]">
            {program.runs.map((word, n) => (
              <li key={n} className="break-all">
                {word}
              </li>
            ))}
          </ol>
          <button type="button" className="go" onClick={() => open.current?.(program)}>
            Open it
          </button>
          <p className="mt-3 text-small text-ink-2">It is shown this once for {program.title}.</p>
        </>
      )}
    </Dialog>
  );
}
