import { type Raw, rawFromText } from "@/core/names/raw";
import { asProblem, unlessProblem } from "@/core/problem";
import { pointFrom, pointsIn } from "@/core/screen/positions";
import type { ScreenCommands } from "@/core/screen/told";
import { readScreen } from "../db/record";
import type { Engine } from "../engine";
import { shellLine } from "../settings/command-line";
import type { Item } from "../survey/items";
import { placed } from "./placed";
import type { Screen } from "./screen";
import { askScreen, saidLast, toldOf } from "./told-commands";

/** A desktop that takes commands: told to hide all of its icons, or to show them. Nothing moves. */
export const told: Screen = {
  name: "told",
  title: "by commands of your own",
  sentence: "Nothing moves: commands that you wrote down tell the screen to hide all icons, or to show them.",
  caution: "It hides all or nothing, and whether it did is known only where the screen can be asked.",
  byCommandAlone: true,
  allOrNothing: true,
  unfit(engine) {
    try {
      toldOf(engine.account);
      return undefined;
    } catch (error) {
      return `${asProblem(error).title} The README says how it is written.`;
    }
  },
  commands(engine) {
    const told = unlessProblem(() => toldOf(engine.account));
    const lines = told && { hide: told.hide, show: told.show, ask: told.ask };
    return lines && Object.entries(lines).flatMap(([does, line]) => (line ? [{ does, line: shellLine(line) }] : []));
  },
  positions(engine, items) {
    const said = unlessProblem(() => toldOf(engine.account))?.positions;
    const known = said && unlessProblem(() => placesOf(engine, items, said));
    return known && placed(items, ({ id }) => known.get(id), readScreen(engine.db).size);
  },
  outOfSight(engine, items, shown) {
    const isHidden = shown.level !== "everything" && saidLast(engine)?.answer !== "shown";
    return new Set(isHidden ? items.map(({ id }) => id) : []);
  },
  believed(engine, shown) {
    if (shown.level === "everything") return "known";
    const answer = saidLast(engine)?.answer;
    return answer === "hidden" ? "known" : answer === "shown" ? "otherwise" : "asked";
  },
  async ask(engine) {
    const told = unlessProblem(() => toldOf(engine.account));
    if (told) await askScreen(engine, told);
  },
  steps(engine, _items, from, to) {
    const [was, is] = [from, to].map(({ level }) => level !== "everything");
    // One that says otherwise is told again.
    const again = is && saidLast(engine)?.answer === "shown";
    if (was === is && !again) return [{ type: "screen", part: "shown", from, to }];
    return [{ type: "tell", to: is ? "hide" : "show", shown: { from, to } }];
  },
};

/** Where the screen says that its icons lie. */
function placesOf(engine: Engine, items: readonly Item[], said: NonNullable<ScreenCommands["positions"]>) {
  if ("file" in said) {
    const file = rawFromText(said.file);
    const content = engine.disk.readFile(file)?.content;
    const points = content === undefined ? new Map() : pointsIn(content, said);
    return new Map(items.map(({ id, name }) => [id, points.get(name)]));
  }
  const folder = engine.account.worktops.find(({ id }) => id === "desktop")?.folder;
  const texts = folder
    ? engine.disk.attributeOf(
        folder,
        items.map(({ name }) => name),
        said.attribute,
      )
    : new Map<Raw, Raw>();
  return new Map(
    items.map(({ id, name }) => {
      const text = texts.get(name);
      return [id, text === undefined ? undefined : pointFrom(text.replace(/\0$/, ""), said)];
    }),
  );
}
