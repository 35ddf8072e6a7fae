"use client";
import { useState } from "react";
import { type AskProblem, ask } from "../kit/ask";
import { Dialog } from "../kit/dialog";
import { Beside } from "../kit/field";
import { useHomes } from "../kit/homes";
import { useLive } from "../kit/live";

/** What lies in a home, or has lain in it unchanged since before a day, goes into a parcel. */
export function FromHome({ onClose }: { onClose: () => void }) {
  const live = useLive();
  const homes = useHomes(true);
  const [home, setHome] = useState("");
  const [day, setDay] = useState("");
  const [problem, setProblem] = useState<AskProblem>();
  const meant = homes?.find(({ title }) => title === home.trim());
  return (
    <Dialog open onClose={onClose} title="Collect what lies in a home">
      <form
        onSubmit={(event) => {
          event.preventDefault();
          if (!meant) return;
          const before = day === "" ? undefined : new Date(`${day}T00:00:00`).getTime();
          setProblem(undefined);
          void live
            .act(ask("depots/from-home", { home: { id: meant.id }, before }), setProblem)
            .then((report) => report && onClose());
        }}
      >
        <label className="mb-4 block">
          The home
          <input
            className="field mt-1"
            list="homes-to-collect"
            value={home}
            placeholder="type its name"
            onChange={(event) => setHome(event.target.value)}
          />
          <datalist id="homes-to-collect">
            {homes?.map(({ id, title }) => (
              <option key={id} value={title} />
            ))}
          </datalist>
        </label>
        <label className="mb-2 block">
          Only what was last changed before a day
          <input type="date" className="field mt-1" value={day} onChange={(event) => setDay(event.target.value)} />
        </label>
        <p className="mb-4 text-small text-ink-2">
          Without a day all that lies in it goes, folders too. Homes below it are left; and with a day, so are folders: not all
          that is in them may be older. Everything lies where it is until the parcel has arrived.
        </p>
        <Beside id="from-home-problem" problem={problem} />
        <button type="submit" className="go" disabled={!meant}>
          Collect it
        </button>
      </form>
    </Dialog>
  );
}
