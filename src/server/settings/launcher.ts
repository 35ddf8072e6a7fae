import type { ReportJson } from "@/contract/items";
import { type LauncherInput, type LauncherState, launchers } from "@/contract/settings";
import type { SmallFile } from "@/core/ledger/shapes";
import type { Plan, Step } from "@/core/ledger/step";
import { folderOf, joinRaw, nameOf, type Raw, rawFromText, shownName } from "@/core/names/raw";
import { Problem, unlessProblem } from "@/core/problem";
import { entryValue, execWord } from "@/core/survey/desktop-entry";
import { type Account, autostartFile, fromAccount, launcherFile } from "../account";
import { perform } from "../act";
import { readRecords } from "../db/record";
import type { Engine, Reading } from "../engine";
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
  /** Words for Node.js itself. */
  node?: readonly string[];
  /** What else it offers: with each occasion, where it is about these. */
  more?: (occasions: readonly string[]) => { id: string; name: string; runs: string[] }[];
}

/** It is there all day and does little: it takes less memory, and is a little slower. */
const sparing = ["--max-semi-space-size=1", "--optimize-for-size", "--no-opt", "--expose-gc"];

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
    more: () => [{ id: "set-out", name: "Set it out again", runs: ["set-out"] }],
  },
  quiet: {
    file: (account) => joinRaw(account.launchers, launcherFile.quiet),
    purpose: "quiet",
    name: "Quiet, and back",
    comment: "All icons out of sight, and back where they were",
    runs: ["quiet", "toggle"],
    more: (occasions) => [
      { id: "everything", name: "Bring everything back", runs: ["quiet", "off"] },
      ...occasions.map((title, n) => ({
        id: `occasion-${n + 1}`,
        name: `Begin: ${title}`,
        runs: ["occasion", "start", "--", title],
      })),
    ],
  },
  "at log-in": {
    file: (account) => joinRaw(account.autostart, autostartFile),
    purpose: "log-in",
    name: "Vuoto, from log-in on",
    comment: "Ready when a key or a launcher calls it; begins and ends occasions by themselves",
    runs: ["start", "--no-window"],
    node: sparing,
  },
};

/** Which of them are there, and whether as they were made. */
export const launchersNow = (engine: Engine) =>
  launchers.map((which) => {
    const kind = kinds[which];
    const there = unlessProblem(() => engine.disk.readFile(kind.file(engine.account)));
    return { which, name: kind.name, state: stateOf(engine, kind, there) };
  });

function stateOf(engine: Reading, kind: Launcher, there: SmallFile | null | undefined): LauncherState {
  if (there === null) return "none";
  if (!there || !isOurs(kind, there)) return "another's";
  return there.content === rawFromText(launcherText(kind, engine.account, titlesNow(engine))) ? "as made" : "changed";
}

/** The titles of the occasions, in their order. */
const titlesNow = ({ db }: Pick<Reading, "db">): string[] =>
  sorted([...readRecords<{ title: string }>(db, "occasion").values()].map(({ title }) => title));
const sorted = (titles: readonly string[]) => titles.toSorted((a, b) => a.localeCompare(b));

/** The steps by which the launcher for quiet offers the occasions that there will be; none where it is not there as it was made. */
export function launcherFollows(engine: Engine, titles: readonly string[]): Step[] {
  const { account, disk } = engine;
  const kind = kinds.quiet;
  const file = kind.file(account);
  const before = unlessProblem(() => disk.readFile(file));
  if (!before || stateOf(engine, kind, before) !== "as made") return [];
  const content = rawFromText(launcherText(kind, account, sorted(titles)));
  return content === before.content ? [] : [{ type: "write", file, before, after: { ...before, content } }];
}

/** Each begins in a way of its own; what another program changes in it comes after that. */
const isOurs = (kind: Launcher, { content }: SmallFile) => content.startsWith(rawFromText(beginningOf(kind)));

function planLauncher(engine: Engine, { which, away }: LauncherInput): Plan {
  const { account, disk } = engine;
  const kind = kinds[which];
  const file = kind.file(account);
  const before = disk.readFile(file);
  if (before && !isOurs(kind, before))
    throw new Problem("name-taken", { name: shownName(nameOf(file)), place: fromAccount(account, shownName(folderOf(file))) });
  const after = away ? null : { content: rawFromText(launcherText(kind, account, titlesNow(engine))), mode: 0o644 };
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
function launcherText(launcher: Launcher, account: Account, occasions: readonly string[]): string {
  const { comment, runs } = launcher;
  const [node, ...rest] = commandWords(account);
  const command = [node!, ...(launcher.node ?? []), ...rest];
  const exec = (words: string[]) => [...command, ...words].map(execWord).join(" ");
  const more = launcher.more?.(occasions) ?? [];
  return [
    beginningOf(launcher),
    `Comment=${comment}`,
    `Exec=${exec(runs)}`,
    "Terminal=false",
    "Categories=Utility;",
    ...(more.length > 0 ? [`Actions=${more.map(({ id }) => `${id};`).join("")}`] : []),
    ...more.flatMap(({ id, name, runs: words }) => [
      "",
      `[Desktop Action ${id}]`,
      `Name=${entryValue(name)}`,
      `Exec=${exec(words)}`,
    ]),
    "",
  ].join("\n");
}
