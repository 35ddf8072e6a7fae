"use client";
import { useRouter } from "next/navigation";
import { type FormEvent, useState } from "react";
import type { SettingsView } from "@/contract/settings";
import { AskProblem, ask } from "../kit/ask";
import { FolderField } from "../kit/folder-field";
import { useLive } from "../kit/live";
import { useWords } from "../kit/words";

/** Vuoto's record with its copies, and the pictures that were made small. */
export function RecordKept({ record, pictures }: Pick<SettingsView, "record" | "pictures">) {
  return (
    <>
      <p className="mb-2">
        The record of what was done and decided takes {record.size}, in{" "}
        <span className="font-mono text-small break-all">{record.folder}</span>.
      </p>
      <p className="mb-4 text-ink-2">
        {record.copies.length === 0
          ? "No day's copy of it was made yet: one is made for each day on which something was done, and seven are kept."
          : `It is copied for each day on which something was done. There are copies of ${record.copies.map(({ day, size }) => `${day} (${size})`).join(", ")}.`}
      </p>
      <CopyOf />
      <Pictures {...pictures} />
    </>
  );
}

/** Copies the record to a place of the person's own. */
function CopyOf() {
  const [file, setFile] = useState("");
  const [problem, setProblem] = useState<AskProblem>();
  const [said, setSaid] = useState<string>();
  const live = useLive();
  const words = useWords();
  const give = (event: FormEvent) => {
    event.preventDefault();
    ask("settings/backup", { file: file.trim() }).then(
      ({ rows }) => setSaid(`Copied ${words.counted(rows, "row")}. The command vuoto backup FILE --read reads it back.`),
      (error: unknown) => (error instanceof AskProblem ? setProblem(error) : live.say(error)),
    );
  };
  return (
    <form onSubmit={give} className="mb-6">
      <FolderField
        label="A copy of your own: choose a folder, and add a file's name"
        value={file}
        onChange={(next) => {
          setProblem(undefined);
          setSaid(undefined);
          setFile(next);
        }}
        problem={problem}
        placeholder="/media/disk/vuoto.ndjson.gz"
      />
      <button type="submit" className="doing" disabled={file.trim() === ""}>
        copy it there
      </button>
      <p role="status">{said}</p>
    </form>
  );
}

function Pictures({ size, most }: SettingsView["pictures"]) {
  const live = useLive();
  const router = useRouter();
  const forget = () => void ask("settings/forget-pictures", {}).then(() => router.refresh(), live.say);
  return (
    <p className="flex items-baseline gap-5 border-t border-line pt-3">
      <span className="min-w-0 flex-1">
        Pictures that were made small take {size}, and never more than {most}. The originals are not touched.
      </span>
      <button type="button" className="doing" onClick={forget}>
        throw these away
      </button>
    </p>
  );
}
