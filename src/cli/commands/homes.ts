import type { Command } from "commander";
import type { OverlookedAnswer } from "@/contract/homes";
import { splits } from "@/core/homes/filing-plan";
import { titleWords } from "@/core/homes/titles";
import { Problem } from "@/core/problem";
import type { Given } from "../given";
import { out, printRows, words } from "../print";
import { homeWord } from "../words-given";

const titleHelp = `new titles: words, and in braces ${titleWords.join(", ")}`;

function printGroups(groups: OverlookedAnswer[], none: string): void {
  for (const { why, home, isNew, items: of } of groups) {
    out(`${why}: ${words().counted(of.length, "thing")}, into ${isNew ? "a new home, " : ""}${home}`);
    for (const item of of) out(`  ${item}`);
  }
  if (groups.length === 0) out(none);
}

/** The commands for homes, sweeps and gatherings. */
export function homesCommands(program: Command, given: Given): void {
  const { act, show, items, worktopWord } = given;
  program
    .command("put")
    .argument("<home>")
    .argument("<item...>")
    .option("--title <pattern>", titleHelp)
    .description("put things away into a home, made where it is new; from the desktop and downloads, or from another home")
    .action((home: string, names: string[], o: { title?: string }) =>
      act("homes/put", (account) => ({ home: homeWord(home), items: items(account, names), title: o.title })),
    );
  program
    .command("retitle")
    .argument("<pattern>", titleHelp)
    .argument("<item...>")
    .description("give things new titles where they lie")
    .action((pattern: string, names: string[]) =>
      act("homes/retitle", (account) => ({ title: pattern, items: items(account, names) })),
    );
  program
    .command("make-home")
    .argument("<title...>", "such as Station / Tides; Desktop / Tools lies on the desktop itself")
    .description("make homes, with nothing in them yet")
    .action((titles: string[]) => act("homes/add", () => ({ homes: titles.map(homeWord) })));
  program
    .command("suggested")
    .description("new homes that what lies there suggests, and how much would go into each")
    .action(() =>
      show("homes/suggested", {}, (homes) =>
        printRows(
          homes.map(({ title, why, things }) => [title, words().counted(things.length, "thing"), why]),
          "No new home is needed.",
        ),
      ),
    );
  program
    .command("sweep")
    .argument("[home]", "without it, all homes at once")
    .option("--title <pattern>", titleHelp)
    .description("take everything that surely belongs to a home, or to any")
    .action((home: string | undefined, o: { title?: string }) => {
      if (home === undefined && o.title !== undefined)
        throw new Problem("bad-words", { detail: "A pattern for titles goes with one home." });
      return act("homes/sweep", () => (home === undefined ? { all: true } : { home: homeWord(home), title: o.title }));
    });
  program
    .command("overlooked")
    .description("what has no sure home yet, gathered by likeness, each with a home that may fit")
    .action(() => show("homes/overlooked", {}, (groups) => printGroups(groups, "Nothing is overlooked.")));
  program
    .command("finer")
    .description("what lies in a broad home, and the homes in it that may suit it better")
    .action(() =>
      show("homes/finer", {}, (groups) => printGroups(groups, "Nothing in a broad home would suit one inside it better.")),
    );
  program
    .command("gather")
    .argument("[folder]", "its name on the worktop (Gathered), or a path to a home")
    .option("--except <name...>", "what stays: names, and patterns such as *.pdf")
    .option("--worktop <worktop>", "desktop or downloads", "desktop")
    .option("--even-in-use", "what a program has open is taken along too")
    .description("everything on a worktop into one folder, to be set out again exactly")
    .action((folder: string | undefined, o: { except?: string[]; worktop: string; evenInUse?: boolean }) =>
      act("homes/gather", () => ({
        ...(folder === undefined ? {} : folder.includes("/") ? { home: homeWord(folder) } : { title: folder }),
        except: o.except,
        evenInUse: o.evenInUse,
        worktop: worktopWord(o.worktop),
      })),
    );
  program
    .command("set-out")
    .argument("[gathering]", "the name of its folder; without it the latest")
    .option("--only <name...>", "single things of it")
    .description("set a gathering out again, each thing where it lay")
    .action((gathering: string | undefined, o: { only?: string[] }) =>
      act("homes/set-out", () => ({ gathering, things: o.only })),
    );
  program
    .command("plan")
    .description("the homes, one below the other; what is too wide or too deep is said")
    .action(() =>
      show("homes/plan", {}, (homes) => {
        for (const { name, depth, files, tooWide, tooDeep } of homes)
          out(`${"  ".repeat(depth)}${name}  ${files}${tooWide ? "  too wide" : ""}${tooDeep ? "  too deep" : ""}`);
      }),
    );
  program
    .command("split")
    .argument("<home>")
    .argument("<by>", splits.join(", "))
    .description("split a home into folders below it")
    .action((home: string, by: string) => {
      const way = splits.find((one) => one === by);
      if (!way) throw new Problem("bad-words", { detail: `${by} is none of ${splits.join(", ")}.` });
      return act("homes/split", () => ({ home: homeWord(home), by: way }));
    });
  program
    .command("gatherings")
    .description("what is gathered, and where it lies now")
    .action(() =>
      show("homes/gatherings", {}, (list) => {
        printRows(
          list.map(({ title, place: where, when, things }) => [title, words().counted(things.length, "thing"), where, when]),
          "Nothing is gathered.",
        );
      }),
    );
}
