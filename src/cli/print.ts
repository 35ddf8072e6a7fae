import type { CheckAnswer } from "@/contract/depots";
import type { ReportJson } from "@/contract/items";
import type { SurveyAnswer } from "@/contract/survey";
import { makeWords } from "@/core/words/words";

const words = makeWords("en-GB", Intl.DateTimeFormat().resolvedOptions().timeZone, Date.now());
const out = (text: string) => process.stdout.write(`${text}\n`);

/** An act's report; answers the exit status: 0 done, 1 some refused, 3 all refused. */
export function printReport(report: ReportJson, trial: boolean): number {
  if (report.done === 0) out(trial ? "Nothing would be done." : "Nothing was done.");
  else out(trial ? `Would say: ${report.words}` : `${report.words}${report.entry ? ` (entry ${report.entry})` : ""}`);
  if (trial) for (const step of report.steps ?? []) out(`  ${step}`);
  for (const { name, why } of report.refused) out(`  not ${name}: ${why}`);
  return statusOf(report);
}

export function statusOf(report: ReportJson): number {
  if (report.refused.length === 0) return 0;
  return report.done > 0 ? 1 : 3;
}

export function printSurvey(answer: SurveyAnswer): void {
  for (const { id, path, figures, items } of answer.worktops) {
    const parts = [`${words.counted(figures.items, "thing")} on the ${id} (${path})`, words.bytes(figures.bytes)];
    if (figures.coveredShare !== null) parts.push(`covering ${words.share(figures.coveredShare)} of the screen`);
    if (figures.overlapping !== null) parts.push(`${words.count(figures.overlapping)} overlapping`);
    if (figures.minutesToClear !== null) parts.push(`about ${words.duration(figures.minutesToClear * 60_000)} to clear`);
    out(parts.join(", "));
    for (const item of items)
      out(
        `  ${item.kind.padEnd(13)} ${words.bytes(item.bytes).padStart(10)}  ${words.ago(Date.parse(item.modifiedAt)).padEnd(18)} ${item.name}`,
      );
  }
  for (const finding of answer.findings) {
    out(`${words.counted(finding.wins.items, "thing")}: ${finding.kind}, ${words.bytes(finding.wins.bytes)}; ${finding.proof}`);
    for (const path of finding.items) out(`  ${path}`);
  }
}

export function printCheck(answer: CheckAnswer): number {
  const files = `${words.counted(answer.files, "file")}, ${words.bytes(answer.bytes)}`;
  out(
    answer.whole
      ? `“${answer.parcel}” is whole: ${files}, every checksum the same.`
      : `“${answer.parcel}” is not whole; ${files} are.`,
  );
  for (const path of answer.damaged) out(`  differs: ${path}`);
  for (const path of answer.missing) out(`  missing: ${path}`);
  return answer.whole ? 0 : 3;
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
