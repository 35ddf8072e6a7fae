import type { FromHomeInput } from "@/contract/depots";
import type { ReportJson } from "@/contract/items";
import { isWithin } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import { perform } from "../act";
import type { Engine } from "../engine";
import { homeMeant, homes } from "../homes/homes";
import { collectSteps } from "../sitting/archive";
import { itemsInside } from "../survey/inside";

/**
 * Collects what lies in a home in a parcel: all of it, or what was last changed before a day. Homes below it are homes of their own,
 * and are left, as are folders where a day is named: not all that is in them may be older.
 */
export async function collectFromHome(engine: Engine, input: FromHomeInput): Promise<ReportJson> {
  const { home, steps } = homeMeant(engine, input.home);
  if (steps.length > 0) throw new Problem("unknown-home", { place: home.title });
  const found = await itemsInside(engine, home.folder);
  if (!found) throw new Problem("folder-gone", { place: home.title });
  const below = homes(engine).filter(({ folder }) => folder !== home.folder && isWithin(home.folder, folder));
  const { before } = input;
  const items = found.items.filter(
    (item) =>
      !below.some(({ folder }) => isWithin(item.path, folder)) &&
      (before === undefined || (item.identity.type !== "folder" && item.mtimeMs < before)),
  );
  if (items.length === 0) throw new Problem("parcel-empty", { name: home.title });
  return perform(
    engine,
    "Collecting a parcel",
    () => {
      const { title, steps: collecting } = collectSteps(engine, items, input.parcel ?? home.title, {
        fromHome: true,
        apart: true,
      });
      const things = engine.words().counted(items.length, "thing");
      return {
        act: "archive",
        words: () => `Collected ${things} from the home ${home.title} in the parcel “${title}”`,
        steps: collecting,
        left: [],
      };
    },
    { trial: input.dryRun },
  );
}
