import type { Command } from "commander";
import { straightenings } from "@/contract/straighten";
import { Problem } from "@/core/problem";
import { iconSizes } from "@/core/screen/state";
import type { Given } from "../given";
import { out, printReport, statusOf, words } from "../print";

interface Words {
  by: string;
  icon?: string;
  spacing?: string;
  margin?: string;
}

/** The command for icons that lie well. */
export function straightenCommands(program: Command, given: Given): void {
  program
    .command("straighten")
    .requiredOption("--by <how>", `${straightenings.join(", ")}: near keeps each near its place`)
    .option("--icon <pixels>", `how large the icons are then: ${iconSizes.join(", ")}`)
    .option("--spacing <pixels>", "between two icons")
    .option("--margin <pixels>", "kept free along the edges")
    .description("put the icons that are in sight onto a grid, where Vuoto draws the screen itself")
    .action((said: Words) => {
      const { dryRun } = given.common();
      const by = straightenings.find((one) => one === said.by);
      if (!by) throw new Problem("bad-words", { detail: `There are: ${straightenings.join(", ")}.` });
      const [icon, spacing, margin] = [said.icon, said.spacing, said.margin].map(pixels);
      return given.withLink(
        (link) => link.ask("quiet/straighten", { by, icon, spacing, margin, dryRun }),
        (answer) => {
          const { icons, fits, best, way, sortedWay } = answer.straight;
          if (best) {
            out(
              `There are ${words().counted(icons, "icon")}, and only ${fits} fit. With icons of ${best.icon}, ${best.spacing} between them and a margin of ${best.margin}, ${best.fits} would.`,
            );
            return 3;
          }
          printReport(answer, dryRun === true);
          const sorted = by === "near" ? `; sorted by name it would be ${words().count(sortedWay)}` : "";
          out(`There is room for ${words().counted(fits, "icon")}. Together they move ${words().count(way)} pixels${sorted}.`);
          return statusOf(answer);
        },
      );
    });
}

function pixels(text: string | undefined): number | undefined {
  if (text === undefined) return undefined;
  if (!/^\d{1,4}$/.test(text)) throw new Problem("bad-words", { detail: `${text} is no number of pixels.` });
  return Number(text);
}
