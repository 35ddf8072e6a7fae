import type { Point } from "@/core/ledger/shapes";
import { layOut } from "@/core/survey/figures";
import { readPosition, readScreen } from "../db/record";
import type { Screen } from "./screen";

/** The sample computer's screen: Vuoto draws it itself, so nothing has to move. */
export const simulated: Screen = {
  name: "simulated",
  sentence: "Nothing is moved or deleted: this screen is drawn by Vuoto, and draws less.",
  changes: ["shown"],
  positions(engine, items) {
    const found = new Map<string, Point>();
    const without = items.filter((item) => {
      const at = readPosition(engine.db, item.id);
      if (at) found.set(item.id, at);
      return !at;
    });
    // What has no place yet is drawn on the first free spots, as a desktop does with what arrives.
    const { size } = readScreen(engine.db);
    const { icon } = size;
    const free = layOut(2000, size).points.filter(
      (spot) => ![...found.values()].some((at) => Math.abs(at.x - spot.x) < icon.width && Math.abs(at.y - spot.y) < icon.height),
    );
    for (const [n, item] of without.entries()) found.set(item.id, free[n] ?? { x: 16, y: 16 });
    return found;
  },
  outOfSight: (_engine, _items, shown) => new Set(shown.hidden),
  steps: (_engine, _items, from, to) => [{ type: "screen", part: "shown", from, to }],
};
