import type { Command } from "commander";
import { Problem } from "@/core/problem";
import { settlingKinds } from "@/core/survey/findings";
import type { Given } from "../given";
import { out, printLeftOut, printPlaces, printSurvey } from "../print";
import { folderWord } from "../words-given";

/** The commands for what lies there and what of it can go. */
export function surveyCommands(program: Command, given: Given): void {
  const { act, show, withLink, items, worktopWord } = given;
  program
    .command("survey")
    .argument("[worktop]", "desktop or downloads")
    .description("what lies there, with its figures and findings")
    .action((worktop?: string) => {
      const which = worktop === undefined ? undefined : worktopWord(worktop);
      return withLink(
        async (link) => {
          await link.ask("survey/refresh", {});
          return link.ask("survey/survey", { worktop: which });
        },
        (answer) => {
          printSurvey(answer);
          return 0;
        },
      );
    });
  program
    .command("look")
    .argument("<item>")
    .description("what is in a thing: its pages, sheets, entries, and the beginning of its text")
    .action((name: string) =>
      withLink(
        (link, account) => link.ask("looks/look", { item: items(account, [name])[0]! }),
        ({ name: label, form, kind, facts, why, text }) => {
          out([label, kind, form, ...facts].join(", "));
          if (why) out(`It cannot be shown: ${why}.`);
          if (text) out(text);
          return 0;
        },
      ),
    );
  program
    .command("settle")
    .argument("<finding>", settlingKinds.join(", "))
    .argument("[item...]", "only these of it")
    .description("let go of what a finding is about; each proof is looked at once more")
    .action((finding: string, names: string[]) => {
      const kind = settlingKinds.find((known) => known === finding);
      if (!kind)
        throw new Problem("bad-words", { detail: `${finding} is nothing to settle. There are ${settlingKinds.join(", ")}.` });
      return act("survey/settle", (account) => ({
        finding: kind,
        items: names.length > 0 ? items(account, names) : undefined,
      }));
    });
  program
    .command("protect")
    .argument("<folder>")
    .argument("<how>", "backed-up, synchronised or neither")
    .description("say how a folder is protected: what has no copy in a backed-up one exists nowhere else")
    .action((folder: string, how: string) => {
      const ways = { "backed-up": "backed up", synchronised: "synchronised", neither: null } as const;
      if (!(how in ways)) throw new Problem("bad-words", { detail: `${how} is none of ${Object.keys(ways).join(", ")}.` });
      return act("survey/protect", () => ({ folder: folderWord(folder), protection: ways[how as keyof typeof ways] }));
    });
  program
    .command("places")
    .description("the places that can be protected, and how they are")
    .action(() =>
      show("survey/places", {}, (places) => {
        printPlaces(places);
      }),
    );
  program
    .command("left-out")
    .description("what the walk of homes and protected places does not look into, and why")
    .action(() =>
      show("survey/left-out", {}, (answer) => {
        printLeftOut(answer);
      }),
    );
  program
    .command("leave-out")
    .argument("<folder>", "a folder, or a name without / for every folder that is called so")
    .option("--again", "look into it again")
    .description("leave a folder out of the walk")
    .action((folder: string, o: { again?: boolean }) =>
      act("survey/leave-out", () => ({
        ...(folder.includes("/") ? { folder: folderWord(folder) } : { name: folder }),
        out: o.again !== true,
      })),
    );
}
