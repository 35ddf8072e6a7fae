import type { FindingView, SurveyView } from "@/contract/views";
import { shownName } from "@/core/names/raw";
import { inWords } from "@/core/sitting/pace";
import { type Finding, type FindingKind, settles } from "@/core/survey/findings";
import { tideMarks } from "@/core/survey/tide";
import type { Words } from "@/core/words/words";
import { fromAccount, type WorktopId } from "../account";
import type { Engine, Reading } from "../engine";
import { othersFirst } from "../jobs/gentle";
import { screenOf } from "../screen/screens";
import { timeToClear } from "../sitting/pace";
import { undecided } from "../sitting/pile";
import { figuresLastTime } from "./figures-of-day";
import { itemById, thingsOn } from "./items";
import { clearedToday } from "./left-since";
import { absentPlaces, nowhereElse, protectedPlaces } from "./protection";
import { marked } from "./since";
import { coveredShareOf, findings, type Sheet, sheetOf } from "./survey";
import { sheetView } from "./tile";

const titles: Record<WorktopId, string> = { desktop: "desktop", downloads: "downloads" };

/** The view of a worktop; the desktop where none, or one that there is not, is asked for. */
export async function surveyView(engine: Engine, asked?: string): Promise<SurveyView> {
  const found = await findings(engine);
  await othersFirst();
  const { account } = engine;
  const words = engine.words();
  const worktop = account.worktops.find((w) => w.id === asked) ?? account.worktops[0]!;
  const sheet = sheetOf(engine, worktop);
  return {
    sheets: account.worktops.map(({ id }) => ({ id, title: titles[id], count: thingsOn(engine.db, id).length })),
    sheet: marked(engine, sheetView(engine, sheet, sheet.figures.overlapping)),
    sentence: sentenceOf(sheet, nowhereElse(engine, worktop.id), words),
    note: sheet.positioned ? "drawn to scale" : "in order of age, as this screen does not say where its icons lie",
    findings: found.map((finding, n) => findingView(engine, finding, n, sheet, words)),
    tideMarks: tideMarks(),
    hidden: engine.hidden.get(worktop.id) ?? 0,
    undecided: undecided(engine).length,
    protectedPlaces: protectedPlaces(engine).length,
    absentPlaces: absentPlaces(engine).map((folder) => fromAccount(account, shownName(folder))),
    sinceLastTime: sinceLastTime(engine, sheet, words),
    unreadable: account.worktops
      .filter((w) => engine.unreadable.includes(w.id))
      .map((w) => fromAccount(account, shownName(w.folder))),
    unreadableFolders: engine.unwalked.filter(({ why }) => why === "unreadable").length,
    cleared: clearedToday(engine, sheet),
    hollows: sheet.hollows,
    screen: screenOf(engine).name,
  };
}

function sentenceOf(
  { worktop, items, figures, outOfSight, positioned }: Sheet,
  nowhere: string[] | null,
  words: Words,
): SurveyView["sentence"] {
  const where = worktop.id === "desktop" ? "on the desktop" : "in downloads";
  if (items.length === 0) return [{ text: `Nothing lies ${where}.` }];
  const all = items.map((item) => item.id);
  const parts: SurveyView["sentence"] = [
    { text: words.counted(items.length, "thing"), items: all },
    { text: ` ${items.length === 1 ? "lies" : "lie"} ${where}. ` },
  ];
  const inSight = items.length - outOfSight.size;
  if (positioned && inSight === 0) parts.push({ text: "All are out of sight; together they hold " });
  else if (figures.coveredShare !== null && figures.overlapping !== null) {
    parts.push({
      text:
        items.length === 1 ? "It covers " : outOfSight.size > 0 ? `The ${words.count(inSight)} in sight cover ` : "They cover ",
    });
    parts.push({ text: words.share(figures.coveredShare), items: all.filter((id) => !outOfSight.has(id)) });
    parts.push({ text: " of the screen, " });
    if (figures.overlapping.size > 0) {
      parts.push(
        { text: words.count(figures.overlapping.size), items: [...figures.overlapping] },
        { text: " of them overlap, and together they hold " },
      );
    } else parts.push({ text: "none overlap, and together they hold " });
  } else parts.push({ text: items.length === 1 ? "It holds " : "Together they hold " });
  parts.push({
    text: words.bytes(figures.bytes),
    items: items
      .toSorted((a, b) => b.bytes - a.bytes)
      .slice(0, 12)
      .map((item) => item.id),
  });
  if (figures.counting) parts.push({ text: " so far, as folders are still being counted" });
  if (nowhere !== null)
    parts.push(
      { text: "; " },
      { text: words.count(nowhere.length), items: nowhere },
      { text: nowhere.length === 1 ? " exists nowhere else" : " exist nowhere else" },
    );
  if (figures.timeToClear !== null && figures.timeToClear.ms > 0)
    parts.push({
      text: `; to decide about the ${words.count(figures.undecided)} without a verdict takes ${inWords(figures.timeToClear, words)} at your pace`,
    });
  parts.push({ text: "." });
  return parts;
}

