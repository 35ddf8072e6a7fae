import type { Command } from "commander";
import { Problem } from "@/core/problem";
import type { Given } from "../given";
import { out, words } from "../print";

/** The commands for quiet. */
export function quietCommands(program: Command, given: Given): void {
  const { act, show } = given;
  const quiet = program.command("quiet").description("take the icons out of sight, and bring them back");
  quiet
    .command("on")
    .option("--level <level>", "bare, or: what stays", "bare")
    .action((o: { level: string }) => {
      if (o.level !== "bare" && o.level !== "what stays")
        throw new Problem("bad-words", { detail: `${o.level} is no level. There are: bare, what stays.` });
      const level = o.level;
      return act("quiet/show", () => ({ level }));
    });
  quiet.command("off").action(() => act("quiet/show", () => ({ level: "everything" })));
  quiet.command("toggle").action(() => act("quiet/show", () => ({ level: "toggle" })));
  quiet.command("status").action(() =>
    show("quiet/status", {}, (answer) => {
      out(
        `The level is ${answer.level}. ${words().counted(answer.outOfSight.length, "thing is", "things are")} out of sight; ${answer.arrived} arrived since.`,
      );
      for (const path of answer.outOfSight) out(`  ${path}`);
    }),
  );
}
