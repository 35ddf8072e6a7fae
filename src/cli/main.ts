import os from "node:os";
import path from "node:path";
import { Command, CommanderError } from "commander";
import type { ApiInput, ApiPath } from "@/contract/api";
import type { CheckAnswer } from "@/contract/depots";
import type { GatheringAnswer, OverlookedAnswer } from "@/contract/homes";
import type { ReportJson } from "@/contract/items";
import type { EmptyingAnswer } from "@/contract/ledger";
import type { LeftOutAnswer, SurveyAnswer } from "@/contract/survey";
import type { PlaceView } from "@/contract/views";
import { type PlannedHome, splits } from "@/core/homes/filing-plan";
import { type Raw, rawFromText } from "@/core/names/raw";
import { asProblem, Problem } from "@/core/problem";
import { settlingKinds } from "@/core/survey/findings";
import { type Account, openAccount } from "@/server/account";
import type { EntryView } from "@/server/ledger/list";
import { type Link, openLink } from "./link";
import {
  answersYes,
  out,
  printCheck,
  printEmptying,
  printLeftOut,
  printPlaces,
  printReport,
  printRows,
  printSurvey,
  statusOf,
  words,
} from "./print";
import { start, startDemo } from "./start";
import { dateWord, folderWord, homeWord, itemWord, rawWord } from "./words-given";

interface Common {
  account?: string;
  data?: string;
  json?: boolean;
  dryRun?: boolean;
}

const absolutePath = (text: string): Raw => {
  const raw = rawWord(text);
  return raw.startsWith("/") ? raw : (`${rawFromText(process.cwd())}/${raw}` as Raw);
};