const letters = "abcdefghijklmnopqrstuvwxyz";

const titlesOf: Record<FindingKind, [one: string, more: string]> = {
  "dead shortcut": ["shortcut leads nowhere", "shortcuts lead nowhere"],
  twins: ["thing is identical with another", "things are identical with others"],
  "spent archive": ["archive lies unpacked beside itself", "archives lie unpacked beside themselves"],
  empty: ["thing is empty", "things are empty"],
  "half download": ["download never finished", "downloads never finished"],
  "twins inside": ["folder holds what lies elsewhere too", "folders hold what lies elsewhere too"],
  "in use": ["thing is in use", "things are in use"],
  stale: ["thing is untouched for half a year", "things are untouched for half a year"],
  large: ["thing holds half of all bytes", "things hold half of all bytes"],
  "nowhere else": ["thing exists nowhere else", "things exist nowhere else"],
};

function findingView(engine: Reading, finding: Finding, n: number, sheet: Sheet, words: Words): FindingView {
  const items = finding.each.map(({ id }) => id);
  const [first] = finding.each;
  const only = finding.each.length === 1 && first ? itemById(engine.db, first.id) : undefined;
  return {
    letter: letters[n % letters.length]!,
    kind: finding.kind,
    title: words.counted(items.length, ...titlesOf[finding.kind]),
    proof: only && first ? `${only.label}: ${first.proof}` : finding.proof,
    items,
    stay: finding.each.flatMap(({ stays }) => (stays && "id" in stays ? [stays.id] : [])),
    action: items.length === 1 ? "choose it" : `choose these ${words.count(items.length)}`,
    settles: settles(finding.kind),
    wins: winsOf(engine, finding, sheet, words),
  };
}

/** What letting these go would win: bytes, screen, and time at the person's own pace. */
function winsOf(engine: Reading, finding: Finding, sheet: Sheet, words: Words): string {
  if (!settles(finding.kind)) return finding.wins.bytes > 0 ? words.bytes(finding.wins.bytes) : "";
  const wins: string[] = finding.wins.bytes > 0 ? [words.bytes(finding.wins.bytes)] : [];
  const going = new Set(finding.each.map(({ id }) => id));
  if (sheet.positioned && sheet.figures.coveredShare !== null) {
    const seen = sheet.items.filter((item) => !sheet.outOfSight.has(item.id) && !going.has(item.id));
    const share =
      sheet.figures.coveredShare -
      coveredShareOf(
        seen.map((item) => sheet.points.get(item.id)!),
        sheet.screen,
      );
    if (share > 0.0005) wins.push(`${words.share(share)} of the screen`);
  }
  const things = sheet.items.filter((item) => going.has(item.id));
  const time = timeToClear(engine, things);
  if (time && time.ms > 0) wins.push(words.duration(time.ms));
  return wins.join(", ");
}

/** What another day's figures were, beside today's. */
function sinceLastTime(engine: Reading, sheet: Sheet, words: Words): string | undefined {
  const last = figuresLastTime(engine, sheet.worktop.id);
  if (!last) return undefined;
  const difference = sheet.items.length - last.figures.items;
  const parts = [
    difference === 0 ? "as many things" : `${words.counted(Math.abs(difference), "thing")} ${difference > 0 ? "more" : "fewer"}`,
  ];
  const bytes = sheet.figures.bytes - last.figures.bytes;
  if (bytes !== 0) parts.push(`${words.bytes(Math.abs(bytes))} ${bytes > 0 ? "more" : "less"}`);
  if (sheet.figures.coveredShare !== null && last.figures.coveredShare !== null)
    parts.push(`${words.share(last.figures.coveredShare)} of the screen then`);
  if (last.figures.nowhereElse !== null) parts.push(`${words.count(last.figures.nowhereElse)} nowhere else then`);
  return `Since ${words.date(last.at)}: ${parts.join(", ")}.`;
}
