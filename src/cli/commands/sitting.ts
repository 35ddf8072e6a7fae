import type { Command } from "commander";
import { Problem } from "@/core/problem";
import type { Given } from "../given";
import { printReport } from "../print";
import { depotWord } from "../words-given";

/** The commands for verdicts on single things. */
export function sittingCommands(program: Command, given: Given): void {
  const { act, withLink, common, items, until } = given;
  program
    .command("stay")
    .argument("<item...>")
    .option("--until <date>")
    .description("leave things where they lie, on purpose")
    .action((names: string[], o: { until?: string }) =>
      act("sitting/stay", (account) => ({ items: items(account, names), until: until(o.until) })),
    );
  program
    .command("wait")
    .argument("<item...>")
    .option("--until <date>")
    .description("ask again on a date, or in thirty days")
    .action((names: string[], o: { until?: string }) =>
      act("sitting/wait", (account) => ({ items: items(account, names), until: until(o.until) })),
    );
  program
    .command("let-go")
    .argument("<item...>")
    .description("let things go: to the trash, and back")
    .action((names: string[]) => act("sitting/let-go", (account) => ({ items: items(account, names) })));
  program
    .command("archive")
    .argument("<depot>")
    .argument("<item...>")
    .option("--parcel <name>")
    .description("send things to a depot in a parcel; the originals go once it is proven")
    .action((depot: string, names: string[], o: { parcel?: string }) => archive(depot, names, o.parcel));

  async function archive(depot: string, names: string[], title?: string): Promise<void> {
    const parcel = title ?? `Archive ${new Date().toISOString().slice(0, 10)} ${new Date().toTimeString().slice(0, 8)}`;
    const { dryRun } = common();
    await withLink(
      async (link, account) => {
        // Nothing is collected for a depot that there is not.
        const { depots } = await link.ask("depots/list", {});
        const to = depotWord(depot);
        if (!depots.some(({ id, title: called, folder }) => [id, called, folder].includes(to)))
          throw new Problem("unknown-depot", { place: depot });
        const collected = await link.ask("sitting/archive", { items: items(account, names), parcel, dryRun });
        if (dryRun || collected.done === 0) return collected;
        return link.ask("depots/send", { parcel, depot: to });
      },
      (report) => printReport(report, dryRun === true),
    );
  }
}