/** Runs the command line; answers the exit status: 0 done, 1 some steps refused, 2 wrong words, 3 all refused. */
export async function main(): Promise<number> {
  let status = 0;
  const program = new Command("vuoto")
    .description("From a cluttered desktop to a bare one, and back.")
    .exitOverride()
    .option("--account <dir>", "the folder of one person's files (default: your home folder)")
    .option("--data <dir>", "where Vuoto keeps its record of the account")
    .option("--json", "print one JSON document")
    .option("--dry-run", "say what would be done, and do nothing")
    .configureOutput({ outputError: (text, write) => write(`${text.trim()}\nvuoto --help lists the commands.\n`) });

  const common = (): Common => program.opts<Common>();
  const place = () => {
    const { account, data } = common();
    const dataFolder = data ?? process.env.VUOTO_DATA;
    return {
      root: account ? absolutePath(account) : rawFromText(os.homedir()),
      data: dataFolder ? path.resolve(dataFolder) : undefined,
    };
  };

  /** Opens the account, lends a link, closes it; prints the answer as JSON or by `print`. */
  async function withLink(
    work: (link: Link, account: Account) => Promise<unknown>,
    print: (answer: never) => number | undefined,
  ): Promise<void> {
    const account = openAccount(place());
    const link = await openLink(account);
    try {
      const answer = await work(link, account);
      if (common().json) out(JSON.stringify(answer, null, 1));
      const isReport = typeof answer === "object" && answer !== null && "refused" in answer;
      status = (common().json ? (isReport ? statusOf(answer as ReportJson) : undefined) : print(answer as never)) ?? 0;
    } finally {
      await link.close();
    }
  }

  const act = <P extends ApiPath>(path: P, makeInput: (account: Account) => ApiInput<P>) =>
    withLink(
      (link, account) => link.ask(path, { ...makeInput(account), dryRun: common().dryRun } as ApiInput<P>),
      (report: ReportJson) => printReport(report, common().dryRun === true),
    );

  const until = (text?: string): number | undefined => {
    if (text === undefined) return undefined;
    const at = dateWord(text);
    if (at === undefined) throw new Problem("bad-words", { detail: `${text} is no date. Write it as YYYY-MM-DD.` });
    return at;
  };
  const items = (account: Account, names: string[]) => names.map((name) => itemWord(account, name));
  const worktopWord = (text: string): "desktop" | "downloads" => {
    if (text === "desktop" || text === "downloads") return text;
    throw new Problem("bad-words", { detail: `${text} is no worktop. There are desktop and downloads.` });
  };
  const port = (text?: string): number | undefined => {
    if (text === undefined) return undefined;
    if (!/^\d{1,5}$/.test(text) || Number(text) > 65535) throw new Problem("bad-words", { detail: `${text} is no port.` });
    return Number(text);
  };

  program
    .command("demo")
    .description("make the sample account and open it")
    .option("--fresh", "make it anew")
    .option("--port <n>")
    .action(async (o: { fresh?: boolean; port?: string }) => {
      status = await startDemo({ fresh: o.fresh === true, port: port(o.port) });
    });
  program
    .command("start")
    .description("open the account in the browser")
    .option("--port <n>")
    .action(async (o: { port?: string }) => {
      status = await start(place(), { port: port(o.port) });
    });
  program
    .command("survey")
    .argument("[worktop]", "desktop or downloads")
    .description("what lies there, with its figures and findings")
    .action((worktop?: string) => {
      const which = worktop === undefined ? undefined : worktopWord(worktop);
      return withLink(
        async (link) => {
          await link.ask("survey/refresh", {});
          return link.ask("survey/survey", { worktop: which });
        },
        (answer: SurveyAnswer) => {
          printSurvey(answer);
          return 0;
        },
      );
    });
  program
    .command("settle")
    .argument("<finding>", settlingKinds.join(", "))
    .argument("[item...]", "only these of it")
    .description("let go of what a finding is about; each proof is looked at once more")
    .action((finding: string, names: string[]) => {
      const kind = settlingKinds.find((known) => known === finding);
      if (!kind)
        throw new Problem("bad-words", { detail: `${finding} is nothing to settle. There are ${settlingKinds.join(", ")}.` });
      return act("survey/settle", (account) => ({
        finding: kind,
        items: names.length > 0 ? items(account, names) : undefined,
      }));
    });
  program
    .command("protect")
    .argument("<folder>")
    .argument("<how>", "backed-up, synchronised or neither")
    .description("say how a folder is protected: what has no copy in a backed-up one exists nowhere else")
    .action((folder: string, how: string) => {
      const ways = { "backed-up": "backed up", synchronised: "synchronised", neither: null } as const;
      if (!(how in ways)) throw new Problem("bad-words", { detail: `${how} is none of ${Object.keys(ways).join(", ")}.` });
      return act("survey/protect", () => ({ folder: folderWord(folder), protection: ways[how as keyof typeof ways] }));
    });
  program
    .command("places")
    .description("the places that can be protected, and how they are")
    .action(() =>
      withLink(
        (link) => link.ask("survey/places", {}),
        (places: PlaceView[]) => {
          printPlaces(places);
          return 0;
        },
      ),
    );
  program
    .command("left-out")
    .description("what the walk of homes and protected places does not look into, and why")
    .action(() =>
      withLink(
        (link) => link.ask("survey/left-out", {}),
        (answer: LeftOutAnswer) => {
          printLeftOut(answer);
          return 0;
        },
      ),
    );
  program
    .command("leave-out")
    .argument("<folder>", "a folder, or a name without / for every folder that is called so")
    .option("--again", "look into it again")
    .description("leave a folder out of the walk")
    .action((folder: string, o: { again?: boolean }) =>
      act("survey/leave-out", () => ({
        ...(folder.includes("/") ? { folder: folderWord(folder) } : { name: folder }),
        out: o.again !== true,
      })),
    );
  program
    .command("put")
    .argument("<home>")
    .argument("<item...>")
    .description("put things away into a home, made where it is new")
    .action((home: string, names: string[]) =>
      act("homes/put", (account) => ({ home: homeWord(home), items: items(account, names) })),
    );
  program
    .command("sweep")
    .argument("[home]", "without it, all homes at once")
    .description("take everything that surely belongs to a home, or to any")
    .action((home?: string) => act("homes/sweep", () => (home === undefined ? { all: true } : { home: homeWord(home) })));
  program
    .command("overlooked")
    .description("what has no sure home yet, gathered by likeness, each with a home that may fit")
    .action(() =>
      withLink(
        (link) => link.ask("homes/overlooked", {}),
        (groups: OverlookedAnswer[]) => {
          for (const { why, home, isNew, items: of } of groups) {
            out(`${why}: ${words.counted(of.length, "thing")}, into ${isNew ? "a new home, " : ""}${home}`);
            for (const item of of) out(`  ${item}`);
          }
          if (groups.length === 0) out("Nothing is overlooked.");
          return 0;
        },
      ),
    );
  program
    .command("gather")
    .argument("[folder]", "its name on the worktop (Gathered), or a path to a home")
    .option("--except <name...>", "what stays: names, and patterns such as *.pdf")
    .option("--worktop <worktop>", "desktop or downloads", "desktop")
    .description("everything on a worktop into one folder, to be set out again exactly")
    .action((folder: string | undefined, o: { except?: string[]; worktop: string }) =>
      act("homes/gather", () => ({
        ...(folder === undefined ? {} : folder.includes("/") ? { home: homeWord(folder) } : { title: folder }),
        except: o.except,
        worktop: worktopWord(o.worktop),
      })),
    );
  program
    .command("set-out")
    .argument("[gathering]", "the name of its folder; without it the latest")
    .option("--only <name...>", "single things of it")
    .description("set a gathering out again, each thing where it lay")
    .action((gathering: string | undefined, o: { only?: string[] }) =>
      act("homes/set-out", () => ({ gathering, things: o.only })),
    );
  program
    .command("plan")
    .description("the homes, one below the other; what is too wide or too deep is said")
    .action(() =>
      withLink(
        (link) => link.ask("homes/plan", {}),
        (homes: PlannedHome[]) => {
          for (const { name, depth, files, tooWide, tooDeep } of homes)
            out(`${"  ".repeat(depth)}${name}  ${files}${tooWide ? "  too wide" : ""}${tooDeep ? "  too deep" : ""}`);
          return 0;
        },
      ),
    );
  program
    .command("split")
    .argument("<home>")
    .argument("<by>", splits.join(", "))
    .description("split a home into folders below it")
    .action((home: string, by: string) => {
      const way = splits.find((one) => one === by);
      if (!way) throw new Problem("bad-words", { detail: `${by} is none of ${splits.join(", ")}.` });
      return act("homes/split", () => ({ home: homeWord(home), by: way }));
    });
  program
    .command("gatherings")
    .description("what is gathered, and where it lies now")
    .action(() =>
      withLink(
        (link) => link.ask("homes/gatherings", {}),
        (list: GatheringAnswer[]) => {
          printRows(
            list.map(({ title, place: where, when, things }) => [title, words.counted(things.length, "thing"), where, when]),
            "Nothing is gathered.",
          );
          return 0;
        },
      ),
    );
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
        const collected = (await link.ask("sitting/archive", { items: items(account, names), parcel, dryRun })) as ReportJson;
        if (dryRun || collected.done === 0) return collected;
        return link.ask("depots/send", { parcel, depot });
      },
      (report: ReportJson) => printReport(report, dryRun === true),
    );
  }

  const depot = program.command("depot").description("folders that archives go to");
  depot.command("list").action(() =>
    withLink(
      (link) => link.ask("depots/list", {}),
      (answer: { depots: { title: string; folder: string; there: boolean; free: number | null }[] }) => {
        const rows = answer.depots.map((d) => [
          d.title,
          d.there ? `${d.free === null ? "?" : words.bytes(d.free)} free` : "not there",
          d.folder,
        ]);
        printRows(rows, "There is no depot yet.");
        return 0;
      },
    ),
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
    .action((named: string) => act("depots/remove", () => ({ depot: named })));

  const parcel = program.command("parcel").description("what was sent, and what is collected");
  parcel.command("list").action(() =>
    withLink(
      (link) => link.ask("depots/list", {}),
      (answer: {
        parcels: { id: string; title: string; state: string; depot: string | null; things: number; bytes: number | null }[];
      }) => {
        const rows = answer.parcels.map((p) => [
          p.title,
          p.state === "sent" ? `sent to ${p.depot ?? "a depot no longer listed"}` : "not sent yet",
          words.counted(p.things, "thing"),
          p.bytes === null ? "" : words.bytes(p.bytes),
        ]);
        printRows(rows, "There is no parcel yet.");
        return 0;
      },
    ),
  );
  parcel
    .command("show")
    .argument("<parcel>")
    .action((named: string) =>
      withLink(
        (link) => link.ask("depots/show", { parcel: named }),
        (answer: { things: { name: string; folder: string; bytes: number }[] }) => {
          printRows(
            answer.things.map((t) => [words.bytes(t.bytes), t.folder, t.name]),
            "It holds nothing.",
          );
          return 0;
        },
      ),
    );
  parcel
    .command("check")
    .argument("<parcel>")
    .action((named: string) =>
      withLink(
        async (link) => {
          const answer = (await link.ask("depots/check", { parcel: named })) as CheckAnswer;
          if (!answer.whole) status = 3;
          return answer;
        },
        (answer: CheckAnswer) => printCheck(answer),
      ),
    );
  parcel
    .command("restore")
    .argument("<parcel>")
    .action((named: string) => act("depots/restore", () => ({ parcel: named })));

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
  quiet.command("toggle").action(() =>
    withLink(
      async (link) => {
        const now = (await link.ask("quiet/status", {})) as { level: string };
        return link.ask("quiet/show", { level: now.level === "everything" ? "bare" : "everything", dryRun: common().dryRun });
      },
      (report: ReportJson) => printReport(report, common().dryRun === true),
    ),
  );
  quiet.command("status").action(() =>
    withLink(
      (link) => link.ask("quiet/status", {}),
      (answer: { level: string; outOfSight: string[]; arrived: number }) => {
        out(
          `The level is ${answer.level}. ${words.counted(answer.outOfSight.length, "thing is", "things are")} out of sight; ${answer.arrived} arrived since.`,
        );
        for (const path of answer.outOfSight) out(`  ${path}`);
        return 0;
      },
    ),
  );

  const trash = program.command("trash").description("what was let go");
  type TrashRow = { id: string; name: string; from: string | null; deletedAt: string | null; bytes: number };
  trash.command("list").action(() =>
    withLink(
      (link) => link.ask("ledger/trash", {}),
      (rows: TrashRow[]) => {
        printRows(
          rows.map((t) => [t.deletedAt ? words.ago(Date.parse(t.deletedAt)) : "", words.bytes(t.bytes), t.from ?? t.name]),
          "The trash is empty.",
        );
        return 0;
      },
    ),
  );
  trash
    .command("restore")
    .argument("<item...>", "a name, or the path where it lay")
    .action((names: string[]) =>
      withLink(
        async (link) => {
          const rows = (await link.ask("ledger/trash", {})) as TrashRow[];
          const things = names.map((name) => {
            const found = rows.find((row) => row.id === name || row.name === name || row.from === name);
            if (!found) throw new Problem("not-in-trash", { name });
            return found.id;
          });
          return link.ask("ledger/restore", { things, dryRun: common().dryRun });
        },
        (report: ReportJson) => printReport(report, common().dryRun === true),
      ),
    );

  trash
    .command("empty")
    .option("--yes", "it was asked, and answered")
    .description("erase everything in the trash; says first what that is")
    .action((o: { yes?: boolean }) =>
      withLink(
        async (link) => {
          const what = (await link.ask("ledger/emptying", {})) as EmptyingAnswer;
          if (what.count === 0) throw new Problem("bad-words", { detail: "The trash is empty." });
          if (!common().json) printEmptying(what);
          const { dryRun } = common();
          if (!dryRun && !o.yes && !(await answersYes("Erase them for good?")))
            throw new Problem("cancelled", { name: "Emptying the trash" });
          return link.ask("ledger/empty", { things: what.things, dryRun });
        },
        (report: ReportJson) => printReport(report, common().dryRun === true),
      ),
    );

  program
    .command("ledger")
    .description("everything that was done, the latest first")
    .action(() =>
      withLink(
        (link) => link.ask("ledger/list", {}),
        (entries: EntryView[]) => {
          printRows(
            entries.map((e) => [String(e.id), words.ago(e.at), e.state === "undone" ? "undone" : "", e.words]),
            "Nothing was done yet.",
          );
          return 0;
        },
      ),
    );
  program
    .command("undo")
    .argument("[entry]", "an entry's number, or all; without it the last act")
    .description("take back the last act, an entry, or everything")
    .action((entry?: string) => {
      if (entry !== undefined && entry !== "all" && !/^[1-9]\d{0,15}$/.test(entry))
        throw new Problem("bad-words", { detail: `${entry} is no entry's number.` });
      return act("ledger/undo", () => ({ entry: entry === undefined ? undefined : entry === "all" ? "all" : Number(entry) }));
    });
  program
    .command("recover")
    .description("settle what a crash left half done; every start does this too")
    .action(() =>
      withLink(
        (link) => link.ask("ledger/recover", {}),
        (answer: { recovered: string[] }) => {
          for (const text of answer.recovered) out(text);
          if (answer.recovered.length === 0) out("Nothing was left half done.");
          return 0;
        },
      ),
    );

  // The options that every command takes may stand anywhere.
  const shift = (command: Command) => {
    for (const sub of command.commands) {
      sub.configureHelp({ showGlobalOptions: true }).exitOverride();
      shift(sub);
    }
  };
  shift(program);

  try {
    await program.parseAsync(process.argv);
    return status;
  } catch (error) {
    if (error instanceof CommanderError) return error.exitCode === 0 ? 0 : 2;
    const problem = asProblem(error);
    if (common().json)
      out(
        JSON.stringify({
          type: `urn:vuoto:problem:${problem.code}`,
          code: problem.code,
          title: problem.title,
          status: problem.status,
          remedy: problem.remedy,
        }),
      );
    else process.stderr.write(`${problem.title}\n${problem.remedy}\n`);
    return problem.code === "bad-words" || problem.code === "malformed" ? 2 : 3;
  }
}
