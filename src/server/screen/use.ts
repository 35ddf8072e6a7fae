import type { ReportJson } from "@/contract/items";
import type { UseScreenInput } from "@/contract/settings";
import type { Plan, Step } from "@/core/ledger/step";
import { Problem } from "@/core/problem";
import { firstScreen } from "@/core/screen/state";
import { perform } from "../act";
import { actorNow } from "../actor";
import { readRecord, readScreen } from "../db/record";
import type { Engine } from "../engine";
import { itemsOn } from "../survey/items";
import { firstScreenOf, screenOf, screensFor } from "./screens";
import { outOfSight, stepsTo } from "./sight";
import { toldOf } from "./told-commands";

const key = "setting:screen";

/** Chooses what draws the desktop. What is out of sight is brought back first, by the screen that took it away. */
export function useScreen(engine: Engine, input: UseScreenInput): Promise<ReportJson> {
  return perform(engine, "Choosing the screen", () => planUse(engine, input), { trial: input.dryRun });
}

function planUse(engine: Engine, { name }: UseScreenInput): Plan {
  const { account, db } = engine;
  const next = screensFor(account).find((screen) => screen.name === name);
  if (!next) throw new Problem("screen-unfit", { name });
  if (next.byCommandAlone && actorNow() !== "command") throw new Problem("by-command-alone", { name });
  if (next.name === "told") toldOf(account);
  const now = screenOf(engine);
  const items = itemsOn(db, "desktop");
  const from = readScreen(db).shown;
  const away = outOfSight(engine, items, from).size;
  const steps: Step[] = [];
  if (now.name !== name) {
    if (away > 0 || from.level !== "everything") steps.push(...stepsTo(engine, items, from, firstScreen.shown, {}));
    steps.push({ type: "set", key, from: readRecord(db, key), to: name === firstScreenOf(account) ? null : name });
  }
  const back = away > 0 ? `, and ${engine.words().counted(away, "icon is", "icons are")} back in sight` : "";
  return { act: "screen", words: () => `From now on icons go out of sight ${next.title}${back}`, steps, left: [] };
}
