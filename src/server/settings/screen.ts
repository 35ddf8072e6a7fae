import { isDeepStrictEqual } from "node:util";
import type { ReportJson } from "@/contract/items";
import type { ScreenInput } from "@/contract/settings";
import type { Plan } from "@/core/ledger/step";
import { iconBoxes } from "@/core/screen/state";
import { perform } from "../act";
import { readScreen } from "../db/record";
import type { Engine } from "../engine";

/** Says how large the screen is, and its icons: no screen can be asked. */
export function setScreen(engine: Engine, input: ScreenInput): Promise<ReportJson> {
  return perform(engine, "Changing the screen", () => planScreen(engine, input), { trial: input.dryRun });
}

function planScreen(engine: Engine, { width, height, icon }: ScreenInput): Plan {
  const from = readScreen(engine.db).size;
  const to = { width, height, ...iconBoxes(icon) };
  return {
    act: "screen",
    words: () => `The screen is drawn as ${width} by ${height} pixels, with icons of ${icon}`,
    steps: isDeepStrictEqual(from, to) ? [] : [{ type: "screen", part: "size", from, to }],
    left: [],
  };
}
