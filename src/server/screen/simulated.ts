import { readPosition, readScreen } from "../db/record";
import { whereHollows } from "../hollow/spots";
import { placed } from "./placed";
import type { Screen } from "./screen";

/** The sample computer's screen: Vuoto draws it itself, so nothing has to move. */
export const simulated: Screen = {
  name: "simulated",
  title: "on a screen that Vuoto draws",
  sentence: "Nothing is moved or deleted: this screen is drawn by Vuoto, and draws less.",
  changes: ["shown"],
  placesIcons: true,
  positions(engine, items) {
    const hollows = whereHollows(engine.db);
    return placed(items, ({ id, path }) => readPosition(engine.db, id) ?? hollows.get(path), readScreen(engine.db).size);
  },
  outOfSight: (_engine, _items, shown) => new Set(shown.hidden),
  steps: (_engine, _items, from, to) => [{ type: "screen", part: "shown", from, to }],
};
