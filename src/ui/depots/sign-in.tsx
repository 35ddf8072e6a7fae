"use client";
import { useState } from "react";
import { AskProblem, ask } from "../kit/ask";
import { Dialog } from "../kit/dialog";
import { Beside } from "../kit/field";
import { useLive } from "../kit/live";

/** The fields of a sign-in, and how long it is kept. */
export interface SignInFields {
  user: string;
  password: string;
  keep: "changed" | "end";
}

export function SignInFieldset({ value, onChange }: { value: SignInFields; onChange: (next: SignInFields) => void }) {
  return (
    <fieldset className="mb-4">
      <label className="mb-3 block">
        Your user name there
        <input
          className="field mt-1"
          autoComplete="off"
          value={value.user}
          onChange={(event) => onChange({ ...value, user: event.target.value })}
        />
      </label>
      <label className="mb-3 block">
        The password
        <input
          type="password"
          className="field mt-1"
          autoComplete="off"
          value={value.password}
          onChange={(event) => onChange({ ...value, password: event.target.value })}
        />
      </label>
      <div className="flex flex-wrap gap-x-5">
        {(["changed", "end"] as const).map((keep) => (
          <label key={keep} className="flex min-h-7 items-center gap-2">
            <input
              type="radio"
              name="keep"
              className="size-6 accent-verdigris"
              checked={value.keep === keep}
              onChange={() => onChange({ ...value, keep })}
            />
            {keep === "changed" ? "keep it, in a file that only you can read" : "forget it when Vuoto ends"}
          </label>
        ))}
      </div>
    </fieldset>
  );
}

/** Another sign-in for a cloud, and a certificate that nobody vouches for, to be accepted or not. */
export function SignIn({
  depot,
  certificate,
  onClose,
}: {
  depot: { id: string; title: string };
  certificate?: { sha256: string; words: string };
  onClose: () => void;
}) {
  const live = useLive();
  const [fields, setFields] = useState<SignInFields>({ user: "", password: "", keep: "changed" });
  const [problem, setProblem] = useState<AskProblem>();
  const [busy, setBusy] = useState(false);
  const send = (more: { accept?: string } = {}) => {
    setBusy(true);
    setProblem(undefined);
    const given = fields.user === "" && fields.password === "" ? {} : fields;
    ask("depots/sign-in", { depot: depot.id, ...given, ...more })
      .then(({ words }) => {
        live.tell(words, []);
        onClose();
      })
      .catch((error: unknown) => (error instanceof AskProblem ? setProblem(error) : live.say(error)))
      .finally(() => setBusy(false));
  };
  return (
    <Dialog open onClose={onClose} title={certificate ? `The certificate of ${depot.title}` : `Sign in to ${depot.title}`}>
      {certificate && (
        <div className="mb-4">
          <p className="mb-2 break-words">{certificate.words}.</p>
          <p className="mb-3 text-ink-2">
            Ask whoever runs it for the SHA-256 of its certificate. Accept it only where both are the same: who shows another
            could read what you send, your password too.
          </p>
          <div className="flex items-center gap-6">
            <button type="button" className="go" disabled={busy} onClick={() => send({ accept: certificate.sha256 })}>
              They are the same: accept it
            </button>
            <button type="button" className="doing" onClick={onClose}>
              do not accept it
            </button>
          </div>
          <Beside id="certificate-problem" problem={problem} />
        </div>
      )}
      {!certificate && (
        <form
          onSubmit={(event) => {
            event.preventDefault();
            send();
          }}
        >
          <SignInFieldset value={fields} onChange={setFields} />
          <Beside id="sign-in-problem" problem={problem} />
          <button type="submit" className="go" disabled={busy}>
            {busy ? "Trying it" : "Try it, and keep it"}
          </button>
        </form>
      )}
    </Dialog>
  );
}
