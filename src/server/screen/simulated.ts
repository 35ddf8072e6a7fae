import type { Point } from "@/core/ledger/shapes";
import type { ScreenSize } from "@/core/screen/state";
import { readPosition, readScreen } from "../db/record";
import { whereHollows } from "../hollow/spots";
import { placed } from "./placed";
import type { Screen } from "./screen";

/** A place that is beyond the edge of a screen that was larger before is drawn at its edge. */
const within = (at: Point | undefined, { width, height, icon }: ScreenSize): Point | undefined =>
  at && { x: Math.max(0, Math.min(at.x, width - icon.width)), y: Math.max(0, Math.min(at.y, height - icon.height)) };

/** The sample computer's screen: Vuoto draws it itself, so nothing has to move. */
export const simulated: Screen = {
  name: "simulated",
  title: "on a screen that Vuoto draws",
  sentence: "Nothing is moved or deleted: this screen is drawn by Vuoto, and draws less.",
  placesIcons: true,
  positions(engine, items) {
    const hollows = whereHollows(engine.db);
    const { size } = readScreen(engine.db);
    return placed(items, ({ id, path }) => within(readPosition(engine.db, id) ?? hollows.get(path), size), size);
  },
  outOfSight(_engine, items, shown) {
    const hidden = new Set(shown.hidden);
    return new Set(items.flatMap(({ id }) => (hidden.has(id) ? [id] : [])));
  },
  steps: (_engine, _items, from, to) => [{ type: "screen", part: "shown", from, to }],
};
