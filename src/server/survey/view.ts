import type { FindingView, SurveyView } from "@/contract/views";
import { shownName } from "@/core/names/raw";
import type { Finding } from "@/core/survey/findings";
import { tideMarks } from "@/core/survey/tide";
import type { Words } from "@/core/words/words";
import type { WorktopId } from "../account";
import type { Engine } from "../engine";
import { screenOf } from "../screen/screen";
import { verdictsInForce } from "../sitting/verdict";
import { itemsOn } from "./items";
import { findings, type Sheet, sheetOf } from "./survey";
import { sheetView } from "./tile";

const titles: Record<WorktopId, string> = { desktop: "desktop", downloads: "downloads" };

/** The view of a worktop; the desktop where none, or one that there is not, is asked for. */
export function surveyView(engine: Engine, asked?: string): SurveyView {
  const { account } = engine;
  const words = engine.words();
  const worktop = account.worktops.find((w) => w.id === asked) ?? account.worktops[0]!;
  const sheet = sheetOf(engine, worktop);
  const verdicts = verdictsInForce(engine);
  const undecided = account.worktops.flatMap((w) => itemsOn(engine.db, w.id)).filter((item) => !verdicts.has(item.id)).length;
  return {
    sheets: account.worktops.map(({ id }) => ({ id, title: titles[id], count: itemsOn(engine.db, id).length })),
    sheet: sheetView(engine, sheet),
    sentence: sentenceOf(sheet, words),
    note: sheet.positioned ? "drawn to scale" : "laid out by age, as this screen does not say where icons lie",
    findings: findings(engine).map((finding, n) => findingView(finding, n, words)),
    tideMarks: tideMarks(),
    undecided,
    unreadable: account.worktops.filter((w) => engine.unreadable.includes(w.id)).map((w) => shownName(w.folder)),
    screen: screenOf(engine).name,
  };
}

function sentenceOf({ worktop, items, figures, outOfSight, positioned }: Sheet, words: Words): SurveyView["sentence"] {
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
      .toSorted((a, b) => b.identity.bytes - a.identity.bytes)
      .slice(0, 12)
      .map((item) => item.id),
  });
  if (figures.timeToClear !== null && figures.timeToClear > 0)
    parts.push({ text: `; clearing takes about ${words.duration(figures.timeToClear)} at your pace` });
  parts.push({ text: "." });
  return parts;
}

const letters = "abcdefghijklmnopqrstuvwxyz";

function findingView(finding: Finding, n: number, words: Words): FindingView {
  const { items, bytes } = finding.wins;
  const title =
    finding.kind === "dead shortcut"
      ? `${words.counted(items, "shortcut leads", "shortcuts lead")} nowhere`
      : `${words.counted(items, "thing is", "things are")} identical with another`;
  return {
    letter: letters[n % letters.length]!,
    kind: finding.kind,
    title,
    proof: `${finding.proof}${finding.kind === "twins" ? ` · ${words.bytes(bytes)}` : "; nothing is lost with a shortcut"}`,
    items: finding.items,
    stay: finding.stay,
    action: items === 1 ? "choose it" : `choose these ${words.count(items)}`,
  };
}
