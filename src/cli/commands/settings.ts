import path from "node:path";
import type { Command } from "commander";
import type { SessionLine } from "@/contract/guard";
import { type BackupAnswer, launchers } from "@/contract/settings";
import { Problem } from "@/core/problem";
import { openAccount } from "@/server/account";
import type { Given } from "../given";
import { out, printRows, words } from "../print";

/** The commands for how a person gets in. */
export function settingsCommands(program: Command, given: Given): void {
  const { show, act } = given;
  program
    .command("launcher")
    .argument("[which]", launchers.join(" or "), "gather")
    .option("--away", "take it away")
    .description("put a launcher among your programs: one that opens Vuoto, or one for gathering")
    .action((named: string, o: { away?: boolean }) => {
      const which = launchers.find((one) => one === named);
      if (!which) throw new Problem("bad-words", { detail: `${named} is none of ${launchers.join(", ")}.` });
      return act("settings/launcher", () => ({ which, away: o.away }));
    });
  program
    .command("backup")
    .argument("<file>", "compressed where its name ends in .gz")
    .option("--read", "read that copy back, in the place of the record; no Vuoto may run on the account")
    .description("copy what cannot be made anew of Vuoto's record to a file: the ledger, decisions, places")
    .action(async (file: string, o: { read?: boolean }) => {
      const whole = path.resolve(file);
      if (!o.read)
        return show("settings/backup", { file: whole }, ({ rows }: BackupAnswer) =>
          out(`Copied ${words().counted(rows, "row")} to ${whole}.`),
        );
      const [{ readBackup }, { takeLock }, { recordName }] = await Promise.all([
        import("@/server/db/backup"),
        import("@/server/db/lock"),
        import("@/server/opening"),
      ]);
      const account = openAccount(given.place());
      const lock = takeLock(account.data);
      if (!lock) throw new Problem("account-busy");
      try {
        const { kept } = await readBackup(whole, account.data, recordName);
        out(`Read back from ${whole}.${kept ? ` What was there before is kept as ${kept}.` : ""}`);
      } finally {
        lock.release();
      }
    });
  const session = program.command("session").description("the browsers that are let in");
  session.command("list").action(() =>
    show("guard/sessions", {}, (list: SessionLine[]) =>
      printRows(
        list.map(({ id, browser, made, used }) => [id, browser, `let in ${made}`, `used ${used}`]),
        "No browser is let in.",
      ),
    ),
  );
  session
    .command("end")
    .argument("<session>", "one of the list, or all")
    .description("shut a browser out, or all")
    .action((named: string) => {
      if (named === "") throw new Problem("bad-words", { detail: "Name a session, or all." });
      return show("guard/end", { session: named === "all" ? undefined : named }, ({ ended }: { ended: number }) =>
        out(`${words().counted(ended, "browser is", "browsers are")} shut out.`),
      );
    });
}
