"use client";
import { type ReactNode, useState } from "react";
import { AskProblem, ask } from "../kit/ask";
import { Dialog } from "../kit/dialog";
import { FolderField } from "../kit/folder-field";
import { useLive } from "../kit/live";

interface Given {
  names?: string[];
  into?: string;
  programs?: boolean;
  /** A new folder is to be named first. */
  elsewhere?: boolean;
}

interface Asking extends Given {
  /** What was wrong with the folder that was named. */
  problem?: AskProblem;
  code: string;
  title: string;
}

const intoNewFolder = "It goes into one new folder, and nothing to its old place.";

/** Brings a parcel back, or some of it; what only needs an answer is asked. */
export function useRestore(
  parcel: { id: string; title: string },
  onDone?: () => void,
): { restore: (given?: Given) => void; busy: boolean; asking: ReactNode } {
  const live = useLive();
  const [busy, setBusy] = useState(false);
  const [asking, setAsking] = useState<Asking>();
  const restore = ({ elsewhere, ...more }: Given = {}) => {
    if (elsewhere) {
      setAsking({ ...more, code: "", title: intoNewFolder });
      return;
    }
    setBusy(true);
    setAsking(undefined);
    const work = ask("depots/restore", { parcel: parcel.id, ...more });
    void work
      .then(
        () => live.act(work).then(onDone),
        (problem: unknown) => {
          const asks = problem instanceof AskProblem && (problem.code === "asks-programs" || problem.code === "parcel-stranger");
          if (asks) setAsking({ ...more, code: problem.code, title: problem.title });
          else if (more.into !== undefined && problem instanceof AskProblem)
            setAsking({ ...more, problem, code: "", title: intoNewFolder });
          else live.say(problem);
        },
      )
      .finally(() => setBusy(false));
  };
  return {
    restore,
    busy,
    asking: asking && <Restoring asking={asking} title={parcel.title} onClose={() => setAsking(undefined)} onGo={restore} />,
  };
}

/** What is to be answered before a parcel is brought back: where to, or whether what can be run comes along. */
function Restoring({
  asking,
  title,
  onClose,
  onGo,
}: {
  asking: Asking;
  title: string;
  onClose: () => void;
  onGo: (more: Given) => void;
}) {
  const [into, setInto] = useState(asking.into ?? "");
  const [problem, setProblem] = useState(asking.problem);
  const programs = asking.code === "asks-programs";
  const { names } = asking;
  return (
    <Dialog open onClose={onClose} title={`Bring “${title}” back`}>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          onGo(programs ? { names, into: asking.into, programs: true } : { names, into });
        }}
      >
        <p className="mb-4 text-ink-2">{asking.title}</p>
        {!programs && (
          <FolderField
            label="The new folder: choose where, and add its name"
            value={into}
            onChange={(next) => {
              setProblem(undefined);
              setInto(next);
            }}
            problem={problem}
            placeholder="~/Documents/from the parcel"
          />
        )}
        <button type="submit" className="go" disabled={!programs && into.trim() === ""}>
          {programs ? "Bring them back as they are" : "Bring it back there"}
        </button>
      </form>
    </Dialog>
  );
}
