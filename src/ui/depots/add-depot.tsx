"use client";
import { useState } from "react";
import type { DepotsView } from "@/contract/views";
import { type AskProblem, ask } from "../kit/ask";
import { Dialog } from "../kit/dialog";
import { FolderField } from "../kit/folder-field";
import { useLive } from "../kit/live";
import { type SignInFields, SignInFieldset } from "./sign-in";

const isAddress = (location: string) => /^[a-z]+:\/\//i.test(location.trim());
/** A SHA-256 as it is shown. */
const shownSum = /(?:[0-9a-f]{2}:){31}[0-9a-f]{2}/;

const nobody: SignInFields = { user: "", password: "", keep: "changed" };

/** A folder, a drive or a cloud, told by what is typed. A cloud is tried before it is kept. */
export function AddDepot({
  open,
  onClose,
  suggestions,
}: {
  open: boolean;
  onClose: () => void;
  suggestions: DepotsView["suggestions"];
}) {
  const live = useLive();
  const [location, setLocation] = useState("");
  const [title, setTitle] = useState("");
  const [signIn, setSignIn] = useState<SignInFields>(nobody);
  const [problem, setProblem] = useState<AskProblem>();
  const [busy, setBusy] = useState(false);
  const choose = (next: string) => {
    setProblem(undefined);
    setLocation(next);
  };
  const cloud = isAddress(location);
  const sum = problem?.code === "certificate-unknown" ? shownSum.exec(problem.title)?.[0] : undefined;
  const add = (more: { accept?: string; replace?: boolean } = {}) => {
    setBusy(true);
    setProblem(undefined);
    const given = cloud && signIn.user !== "" ? signIn : {};
    const work = ask("depots/add", { location: location.trim(), title: title.trim() || undefined, ...given, ...more });
    void live
      .act(work, setProblem)
      .then((report) => {
        if (!report) return;
        choose("");
        setTitle("");
        setSignIn(nobody);
        onClose();
      })
      .finally(() => setBusy(false));
  };
  return (
    <Dialog open={open} onClose={onClose} title="Add a depot">
      <form
        onSubmit={(event) => {
          event.preventDefault();
          add();
        }}
      >
        <FolderField
          label="A folder, a drive, or the address of a cloud"
          value={location}
          onChange={choose}
          problem={problem}
          placeholder="/media/disk/archive or https://cloud.example/files/"
        >
          {suggestions.length > 0 && (
            <div className="mt-2 text-small text-ink-2">
              Beside the sample account lie
              <ul>
                {suggestions.map((one) => (
                  <li key={one.location}>
                    {one.words}:{" "}
                    <button
                      type="button"
                      className="doing break-all"
                      onClick={() => {
                        choose(one.location);
                        if (one.user !== undefined) setSignIn({ ...nobody, user: one.user, password: one.password ?? "" });
                      }}
                    >
                      {one.location}
                    </button>
                  </li>
                ))}
              </ul>
            </div>
          )}
        </FolderField>
        {sum && (
          <div className="mb-4 border-l-4 border-let-go pl-3">
            <p className="mb-2 text-small">
              Ask whoever runs it for the SHA-256 of its certificate. Accept it only where both are the same: who shows another
              could read what you send, your password too.
            </p>
            <button type="button" className="doing" disabled={busy} onClick={() => add({ accept: sum })}>
              they are the same: accept it
            </button>
          </div>
        )}
        {problem?.code === "asks-drive" && (
          <button type="button" className="doing mb-4" onClick={() => add({ replace: true })}>
            it takes that drive's place
          </button>
        )}
        {cloud && <SignInFieldset value={signIn} onChange={setSignIn} />}
        <label className="mb-5 block">
          What you call it
          <input
            className="field mt-1"
            value={title}
            maxLength={120}
            onChange={(event) => setTitle(event.target.value)}
            placeholder={cloud ? "the computer's name" : "the folder's own name"}
          />
        </label>
        <button type="submit" className="go" disabled={busy || location.trim() === ""}>
          {busy ? "Trying it" : "Add it"}
        </button>
      </form>
    </Dialog>
  );
}
