import type { Point } from "@/core/ledger/shapes";
import type { Step } from "@/core/ledger/step";
import type { Problem } from "@/core/problem";
import type { Pointers } from "@/core/screen/pointers";
import type { ScreenName, Shown } from "@/core/screen/state";
import type { Engine } from "../engine";
import type { Item } from "../survey/items";

/** What draws the desktop. Decides how things get out of sight, and whether it is known where they lie. */
export interface Screen {
  name: ScreenName;
  /** How icons go out of sight on it, to read. */
  title: string;
  /** Whether anything moves, in one honest sentence. */
  sentence: string;
  /** What else is to be known before it is chosen. */
  caution?: string;
  /** What leads to things by the place that they have now, and would not find them. */
  pointers?(engine: Engine): Pointers;
  /** Icons can be given other places on it; on others that is the affair of the screen itself. */
  placesIcons?: true;
  /** It is chosen by command, never from a page. */
  byCommandAlone?: true;
  /** It hides all of its icons or none. */
  allOrNothing?: true;
  /** Why it cannot be chosen now, in a sentence, where it cannot. */
  unfit?(engine: Engine): string | undefined;
  /**
   * How it is known what is out of sight: "asked" where it was only told to hide, "otherwise" where it says that it shows all
   * the same. Where this is missing it is known.
   */
  believed?(engine: Engine, shown: Shown): "known" | "asked" | "otherwise";
  /** The commands by which it is told, each as a shell would take it. */
  commands?(engine: Engine): { does: string; line: string }[] | undefined;
  /** Asks it anew, where it can be asked. */
  ask?(engine: Engine): Promise<unknown>;
  /** Why a thing cannot be taken out of sight on it, where it cannot. */
  refuses?(item: Item): Problem | undefined;
  /** Where each item lies; undefined where this screen does not say. */
  positions(engine: Engine, items: readonly Item[]): Map<string, Point> | undefined;
  /** The items that are out of sight, as it really is. */
  outOfSight(engine: Engine, items: readonly Item[], shown: Shown): Set<string>;
  /** Things that somebody else hides, in sight or out of it by Vuoto. */
  hiddenByOthers?(engine: Engine, items: readonly Item[]): Set<string>;
  /** The steps from what is shown to something else. Steps on items that may not go are left out and said. */
  steps(engine: Engine, items: readonly Item[], from: Shown, to: Shown, options: Going): Step[];
}

/** What goes out of sight: also what a program has open; only what is meant. */
export interface Going {
  evenInUse?: true;
  only?: ReadonlySet<string>;
}
