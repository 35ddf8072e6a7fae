import type { Command } from "commander";
import { Problem } from "@/core/problem";
import type { Given } from "../given";
import type { Link } from "../link";
import { answersYes, out, printEmptying, printReport, printRows, words } from "../print";

const positive = (what: string) => (text: string) => {
  if (!/^[1-9]\d{0,14}$/.test(text)) throw new Problem("bad-words", { detail: `${text} is no ${what}.` });
  return Number(text);
};
const entryNumber = positive("entry's number");
const count = positive("number of entries");

/** The sitting to which an entry belongs, or the last entry. */
async function sittingOf(link: Link, entry: number | undefined): Promise<string> {
  const before = entry === undefined ? undefined : entry + 1;
  const [found] = await link.ask("ledger/list", { most: 1, before });
  if (!found || (entry !== undefined && found.id !== entry)) throw new Problem("unknown-entry", { detail: String(entry ?? "") });
  if (found.sitting === null) throw new Problem("bad-words", { detail: `Entry ${found.id} belongs to no sitting.` });
  return found.sitting;
}

/** The commands for the trash and the ledger. */
export function ledgerCommands(program: Command, given: Given): void {
  const { act, show, withLink, common } = given;
  const trash = program.command("trash").description("what was let go");
  trash.command("list").action(() =>
    show("ledger/trash", {}, (rows) => {
      printRows(
        rows.map((t) => [t.deletedAt ? words().ago(Date.parse(t.deletedAt)) : "", words().bytes(t.bytes), t.from ?? t.name]),
        "The trash is empty.",
      );
    }),
  );
  trash
    .command("restore")
    .argument("<item...>", "a name, or the path where it lay")
    .action((names: string[]) =>
      withLink(
        async (link) => {
          const rows = await link.ask("ledger/trash", {});
          const things = names.map((name) => {
            const found = rows.find((row) => row.id === name || row.name === name || row.from === name);
            if (!found) throw new Problem("not-in-trash", { name });
            return found.id;
          });
          return link.ask("ledger/restore", { things, dryRun: common().dryRun });
        },
        (report) => printReport(report, common().dryRun === true),
      ),
    );

  trash
    .command("empty")
    .option("--yes", "do not ask first")
    .option("--read-clouds", "read the copies that remain in clouds back, too")
    .description("erase everything in the trash; says first what that is")
    .action((o: { yes?: boolean; readClouds?: boolean }) =>
      withLink(
        async (link) => {
          const what = await link.ask("ledger/emptying", {});
          if (what.count === 0) throw new Problem("bad-words", { detail: "The trash is empty." });
          if (!common().json) printEmptying(what);
          const { dryRun } = common();
          if (!dryRun && !o.yes && !(await answersYes("Erase them for good?")))
            throw new Problem("cancelled", { name: "Emptying the trash" });
          const network = o.readClouds;
          const lost = network ? what.lost : [...what.lost, ...what.far.things];
          return link.ask("ledger/empty", { things: what.things, lost, network, dryRun });
        },
        (report) => printReport(report, common().dryRun === true),
      ),
    );

  program
    .command("ledger")
    .option("--most <number>", "how many, at most", count)
    .option("--before <entry>", "those before that one", entryNumber)
    .description("everything that was done, the latest first")
    .action((o: { most?: number; before?: number }) =>
      show("ledger/list", o, (entries) => {
        printRows(
          entries.map((e) => [String(e.id), words().ago(e.at), e.state === "undone" ? "undone" : "", e.words]),
          "Nothing has been done yet.",
        );
      }),
    );
  program
    .command("undo")
    .argument("[entry]", "an entry's number, or all; without it the last act")
    .option("--with-later", "and first what came after it and depends on it")
    .option("--sitting", "all that was decided in its sitting")
    .description("take back the last act, an entry, or everything")
    .option("--yes", "many acts at once, without asking")
    .action((entry: string | undefined, o: { withLater?: boolean; sitting?: boolean; yes?: boolean }) => {
      const meant = entry === undefined || entry === "all" ? entry : entryNumber(entry);
      if (!o.sitting && meant !== "all") return act("ledger/undo", () => ({ entry: meant, withLater: o.withLater }));
      if (o.sitting && meant === "all") throw new Problem("bad-words", { detail: "Name one of the sitting's entries." });
      const { dryRun, json } = common();
      return withLink(
        async (link) => {
          const which = meant === "all" ? { entry: "all" as const } : { sitting: await sittingOf(link, meant) };
          // A script has said what it wants; a person is shown it first.
          if (!dryRun && !o.yes && !json && process.stdin.isTTY) {
            const what = await link.ask("ledger/undo", { ...which, dryRun: true });
            out(`${words().counted(what.acts?.length ?? 0, "act is", "acts are")} taken back, the latest first:`);
            for (const taken of what.acts ?? []) out(`  ${taken}`);
            if (!(await answersYes("Take them back?"))) throw new Problem("cancelled", { name: "Taking acts back" });
          }
          return link.ask("ledger/undo", { ...which, dryRun });
        },
        (report) => printReport(report, dryRun === true),
      );
    });
  program
    .command("again")
    .description("do again what was undone last")
    .action(() => act("ledger/again", () => ({})));
  program
    .command("recover")
    .description("finish or take back what a crash left half done; every start does this too")
    .action(() =>
      show("ledger/recover", {}, (answer) => {
        for (const text of answer.recovered) out(text);
        if (answer.recovered.length === 0) out("Nothing was left half done.");
      }),
    );
}
