import type { OccasionLine, QuietView } from "@/contract/views";
import { shownName } from "@/core/names/raw";
import { unlessProblem } from "@/core/problem";
import { hoursOf } from "@/core/quiet/occasions";
import { fromAccount } from "../account";
import { prepared } from "../db/prepared";
import type { Engine } from "../engine";
import { layoutTitle } from "../layouts/layouts";
import type { Screen } from "../screen/screen";
import { screenOf } from "../screen/screens";
import { commandWords, shellLine } from "../settings/command-line";
import { pointersInWords } from "../settings/view";
import { marked } from "../survey/since";
import { placesOn } from "../survey/survey";
import { sheetView } from "../survey/tile";
import { type OccasionNow, occasionDoubt, occasionsNow } from "./occasions";
import { iconsOf, quietNow } from "./quiet";

/** How much the screen shows, all that lies on the desktop, and what is out of sight. */
export function quietView(engine: Engine): QuietView {
  const { shown, arrived, left, gone, doubt, believed } = quietNow(engine);
  const screen = screenOf(engine);
  const desktop = engine.account.worktops.find((w) => w.id === "desktop");
  const sheet = desktop && placesOn(engine, desktop);
  const pressed = prepared<[], { entry: number; words: string }>(
    engine.db,
    "SELECT id AS entry, words FROM entry WHERE act = 'quiet' AND by = 'command' AND state <> 'running' ORDER BY id DESC LIMIT 1",
  ).get();
  return {
    level: shown.level,
    kinds: shown.kinds,
    along: shown.along,
    until: shown.until === null ? undefined : engine.words().clock(shown.until),
    doubt: doubt ? "clock" : occasionDoubt(engine),
    sheet: sheet && marked(engine, sheetView(engine, sheet)),
    positioned: sheet?.positioned ?? false,
    placesIcons: screen.placesIcons === true,
    stays: iconsOf(engine).flatMap(({ id, stays }) => (stays ? [id] : [])),
    apart: shown.apart,
    arrived,
    inUse: left.map(({ label }) => label),
    gone: gone.map(({ label }) => label),
    goneFrom: gone[0] && fromAccount(engine.account, shownName(gone[0].folder)),
    occasions: occasionsNow(engine).map((one) => occasionLine(engine, one)),
    sentence: screen.sentence,
    caution: cautionBefore(engine, screen),
    believed,
    allOrNothing: screen.allOrNothing === true,
    command: unlessProblem(() => shellLine([...commandWords(engine.account), "quiet", "toggle"])),
    pressed,
  };
}

/** What is to be known before the first time. */
function cautionBefore(engine: Engine, { caution, pointers }: Screen): string | undefined {
  if (!pointers || prepared<[], number>(engine.db, "SELECT 1 FROM entry WHERE act = 'quiet' LIMIT 1").pluck().get())
    return undefined;
  return [caution, pointersInWords(engine.words(), pointers(engine))].filter(Boolean).join(" ");
}

function occasionLine(engine: Engine, { id, occasion, period, next }: OccasionNow): OccasionLine {
  const words = engine.words();
  const { title, level, kinds, timetable, unnamed, layout } = occasion;
  const when = () => {
    if (period) return Number.isFinite(period.end) ? `under way until ${words.clock(period.end)}` : "under way until you end it";
    return timetable ? (next[0] ? `next ${words.clock(next[0].start)}` : "never again") : "when you begin it";
  };
  return {
    id,
    title,
    words: level === "some kinds" ? `without ${kinds.join(", ")}` : level,
    when: when(),
    next: next.map(({ start, end }) => `${words.dateTime(start)} to ${words.dateTime(end)}`),
    now: period !== undefined,
    ends: period !== undefined && Number.isFinite(period.end),
    level,
    kinds,
    hours: timetable ? hoursOf(timetable) : undefined,
    unnamed: unnamed === true,
    layout: layoutTitle(engine, layout),
  };
}

/** The screen drawn where others may see it: what is in sight, without names and pictures. */
export function withoutNames(view: QuietView): QuietView {
  const { sheet } = view;
  const tiles = sheet?.tiles.filter(({ outOfSight }) => !outOfSight).map((tile) => ({ ...tile, name: "", picture: false }));
  return {
    ...view,
    sheet: sheet && { ...sheet, tiles: tiles ?? [], mark: undefined },
    inUse: [],
    gone: [],
    pressed: undefined,
    command: undefined,
  };
}
