import type { LauncherInput } from "@/contract/homes";
import type { ReportJson } from "@/contract/items";
import type { Plan, Step } from "@/core/ledger/step";
import { folderOf, type Raw, shownName, textOfRaw } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import { execWord } from "@/core/survey/desktop-entry";
import { perform } from "../act";
import type { Engine } from "../engine";
import { install } from "../install";

/** Puts a launcher for gathering among the account's programs, with setting out as its second action; or takes it away. */
export function launcher(engine: Engine, input: LauncherInput): Promise<ReportJson> {
  return perform(engine, "Making a launcher", () => planLauncher(engine, input), { trial: input.dryRun });
}

function planLauncher({ account, disk }: Engine, { away }: LauncherInput): Plan {
  const file = account.launcher;
  const before = disk.readSmall(file)?.toString("utf8") ?? null;
  const root = textOfRaw(account.root);
  if (root === undefined) throw new Problem("bad-name", { name: shownName(account.root) });
  // With its record: another one of the same account would know nothing of this one's acts.
  const command = [process.execPath, install("bin/vuoto.mjs"), "--account", root, "--data", account.data];
  const after = away ? null : launcherText(command);
  const steps: Step[] = [];
  if (before !== after) {
    const missing: Raw[] = [];
    for (let folder = folderOf(file); !disk.identity(folder); folder = folderOf(folder)) missing.unshift(folder);
    steps.push(...missing.map((folder): Step => ({ type: "make-folder", folder, shared: true })));
    steps.push({ type: "write", file, before, after });
  }
  return {
    act: "launcher",
    words: () => (away ? "Took the launcher for gathering away" : "Put a launcher for gathering among your programs"),
    steps,
    left: [],
  };
}

/** A desktop entry (Desktop Entry Specification 1.5) that runs Vuoto by command. */
function launcherText(command: string[]): string {
  const exec = (word: string) => [...command, word].map(execWord).join(" ");
  return [
    "[Desktop Entry]",
    "Type=Application",
    "Version=1.5",
    "Name=Gather everything",
    "Comment=Everything on the desktop into one folder, to be set out again exactly",
    `Exec=${exec("gather")}`,
    "Terminal=false",
    "Categories=Utility;",
    "Actions=set-out;",
    "",
    "[Desktop Action set-out]",
    "Name=Set it out again",
    `Exec=${exec("set-out")}`,
    "",
  ].join("\n");
}
