import type { Command } from "commander";
import { Problem } from "@/core/problem";
import type { Given } from "../given";
import { answersYes, out, printCheck, printReport, printRows, words } from "../print";
import { depotWord } from "../words-given";

/** The commands for depots and parcels. */
export function depotsCommands(program: Command, given: Given): void {
  const { act, show, withLink, absolutePath, common } = given;
  const depot = program.command("depot").description("folders that archives go to");
  depot.command("list").action(() =>
    show("depots/list", {}, (answer) => {
      const rows = answer.depots.map((d) => [
        d.title,
        d.there ? `${d.free === null ? "?" : words().bytes(d.free)} free` : "not there",
        d.folder,
      ]);
      printRows(rows, "There is no depot yet.");
    }),
  );
  depot
    .command("add")
    .argument("<folder>")
    .argument("[name]")
    .action((folder: string, title?: string) =>
      act("depots/add", () => ({ folder: { path: btoa(absolutePath(folder)) }, title })),
    );
  depot
    .command("remove")
    .argument("<depot>")
    .action((named: string) => act("depots/remove", () => ({ depot: depotWord(named) })));

  const parcel = program.command("parcel").description("what was sent, and what is collected");
  parcel.command("list").action(() =>
    show("depots/list", {}, (answer) => {
      const rows = answer.parcels.map((p) => [
        p.title,
        p.state === "sent" ? `sent to ${p.depot ?? "a depot no longer listed"}` : "not sent yet",
        words().counted(p.things, "thing"),
        p.bytes === null ? "" : words().bytes(p.bytes),
      ]);
      printRows(rows, "There is no parcel yet.");
    }),
  );
  parcel
    .command("show")
    .argument("<parcel>")
    .action((named: string) =>
      show("depots/show", { parcel: named }, (answer) => {
        printRows(
          answer.things.map((t) => [words().bytes(t.bytes), t.folder, t.name]),
          "It holds nothing.",
        );
      }),
    );
  parcel
    .command("check")
    .argument("<parcel>")
    .action((named: string) =>
      withLink(
        async (link) => {
          const answer = await link.ask("depots/check", { parcel: named });
          if (!answer.whole) given.status = 3;
          return answer;
        },
        (answer) => printCheck(answer),
      ),
    );
  parcel
    .command("restore")
    .argument("<parcel>", "its name, or that of a bag's folder in a depot")
    .option("--into <folder>", "a folder that is not there yet; needed for a parcel that was changed or is somebody else's")
    .option("--with-programs", "what can be run comes along as it is, without asking")
    .description("bring back what is in a parcel; the parcel stays")
    .action((named: string, o: { into?: string; withPrograms?: boolean }) => {
      const { dryRun } = common();
      const into = o.into === undefined ? undefined : { path: btoa(absolutePath(o.into)) };
      return withLink(
        async (link) => {
          const restore = (programs?: boolean) => link.ask("depots/restore", { parcel: named, into, programs, dryRun });
          try {
            return await restore(o.withPrograms);
          } catch (error) {
            if (!(error instanceof Problem && error.code === "asks-programs") || common().json) throw error;
            out(error.title);
            if (!(await answersYes("Bring them back as they are?"))) throw error;
            return restore(true);
          }
        },
        (report) => printReport(report, dryRun === true),
      );
    });
}
