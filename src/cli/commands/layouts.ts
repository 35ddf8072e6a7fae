import fs from "node:fs";
import type { Command } from "commander";
import type { Compared } from "@/contract/layouts";
import { Problem } from "@/core/problem";
import type { Given } from "../given";
import { out, printReport, printRows, statusOf, words } from "../print";
import { out as write } from "../voice";

const mostBytes = 8_000_000;
const mostNamed = 20;

/** The commands for layouts. */
export function layoutCommands(program: Command, given: Given): void {
  const { act, show, withLink, common } = given;
  const layout = program
    .command("layout")
    .description("where the icons lie, how large they are and how much is shown, under a name");
  layout
    .command("list")
    .description("the layouts, and how what lies there now differs from each")
    .action(() =>
      show("quiet/layouts", {}, (list) =>
        printRows(
          list.map(({ title, at, icons, width, height, moved, came, went }) => [
            title,
            words().counted(icons, "icon"),
            `${width} by ${height}`,
            words().dateTime(Date.parse(at)),
            moved + came + went === 0 ? "as now" : `${moved} moved, ${came} came, ${went} gone since`,
          ]),
          "There are no layouts yet. vuoto layout keep NAME keeps how it is now.",
        ),
      ),
    );
  layout
    .command("keep")
    .argument("<name>")
    .description("keep how it is now; what was kept under that name is replaced")
    .action((title: string) => act("quiet/keep-layout", () => ({ title })));
  layout
    .command("bring")
    .argument("<name>")
    .description("bring one back, also onto a screen of another size")
    .action((named: string) =>
      withLink(
        (link) => link.ask("quiet/bring-layout", { layout: named, dryRun: common().dryRun }),
        (answer) => {
          printReport(answer, common().dryRun === true);
          for (const line of otherwise(answer.compared)) out(line);
          return statusOf(answer);
        },
      ),
    );
  layout
    .command("compare")
    .argument("<name>")
    .description("what lies elsewhere now, came since, and is gone")
    .action((named: string) =>
      show("quiet/compare-layout", { layout: named }, (compared) => {
        const { moved, came, went } = compared;
        printNames("lies elsewhere", "lie elsewhere", moved);
        printNames("came since", "came since", came);
        printNames("is no longer there", "are no longer there", went);
        for (const line of otherwise(compared)) out(line);
        if (moved.length + came.length + went.length === 0) out("All of it is as it was.");
      }),
    );
  layout
    .command("export")
    .argument("<name>")
    .option("--to <file>", "a new file; else it is printed")
    .description("as one JSON document, for another computer")
    .action((named: string, { to }: { to?: string }) =>
      withLink(
        (link) => link.ask("quiet/export-layout", { layout: named }),
        (document) => {
          const text = `${JSON.stringify(document, null, 1)}\n`;
          if (to === undefined) write(text);
          else {
            writeNew(to, text);
            out(`Written to ${to}.`);
          }
          return 0;
        },
      ),
    );
  layout
    .command("import")
    .argument("<file>")
    .option("--title <title>", "another name than it has")
    .description("put a layout of another computer on the list")
    .action((file: string, { title }: { title?: string }) =>
      act("quiet/import-layout", () => ({ document: readJson(file), title })),
    );
  layout
    .command("remove")
    .argument("<name>")
    .description("take one off the list; nothing moves")
    .action((named: string) => act("quiet/remove-layout", () => ({ layout: named })));
}

function printNames(one: string, several: string, names: string[]): void {
  if (names.length === 0) return;
  out(`${words().counted(names.length, "thing")} ${names.length === 1 ? one : several}:`);
  for (const name of names.slice(0, mostNamed)) out(`  ${name}`);
  if (names.length > mostNamed) out(`  and ${names.length - mostNamed} more`);
}

/** What does not come to lie as it did. */
function otherwise({ shifted, crowded, came }: Compared): string[] {
  const counted = (n: number) => words().counted(n, "icon");
  return [
    ...(shifted > 0 ? [`${counted(shifted)} cannot lie just as before; there the nearest free place is used.`] : []),
    ...(crowded > 0 ? [`For ${counted(crowded)} there is no room on this screen without lying over others.`] : []),
    ...(came.length > 0 ? [`${counted(came.length)} not known to it: left where there is room.`] : []),
  ];
}

function readJson(file: string): unknown {
  try {
    if (fs.statSync(file).size > mostBytes) throw new Problem("too-large");
    return JSON.parse(fs.readFileSync(file, "utf8")) as unknown;
  } catch (error) {
    if (error instanceof Problem) throw error;
    throw new Problem("no-layout", { detail: error instanceof SyntaxError ? "it is no JSON" : "it cannot be read" });
  }
}

function writeNew(file: string, text: string): void {
  try {
    fs.writeFileSync(file, text, { flag: "wx" });
  } catch (error) {
    const code = (error as { code?: string }).code;
    throw code === "EEXIST"
      ? new Problem("name-taken", { name: file })
      : new Problem("bad-words", { detail: `${file} cannot be written.` });
  }
}
