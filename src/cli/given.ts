import os from "node:os";
import path from "node:path";
import type { Command } from "commander";
import type { ActPath, ApiAnswer, ApiInput, ApiPath } from "@/contract/api";
import type { ItemRef, ReportJson } from "@/contract/items";
import { type Raw, rawFromText } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import { type Account, type AccountPlace, openAccount } from "@/server/account";
import { type Link, openLink } from "./link";
import { out, printReport, statusOf } from "./print";
import { absolute, itemWord, rawWord } from "./words-given";

interface Common {
  account?: string;
  data?: string;
  json?: boolean;
  dryRun?: boolean;
}

/** What every command works with: the words given for all of them, and the ways to ask Vuoto. */
export interface Given {
  /** The exit status: 0 done, 1 some steps refused, 2 wrong words, 3 all refused. */
  status: number;
  common(): Common;
  place(): AccountPlace;
  /** Opens the account, lends a link, closes it; prints the answer as JSON or by `print`, which may answer the status. */
  withLink<A>(work: (link: Link, account: Account) => Promise<A>, print: (answer: A) => number | undefined): Promise<void>;
  /** Asks a question and prints its answer. */
  show<P extends ApiPath>(path: P, input: ApiInput<P>, print: (answer: ApiAnswer<P>) => void): Promise<void>;
  /** Does an act, or with --dry-run its trial, and prints the report. */
  act<P extends ActPath>(path: P, makeInput: (account: Account) => ApiInput<P> | Promise<ApiInput<P>>): Promise<void>;
  items(account: Account, names: string[]): ItemRef[];
  until(text?: string): Promise<number | undefined>;
  worktopWord(text: string): "desktop" | "downloads";
  port(text?: string): number | undefined;
  absolutePath(text: string): Raw;
}

/** The exit status that a report means; undefined of any other answer. */
function statusIfReport(answer: unknown): number | undefined {
  const isReport = typeof answer === "object" && answer !== null && "refused" in answer;
  return isReport ? statusOf(answer as ReportJson) : undefined;
}

/** Reads the options that every command takes, when they are needed. */
export function givenTo(program: Command): Given {
  const given: Given = {
    status: 0,
    common: () => program.opts<Common>(),
    place() {
      const { account, data } = given.common();
      const dataFolder = data ?? process.env.VUOTO_DATA;
      return {
        root: account ? given.absolutePath(account) : rawFromText(os.homedir()),
        data: dataFolder ? path.resolve(dataFolder) : undefined,
      };
    },
    async withLink(work, print) {
      const account = openAccount(given.place());
      const link = openLink(account);
      try {
        const answer = await work(link, account);
        const { json } = given.common();
        if (json) out(JSON.stringify(answer, null, 1));
        given.status = (json ? statusIfReport(answer) : print(answer)) ?? given.status;
      } finally {
        await link.close();
      }
    },
    show: (asked, input, print) =>
      given.withLink(
        (link) => link.ask(asked, input),
        (answer) => {
          print(answer);
          return undefined;
        },
      ),
    act(asked, makeInput) {
      const { dryRun } = given.common();
      return given.withLink(
        async (link, account) => link.ask(asked, { ...(await makeInput(account)), dryRun }),
        (report: ReportJson) => printReport(report, dryRun === true),
      );
    },
    items: (account, names) => names.map((name) => itemWord(account, name)),
    async until(text) {
      if (text === undefined) return undefined;
      // Loaded when a date is read: it takes longer than all else that a command loads.
      const { dayFromWords } = await import("@/core/sitting/dates");
      const at = dayFromWords(text, Date.now());
      if (at === undefined)
        throw new Problem("bad-words", {
          detail: `${text} names no day ahead. Write it as 2027-03-01, friday, or in two weeks.`,
        });
      return at;
    },
    worktopWord(text) {
      if (text === "desktop" || text === "downloads") return text;
      throw new Problem("bad-words", { detail: `${text} is no worktop. There are desktop and downloads.` });
    },
    port(text) {
      if (text === undefined) return undefined;
      if (!/^\d{1,5}$/.test(text) || Number(text) > 65535) throw new Problem("bad-words", { detail: `${text} is no port.` });
      return Number(text);
    },
    absolutePath: (text) => absolute(rawWord(text)),
  };
  return given;
}
