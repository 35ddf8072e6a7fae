import type { ReportJson } from "@/contract/items";
import { type LauncherInput, launchers } from "@/contract/settings";
import type { Plan, Step } from "@/core/ledger/step";
import { folderOf, joinRaw, type Raw, rawFromText } from "@/core/names/raw";
import { execWord } from "@/core/survey/desktop-entry";
import { launcherFile } from "../account";
import { perform } from "../act";
import type { Engine } from "../engine";
import { commandWords } from "./command-line";

/** Puts a launcher among the account's programs, or takes it away. */
export function launcher(engine: Engine, input: LauncherInput): Promise<ReportJson> {
  return perform(engine, "Making a launcher", () => planLauncher(engine, input), { trial: input.dryRun });
}

interface Launcher {
  file: Raw;
  /** What it is for, in a sentence about it. */
  purpose: string;
  name: string;
  comment: string;
  /** The command of Vuoto that it runs. */
  runs: string[];
  /** A second thing that it offers. */
  more?: { id: string; name: string; runs: string[] };
}

const kinds: Record<LauncherInput["which"], Launcher> = {
  open: {
    file: launcherFile.open,
    purpose: "opening Vuoto",
    name: "Vuoto",
    comment: "See what lies on the desktop and in downloads, and clear it",
    runs: ["open"],
  },
  gather: {
    file: launcherFile.gather,
    purpose: "gathering",
    name: "Gather everything",
    comment: "Everything on the desktop into one folder, to be set out again exactly",
    runs: ["gather"],
    more: { id: "set-out", name: "Set it out again", runs: ["set-out"] },
  },
  quiet: {
    file: launcherFile.quiet,
    purpose: "quiet",
    name: "Quiet, and back",
    comment: "All icons out of sight, and back where they were",
    runs: ["quiet", "toggle"],
    more: { id: "everything", name: "Bring everything back", runs: ["quiet", "off"] },
  },
};

/** Which of them stand among the programs. */
export const launchersNow = ({ account, disk }: Engine) =>
  launchers.map((which) => ({
    which,
    name: kinds[which].name,
    there: disk.identity(joinRaw(account.launchers, kinds[which].file)) !== undefined,
  }));

function planLauncher({ account, disk }: Engine, { which, away }: LauncherInput): Plan {
  const kind = kinds[which];
  const file = joinRaw(account.launchers, kind.file);
  const before = disk.readFile(file);
  const command = commandWords(account);
  const after = away ? null : { content: rawFromText(launcherText(kind, command)), mode: 0o644 };
  const steps: Step[] = [];
  if (before?.content !== after?.content) {
    const missing: Raw[] = [];
    for (let folder = folderOf(file); !disk.identity(folder); folder = folderOf(folder)) missing.unshift(folder);
    steps.push(...missing.map((folder): Step => ({ type: "make-folder", folder, shared: true })));
    steps.push({ type: "write", file, before, after });
  }
  return {
    act: "launcher",
    words: () => (away ? `Took the launcher for ${kind.purpose} away` : `Put a launcher for ${kind.purpose} among your programs`),
    steps,
    left: [],
  };
}

/** A desktop entry (Desktop Entry Specification 1.5) that runs Vuoto by command. */
function launcherText({ name, comment, runs, more }: Launcher, command: string[]): string {
  const exec = (words: string[]) => [...command, ...words].map(execWord).join(" ");
  return [
    "[Desktop Entry]",
    "Type=Application",
    "Version=1.5",
    `Name=${name}`,
    `Comment=${comment}`,
    `Exec=${exec(runs)}`,
    "Terminal=false",
    "Categories=Utility;",
    ...(more ? [`Actions=${more.id};`, "", `[Desktop Action ${more.id}]`, `Name=${more.name}`, `Exec=${exec(more.runs)}`] : []),
    "",
  ].join("\n");
}
