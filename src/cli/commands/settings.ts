import path from "node:path";
import type { Command } from "commander";
import type { ReportJson } from "@/contract/items";
import { launchers, type SettingsView } from "@/contract/settings";
import { Problem } from "@/core/problem";
import { iconSizes, screenNames } from "@/core/screen/state";
import { commandNames, commands, drawnKey } from "@/core/settings/keys";
import { openAccount } from "@/server/account";
import type { Given } from "../given";
import { answersYes, out, printReport, printRows, words } from "../print";

function choiceNamed(choice: SettingsView["screen"]["choice"], text: string) {
  const found = choice.find(({ name }) => name === text.toLowerCase().replaceAll("-", " "));
  if (!found)
    throw new Problem("bad-words", {
      detail: `${text} is no screen of this account. There are: ${choice.map((c) => c.name).join(", ")}.`,
    });
  return found;
}

const programs = launchers.filter((one) => one !== "at log-in");

/** The commands for how a person gets in. */
export function settingsCommands(program: Command, given: Given): void {
  const { show, act, common, withLink } = given;
  program
    .command("launcher")
    .argument("[which]", programs.join(", "), "gather")
    .option("--away", "take it away")
    .description("put a launcher among your programs: one that opens Vuoto, one for gathering, one for quiet")
    .action((named: string, o: { away?: boolean }) => {
      const which = programs.find((one) => one === named);
      if (!which) throw new Problem("bad-words", { detail: `${named} is none of ${programs.join(", ")}.` });
      return act("settings/launcher", () => ({ which, away: o.away }));
    });
  const atLogin = program.command("at-login").description("whether Vuoto is started when you log in, with no window");
  atLogin.command("on").action(() => act("settings/launcher", () => ({ which: "at log-in" })));
  atLogin.command("off").action(() => act("settings/launcher", () => ({ which: "at log-in", away: true })));
  atLogin.command("status").action(() =>
    show("settings/view", {}, (view) => {
      const { state } = view.launchers.find(({ which }) => which === "at log-in")!;
      const words = {
        none: "It is not started at log-in.",
        "as made": "It is started at log-in.",
        changed: "Its entry was changed since Vuoto made it; at-login on makes it anew.",
        "another's": "Another program has the name of its entry; it is left alone.",
      };
      out(words[state]);
    }),
  );
  program
    .command("backup")
    .argument("<file>", "compressed where its name ends in .gz")
    .option("--read", "read that copy back, in the place of the record; no Vuoto may run on the account")
    .description("copy what cannot be made anew of Vuoto's record to a file: the ledger, decisions, places")
    .action(async (file: string, o: { read?: boolean }) => {
      const whole = path.resolve(file);
      if (!o.read)
        return show("settings/backup", { file: whole }, ({ rows }) => out(`Copied ${words().counted(rows, "row")} to ${whole}.`));
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
  program
    .command("keys")
    .argument("[command]", "the command whose key it is, by its name in the list")
    .argument("[key]", "the new one; without it, the one it had at first")
    .option("--reset", "every key as it was at first")
    .description("the keys, and another one for a command")
    .action((named: string | undefined, key: string | undefined, o: { reset?: boolean }) => {
      if (o.reset) return act("settings/key", () => ({}));
      if (named === undefined)
        return show("settings/view", {}, ({ keys }) =>
          printRows(
            commandNames.map((name) => [drawnKey(keys[name]), name, commands[name].does]),
            "",
          ),
        );
      const command = commandNames.find((name) => name === named);
      if (!command) throw new Problem("bad-words", { detail: `${named} is no command with a key. vuoto keys lists them.` });
      return act("settings/key", () => ({ command, key }));
    });
  const screen = program.command("screen").description("the screen on which the desktop is drawn");
  screen
    .command("size", { isDefault: true })
    .argument("[width]", "pixels")
    .argument("[height]", "pixels")
    .option("--icon <pixels>", iconSizes.join(", "), "64")
    .description("how large it is; and where it cannot be asked, say so")
    .action((width: string | undefined, height: string | undefined, o: { icon: string }) => {
      if (width === undefined || height === undefined)
        return show("settings/view", {}, ({ screen: is }) =>
          out(`${is.width} by ${is.height} pixels, icons of ${is.icon}. ${is.sentence}`),
        );
      const icon = iconSizes.find((size) => size === Number(o.icon));
      if (!icon) throw new Problem("bad-words", { detail: `${o.icon} is no size of icons. There are ${iconSizes.join(", ")}.` });
      return act("settings/screen", () => ({ width: Number(width), height: Number(height), icon }));
    });
  screen
    .command("list")
    .description("the screens that this account can have")
    .action(() =>
      show("settings/view", {}, ({ screen: is }) => {
        for (const { name, sentence } of is.choice) out(`${name === is.name ? "*" : " "} ${name.padEnd(12)} ${sentence}`);
      }),
    );
  screen
    .command("try")
    .argument("<name>")
    .description("what taking everything out of sight would be on a screen; changes nothing")
    .action((name: string) =>
      show("settings/view", {}, ({ screen: is }) => {
        const { sentence, caution, cannot, commands: lines, unfit, pointers } = choiceNamed(is.choice, name);
        out(caution ? `${sentence} ${caution}` : sentence);
        if (pointers) out(pointers);
        for (const { does, line } of lines ?? []) out(`  ${does.padEnd(5)} ${line}`);
        if (unfit) return out(unfit);
        out(
          cannot === 0
            ? "Everything on the desktop can be taken out of sight so."
            : `${words().counted(cannot, "thing stays", "things stay")} in sight: an end of line is in the name.`,
        );
      }),
    );
  screen
    .command("use")
    .argument("<name>")
    .description("choose what draws the desktop; what is out of sight is brought back first")
    .action((name: string) => {
      const known = screenNames.find((one) => one === name.toLowerCase().replaceAll("-", " "));
      if (!known) throw new Problem("bad-words", { detail: `${name} is no screen. There are: ${screenNames.join(", ")}.` });
      const { dryRun, json } = common();
      return withLink(
        async (link): Promise<ReportJson | undefined> => {
          // What it would run is seen before it is chosen.
          const { screen: is } = await link.ask("settings/view", {});
          const lines = choiceNamed(is.choice, name).commands ?? [];
          if (!json) for (const { does, line } of lines) out(`  ${does.padEnd(5)} ${line}`);
          const asks = lines.length > 0 && dryRun !== true && json !== true && process.stdin.isTTY;
          if (asks && !(await answersYes("Shall Vuoto do so from now on?"))) return undefined;
          return link.ask("settings/use-screen", { name: known, dryRun });
        },
        (report) => {
          if (report) return printReport(report, dryRun === true);
          out("Nothing was done.");
          return undefined;
        },
      );
    });
  program
    .command("forget-pictures")
    .description("throw away the small pictures that were made; each is made again when it is looked at")
    .action(() =>
      show("settings/forget-pictures", {}, ({ forgotten }) =>
        out(`${words().counted(forgotten, "picture is", "pictures are")} thrown away. The originals were not touched.`),
      ),
    );
  const session = program.command("session").description("the browsers that are let in");
  session.command("list").action(() =>
    show("guard/sessions", {}, (list) =>
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
      return show("guard/end", { session: named === "all" ? undefined : named }, ({ ended }) =>
        out(`${words().counted(ended, "browser is", "browsers are")} shut out.`),
      );
    });
}
