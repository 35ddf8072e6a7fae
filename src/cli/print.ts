import { createInterface } from "node:readline/promises";
import type { CheckAnswer, DeleteAnswer } from "@/contract/depots";
import { isNoted, type ReportJson } from "@/contract/items";
import type { EmptyingAnswer } from "@/contract/ledger";
import type { LeftOutAnswer, SurveyAnswer } from "@/contract/survey";
import type { PlaceView } from "@/contract/views";
import { Problem } from "@/core/problem";
import { makeWords, type Words } from "@/core/words/words";
import * as voice from "./voice";

let made: Words | undefined;
/** Made when the first of them is said: many commands say none. */
const words = (): Words => {
  made ??= makeWords("en-GB", Intl.DateTimeFormat().resolvedOptions().timeZone, Date.now());
  return made;
};
const out = (text: string) => voice.out(`${text}\n`);

/** An act's report; answers the exit status: 0 done, 1 some refused, 3 all refused. */
export function printReport(report: ReportJson, trial: boolean): number {
  // An occasion may begin where there is nothing to take: then that was done.
  if (report.done === 0 && !isNoted(report)) out(trial ? "Nothing would be done." : "Nothing was done.");
  else out(trial ? `Would say: ${report.words}` : `${report.words}${report.entry ? ` (entry ${report.entry})` : ""}`);
  if (trial) for (const { words: step } of report.steps ?? []) out(`  ${step}`);
  if (trial) for (const act of report.acts ?? []) out(`  ${act}`);
  for (const { name, why } of report.refused) out(`  not ${name}: ${why}`);
  return statusOf(report);
}

export function statusOf(report: ReportJson): number {
  if (report.refused.length === 0) return 0;
  return report.done > 0 ? 1 : 3;
}

export function printSurvey(answer: SurveyAnswer): void {
  for (const { id, path, figures, items } of answer.worktops) {
    const parts = [`${words().counted(figures.items, "thing")} on the ${id} (${path})`, words().bytes(figures.bytes)];
    if (figures.coveredShare !== null) parts.push(`covering ${words().share(figures.coveredShare)} of the screen`);
    if (figures.overlapping !== null) parts.push(`${words().count(figures.overlapping)} overlapping`);
    if (figures.nowhereElse !== null) parts.push(`${words().count(figures.nowhereElse)} nowhere else`);
    if (figures.minutesToClear !== null) parts.push(`about ${words().duration(figures.minutesToClear * 60_000)} to clear`);
    out(parts.join(", "));
    for (const { kind, items: n, bytes } of figures.kinds)
      out(`  ${kind.padEnd(13)} ${words().bytes(bytes).padStart(10)}  ${words().counted(n, "thing")}`);
    if (figures.hidden > 0)
      out(`  ${words().counted(figures.hidden, "more is", "more are")} hidden by a dot in front, and no icons`);
    for (const item of items)
      out(
        `  ${item.kind.padEnd(13)} ${words().bytes(item.bytes).padStart(10)}  ${words().ago(Date.parse(item.modifiedAt)).padEnd(18)} ${item.name}`,
      );
  }
  for (const finding of answer.findings) {
    out(
      `${words().counted(finding.wins.items, "thing")}: ${finding.kind}, ${words().bytes(finding.wins.bytes)}; ${finding.proof}`,
    );
    for (const [n, path] of finding.items.entries()) out(`  ${path}\n      ${finding.proofs[n]}`);
  }
}

export function printPlaces(places: PlaceView[]): void {
  for (const { path, protection } of places) out(`${(protection ?? "not protected").padEnd(14)} ${path}`);
}

export function printLeftOut({ always, names, folders, unreadable, enormous }: LeftOutAnswer): void {
  for (const { title, why } of always) out(`always        ${title}: ${why}`);
  for (const name of names) out(`by name       ${name}`);
  for (const { title } of folders) out(`by you        ${title}`);
  for (const { title } of unreadable) out(`not readable  ${title}`);
  for (const { title, files } of enormous)
    out(`enormous      ${title}: ${words().counted(files, "file")}, looked into all the same`);
}

