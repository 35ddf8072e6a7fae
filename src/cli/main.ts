import { Command, CommanderError } from "commander";
import { asProblem, Problem } from "@/core/problem";
import { depotsCommands } from "./commands/depots";
import { hollowCommands } from "./commands/hollow";
import { homesCommands } from "./commands/homes";
import { layoutCommands } from "./commands/layouts";
import { ledgerCommands } from "./commands/ledger";
import { quietCommands } from "./commands/quiet";
import { settingsCommands } from "./commands/settings";
import { sittingCommands } from "./commands/sitting";
import { standinCommands } from "./commands/standins";
import { straightenCommands } from "./commands/straighten";
import { surveyCommands } from "./commands/survey";
import { givenTo } from "./given";
import { out } from "./print";
import * as voice from "./voice";

/**
 * Runs the command line; answers the exit status: 0 done, 1 some steps refused, 2 wrong words, 3 all refused. `hears`: who
 * hears what it says, where that is not whoever started this process.
 */
export const main = (words = process.argv.slice(2), hears?: voice.Voice): Promise<number> =>
  hears ? voice.heardBy(hears, () => run(words)) : run(words);

async function run(words: string[]): Promise<number> {
  const program = new Command("vuoto")
    .description("From a cluttered desktop to a bare one, and back.")
    .exitOverride()
    .option("--account <dir>", "the folder of one person's files (default: your home folder)")
    .option("--data <dir>", "where Vuoto keeps its record of the account")
    .option("--json", "print one JSON document")
    .option("--dry-run", "say what would be done, and do nothing")
    .configureOutput({
      writeOut: voice.out,
      writeErr: voice.err,
      outputError: (text, write) => write(`${text.trim()}\nvuoto --help lists the commands.\n`),
    })
    .addHelpText("after", "\nExit status: 0 done, 1 some of it refused, 2 wrong words, 3 nothing done.");
  const given = givenTo(program);
  voice.endWithReader(() => given.status);

  program
    .command("demo")
    .description("make the sample account and open it")
    .option("--fresh", "make it anew")
    .option("--port <n>")
    .action(async (o: { fresh?: boolean; port?: string }) => {
      if (given.common().data ?? given.common().account)
        throw new Problem("bad-words", {
          detail: "The sample account has its own place: demo takes no --account and no --data.",
        });
      const { startDemo } = await import("./start");
      given.status = await startDemo({ fresh: o.fresh === true, port: given.port(o.port) });
    });
  program
    .command("start")
    .description("open the account in the browser")
    .option("--port <n>")
    .option("--no-link", "print no link: vuoto open leads in")
    .option("--no-window", "with little memory, for log-in: only occasions and commands, until vuoto open brings the window")
    .action(async (o: { port?: string; link: boolean; window: boolean }) => {
      if (!o.window) {
        const { startSmall } = await import("./stand-by");
        given.status = await startSmall(given.place(), given.port(o.port));
        return;
      }
      const { start } = await import("./start");
      given.status = await start(given.place(), { port: given.port(o.port), link: o.link });
    });
  program
    .command("open")
    .description("open Vuoto in the browser, started where it does not run")
    .action(async () => {
      const { open } = await import("./open");
      given.status = await open(given.place());
    });
  settingsCommands(program, given);
  surveyCommands(program, given);
  homesCommands(program, given);
  sittingCommands(program, given);
  depotsCommands(program, given);
  standinCommands(program, given);
  quietCommands(program, given);
  straightenCommands(program, given);
  layoutCommands(program, given);
  hollowCommands(program, given);
  ledgerCommands(program, given);

  // The options that every command takes may stand anywhere.
  const shift = (command: Command) => {
    for (const sub of command.commands) {
      sub.configureHelp({ showGlobalOptions: true }).exitOverride();
      shift(sub);
    }
  };
  shift(program);

  try {
    await program.parseAsync(words, { from: "user" });
    return given.status;
  } catch (error) {
    if (error instanceof CommanderError) return error.exitCode === 0 ? 0 : 2;
    const problem = asProblem(error);
    if (given.common().json)
      out(
        JSON.stringify({
          type: `urn:vuoto:problem:${problem.code}`,
          code: problem.code,
          title: problem.title,
          status: problem.status,
          remedy: problem.remedy,
        }),
      );
    else voice.err(`${problem.title}\n${problem.remedy}\n`);
    return problem.code === "bad-words" || problem.code === "malformed" ? 2 : 3;
  }
}
