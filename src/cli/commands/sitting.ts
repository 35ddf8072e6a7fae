import type { Command } from "commander";
import type { DepotJson } from "@/contract/depots";
import { Problem } from "@/core/problem";
import type { Given } from "../given";
import { out, printReport } from "../print";
import { depotWord, homeWord } from "../words-given";

/** The commands for verdicts on single things. */
export function sittingCommands(program: Command, given: Given): void {
  const { act, show, withLink, common, items, until } = given;
  program
    .command("stay")
    .argument("<item...>")
    .option("--until <date>", "a day, such as 2027-03-01, friday, or in two weeks")
    .option("--while <project>", "for as long as a project is under way")
    .description("leave things where they lie, on purpose")
    .action((names: string[], o: { until?: string; while?: string }) =>
      act("sitting/stay", async (account) => ({ items: items(account, names), until: await until(o.until), project: o.while })),
    );
  program
    .command("wait")
    .argument("<item...>")
    .option("--until <date>", "a day, such as 2027-03-01, friday, or in two weeks")
    .description("ask again on a date, or in thirty days")
    .action((names: string[], o: { until?: string }) =>
      act("sitting/wait", async (account) => ({ items: items(account, names), until: await until(o.until) })),
    );
  program
    .command("let-go")
    .argument("<item...>")
    .description("let things go: to the trash, and back")
    .action((names: string[]) => act("sitting/let-go", (account) => ({ items: items(account, names) })));
  program
    .command("note")
    .argument("<item...>")
    .option("--into <note>", "add them to a note, or begin one of that title")
    .option("--home <home>", "the home in which notes lie; named once")
    .description("make notes in Markdown of things, which go with them")
    .action((names: string[], o: { into?: string; home?: string }) =>
      act("sitting/note", (account) => ({
        items: items(account, names),
        into: o.into,
        home: o.home ? homeWord(o.home) : undefined,
      })),
    );
  program
    .command("undecided")
    .description("what waits for a later verdict")
    .action(() =>
      show("sitting/undecided", {}, (list) => {
        if (list.length === 0) out("Nothing waits for a later verdict.");
        for (const { name, until: at, since, due, state } of list)
          out(
            `${due ? "due since" : "until"} ${at.slice(0, 10)}  ${name}  (waits since ${since.slice(0, 10)}${state === "as it was" ? "" : `, ${state}`})`,
          );
      }),
    );
  const project = program.command("project").description("things that stay while something is under way");
  project
    .command("start")
    .argument("<name>")
    .argument("<item...>")
    .description("leave things lying while a project is under way")
    .action((name: string, names: string[]) =>
      act("sitting/stay", (account) => ({ items: items(account, names), project: name })),
    );
  project
    .command("end")
    .argument("<name>")
    .option("--archive", "collect its things in a parcel of its title")
    .description("end a project: its things come up again")
    .action((name: string, o: { archive?: boolean }) =>
      act("sitting/end-project", () => ({ project: name, archive: o.archive })),
    );
  project
    .command("list")
    .description("the projects under way, and what stays for each")
    .action(() =>
      show("sitting/projects", {}, (list) => {
        if (list.length === 0) out("No project is under way.");
        for (const { title, since, things } of list) {
          out(`${title}, since ${since.slice(0, 10)}`);
          for (const { path } of things) out(`  ${path}`);
        }
      }),
    );
  program
    .command("archive")
    .argument("<depot>")
    .argument("<item...>")
    .option("--parcel <name>")
    .description("send things to a depot in a parcel; the originals go to the trash once all of it was read back")
    .action((depot: string, names: string[], o: { parcel?: string }) => archive(depot, names, o.parcel));

  async function archive(depot: string, names: string[], title?: string): Promise<void> {
    const parcel = title ?? `Archive ${new Date().toISOString().slice(0, 10)} ${new Date().toTimeString().slice(0, 8)}`;
    const { dryRun } = common();
    await withLink(
      async (link, account) => {
        // Nothing is collected for a depot that there is not.
        const depots = await link.ask("depots/list", {});
        const to = depotWord(depot);
        const isTo = ({ id, title: called, location }: DepotJson) =>
          [id, called, location].some((word) => word === to || word === `${to}/`);
        if (!depots.some(isTo)) throw new Problem("unknown-depot", { place: depot });
        const collected = await link.ask("sitting/archive", { items: items(account, names), parcel, dryRun });
        if (dryRun || collected.done === 0) return collected;
        return link.ask("depots/send", { parcel, depot: to });
      },
      (report) => printReport(report, dryRun === true),
    );
  }
}