export function printCheck(answer: CheckAnswer): number {
  const files = `${words().counted(answer.files, "file")}, ${words().bytes(answer.bytes)}`;
  out(
    answer.whole
      ? `“${answer.parcel}” is whole: ${files}, every checksum the same.`
      : `“${answer.parcel}” is not whole; ${files} are.`,
  );
  for (const path of answer.damaged) out(`  differs: ${path}`);
  for (const path of answer.missing) out(`  missing: ${path}`);
  for (const { path, place } of answer.elsewhere) out(`  the same content still lies in ${place}: ${path}`);
  return answer.whole ? 0 : 3;
}

const mostNamed = 20;

function printNamed(list: EmptyingAnswer["nowhereElse"]): void {
  for (const { name, why } of list.slice(0, mostNamed)) out(`  ${name}${why ? ` (${why})` : ""}`);
  if (list.length > mostNamed) out(`  and ${list.length - mostNamed} more`);
}

/** What is said of copies in clouds before they count. */
const farAway = (bytes: number, seconds: number | null) =>
  `${words().bytes(bytes)}${seconds === null ? "" : `, about ${words().duration(1000 * seconds)}`}`;

export function printEmptying(what: EmptyingAnswer): void {
  const { nowhereElse, notKnown, far } = what;
  out(`${words().counted(what.count, "thing")} in the trash, ${words().counted(what.files, "file")}, ${what.size}.`);
  if (nowhereElse.length > 0) {
    out(`${words().counted(nowhereElse.length, "of them exists", "of them exist")} nowhere else:`);
    printNamed(nowhereElse);
  }
  if (notKnown.length > 0) {
    out(`Of ${words().count(notKnown.length)} it is not known whether a copy remains:`);
    printNamed(notKnown);
  }
  if (far.things.length > 0)
    out(
      `Of ${words().count(far.things.length)} the only copy lies in a cloud. Without --read-clouds it is not read back first (${farAway(far.bytes, far.seconds)}).`,
    );
  if (nowhereElse.length + notKnown.length + far.things.length === 0)
    out("All of it lies elsewhere too, and is read there before it is erased; shortcuts, links and empty things aside.");
}

export function printDeleting({ files, bytes, nowhereElse, inTrash, notKnown, far }: DeleteAnswer): void {
  const of = (what: { files: number; bytes: number }) =>
    `${words().counted(what.files, "of them", "of them")}, ${words().bytes(what.bytes)}`;
  out(`${words().counted(files, "file")}, ${words().bytes(bytes)}.`);
  if (nowhereElse.files > 0) out(`Nowhere else that Vuoto knows: ${of(nowhereElse)}.`);
  if (inTrash.files > 0) out(`Otherwise only in the trash, which can be emptied: ${of(inTrash)}.`);
  if (notKnown.files > 0) out(`Not known whether a copy remains: ${of(notKnown)} (${notKnown.why.join("; ")}).`);
  if (far.files > 0) out(`In a cloud alone, and not read back first without --read-clouds: ${of(far)}.`);
  if (nowhereElse.files + inTrash.files + notKnown.files + far.files === 0)
    out("All of it lies elsewhere too, and is read there before anything is deleted.");
}

/** Asks on the terminal; anything but yes is no, and where nobody can answer it is no. */
export async function answersYes(question: string): Promise<boolean> {
  if (!process.stdin.isTTY) throw new Problem("bad-words", { detail: "There is nobody to ask here. Add --yes if you mean it." });
  const lines = createInterface({ input: process.stdin, output: process.stderr });
  try {
    return /^y(es)?$/i.test((await lines.question(`${question} (yes/no) `)).trim());
  } finally {
    lines.close();
  }
}

export function printRows(rows: string[][], none: string): void {
  if (rows.length === 0) {
    out(none);
    return;
  }
  const widths = rows[0]!.map((_, column) => Math.max(...rows.map((row) => row[column]!.length)));
  for (const row of rows) out(row.map((cell, n) => (n === row.length - 1 ? cell : cell.padEnd(widths[n]!))).join("  "));
}

export { out, words };
