import type { ReportJson } from "@/contract/items";
import { type LauncherInput, type LauncherState, launchers } from "@/contract/settings";
import type { SmallFile } from "@/core/ledger/shapes";
import type { Plan, Step } from "@/core/ledger/step";
import { folderOf, joinRaw, nameOf, type Raw, rawFromText, shownName } from "@/core/names/raw";
import { Problem, unlessProblem } from "@/core/problem";
import { execWord } from "@/core/survey/desktop-entry";
import { type Account, autostartFile, fromAccount, launcherFile } from "../account";
import { perform } from "../act";
import type { Engine } from "../engine";
import { commandWords } from "./command-line";

/** Puts a launcher among the account's programs, or takes it away. */
export function launcher(engine: Engine, input: LauncherInput): Promise<ReportJson> {
  return perform(engine, "Making a launcher", () => planLauncher(engine, input), { trial: input.dryRun });
}

interface Launcher {
  file(account: Account): Raw;
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
    file: (account) => joinRaw(account.launchers, launcherFile.open),
    purpose: "opening Vuoto",
    name: "Vuoto",
    comment: "See what lies on the desktop and in downloads, and clear it",
    runs: ["open"],
  },
  gather: {
    file: (account) => joinRaw(account.launchers, launcherFile.gather),
    purpose: "gathering",
    name: "Gather everything",
    comment: "Everything on the desktop into one folder, to be set out again exactly",
    runs: ["gather"],
    more: { id: "set-out", name: "Set it out again", runs: ["set-out"] },
  },
  quiet: {
    file: (account) => joinRaw(account.launchers, launcherFile.quiet),
    purpose: "quiet",
    name: "Quiet, and back",
    comment: "All icons out of sight, and back where they were",
    runs: ["quiet", "toggle"],
    more: { id: "everything", name: "Bring everything back", runs: ["quiet", "off"] },
  },
  "at log-in": {
    file: (account) => joinRaw(account.autostart, autostartFile),
    purpose: "log-in",
    name: "Vuoto, from log-in on",
    comment: "Ready when a key or a launcher calls it; brings back what was hidden until a time",
    runs: ["start", "--no-link"],
  },
};

/** Which of them are there, and whether as they were made. */
export const launchersNow = ({ account, disk }: Engine) =>
  launchers.map((which) => {
    const kind = kinds[which];
    const there = unlessProblem(() => disk.readFile(kind.file(account)));
    return { which, name: kind.name, state: stateOf(kind, account, there) };
  });

function stateOf(kind: Launcher, account: Account, there: SmallFile | null | undefined): LauncherState {
  if (there === null) return "none";
  if (!there || !isOurs(kind, there)) return "another's";
  return there.content === rawFromText(launcherText(kind, commandWords(account))) ? "as made" : "changed";
}

/** Each begins in a way of its own; what another program changes in it comes after that. */
const isOurs = (kind: Launcher, { content }: SmallFile) => content.startsWith(rawFromText(beginningOf(kind)));

function planLauncher({ account, disk }: Engine, { which, away }: LauncherInput): Plan {
  const kind = kinds[which];
  const file = kind.file(account);
  const before = disk.readFile(file);
  if (before && !isOurs(kind, before))
    throw new Problem("name-taken", { name: shownName(nameOf(file)), place: fromAccount(account, shownName(folderOf(file))) });
  const after = away ? null : { content: rawFromText(launcherText(kind, commandWords(account))), mode: 0o644 };
  const steps: Step[] = [];
  if (before?.content !== after?.content) {
    const missing: Raw[] = [];
    for (let folder = folderOf(file); !disk.identity(folder); folder = folderOf(folder)) missing.unshift(folder);
    steps.push(...missing.map((folder): Step => ({ type: "make-folder", folder, shared: true })));
    steps.push({ type: "write", file, before, after });
  }
  return {
    act: "launcher",
    words: () =>
      which === "at log-in"
        ? `Vuoto is ${away ? "no longer started" : "started"} at log-in`
        : away
          ? `Took the launcher for ${kind.purpose} away`
          : `Put a launcher for ${kind.purpose} among your programs`,
    steps,
    left: [],
  };
}

const beginningOf = ({ name }: Launcher) => `[Desktop Entry]\nType=Application\nVersion=1.5\nName=${name}`;

/** A desktop entry (Desktop Entry Specification 1.5) that runs Vuoto by command. */
function launcherText(launcher: Launcher, command: string[]): string {
  const { comment, runs, more } = launcher;
  const exec = (words: string[]) => [...command, ...words].map(execWord).join(" ");
  return [
    beginningOf(launcher),
    `Comment=${comment}`,
    `Exec=${exec(runs)}`,
    "Terminal=false",
    "Categories=Utility;",
    ...(more ? [`Actions=${more.id};`, "", `[Desktop Action ${more.id}]`, `Name=${more.name}`, `Exec=${exec(more.runs)}`] : []),
    "",
  ].join("\n");
}
