import type { ReportJson } from "@/contract/items";
import type { QuietInput } from "@/contract/quiet";
import type { Plan } from "@/core/ledger/step";
import { Problem } from "@/core/problem";
import { arrivedSince, hiddenAt, type Icon } from "@/core/quiet/levels";
import type { Shown } from "@/core/screen/state";
import { perform } from "../act";
import { readScreen } from "../db/record";
import type { Engine, Reading } from "../engine";
import { screenOf } from "../screen/screens";
import { verdictsInForce } from "../sitting/verdict";
import { itemsOn } from "../survey/items";

/** The desktop's icons, with what decides whether they are shown. */
export function iconsOf(engine: Reading): Icon[] {
  const verdicts = verdictsInForce(engine);
  return itemsOn(engine.db, "desktop").map((item) => ({
    id: item.id,
    kind: item.kind,
    stays: verdicts.get(item.id)?.verdict === "stay",
    arrivedAt: item.arrivedAt,
  }));
}

/** Takes icons out of sight up to a level, or brings them back: one act. */
export function quiet(engine: Engine, input: QuietInput): Promise<ReportJson> {
  return perform(engine, "Changing what the screen shows", () => planQuiet(engine, input), { trial: input.dryRun });
}

function planQuiet(engine: Engine, input: QuietInput): Plan {
  const items = itemsOn(engine.db, "desktop");
  const from = readScreen(engine.db).shown;
  const screen = screenOf(engine);
  const outOfSight = screen.outOfSight(engine, items, from);
  const level = input.level !== "toggle" ? input.level : from.level === "everything" ? "bare" : "everything";
  const hidden = hiddenAt(level, iconsOf(engine));
  const to: Shown = { level, since: level === "everything" ? 0 : engine.now(), hidden };
  if (from.level === to.level && hidden.length === outOfSight.size && hidden.every((id) => outOfSight.has(id)))
    throw new Problem("already-quiet");
  const words = engine.words();
  return {
    act: "quiet",
    words: (done) => {
      const moved = done.filter((step) => step.type === "move").length;
      const n = screen.name === "simulated" ? Math.abs(hidden.length - outOfSight.size) : moved;
      return `${hidden.length > outOfSight.size ? "Took" : "Brought"} ${words.counted(n, "icon")} ${hidden.length > outOfSight.size ? "out of" : "back in"} sight`;
    },
    steps: screen.steps(engine, items, from, to),
    left: [],
    level,
  };
}

/** How it stands: the level, what is out of sight, and what arrived since. */
export function quietNow(engine: Engine) {
  const items = itemsOn(engine.db, "desktop");
  const { shown } = readScreen(engine.db);
  const hidden = screenOf(engine).outOfSight(engine, items, shown);
  const icons = iconsOf(engine);
  return {
    level: shown.level,
    outOfSight: items.filter((item) => hidden.has(item.id)),
    arrived: arrivedSince({ ...shown, hidden: [...hidden] }, icons).length,
    counts: { everything: icons.length, "what stays": icons.filter((icon) => icon.stays).length },
  };
}
