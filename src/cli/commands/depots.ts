import type { Command } from "commander";
import type { DepotState, ParcelState } from "@/contract/depot-states";
import { Problem } from "@/core/problem";
import type { Given } from "../given";
import { answersYes, out, printCheck, printDeleting, printReport, printRows, words } from "../print";
import { secretFrom } from "../secret";
import { depotWord, homeWord } from "../words-given";

const depotStates: Record<DepotState, string> = {
  ready: "ready",
  away: "not there",
  full: "full",
  "no sign-in": "does not accept the sign-in",
  unreachable: "does not answer",
};

const parcelStates: Record<ParcelState, string> = {
  collecting: "not sent yet",
  sending: "on its way",
  paused: "paused on its way",
  failed: "stopped on its way",
  sent: "sent",
  damaged: "damaged",
};

const isAddress = (text: string) => /^[a-z]+:\/\//i.test(text);

/** The commands for depots and parcels. */
export function depotsCommands(program: Command, given: Given): void {
  depotCommands(program, given);
  parcelCommands(program, given);
}

function depotCommands(program: Command, given: Given): void {
  const { act, show, withLink, absolutePath } = given;
  const depot = program.command("depot").description("where archives go: folders, drives, clouds");
  depot.command("list").action(() =>
    show("depots/list", {}, (list) => {
      const room = (free: number | null) => (free === null ? "free space not told" : `${words().bytes(free)} free`);
      const rows = list.map((d) => [
        d.title,
        d.state === "ready" ? room(d.free) : depotStates[d.state],
        words().counted(d.parcels, "parcel"),
        d.location,
      ]);
      printRows(rows, "There is no depot yet.");
    }),
  );
  const signIn = (command: Command) =>
    command
      .option("--user <name>", "the user name to sign in with")
      .option("--password-file <file>", "a file with the password in its first line; - reads it from the standard input")
      .option("--this-time", "keep the sign-in only until Vuoto ends")
      .option("--accept <sha256>", "accept the certificate of that SHA-256 though this computer cannot tell whose it is");
  interface SignInOptions {
    user?: string;
    passwordFile?: string;
    thisTime?: boolean;
    accept?: string;
  }
  const signInGiven = (o: SignInOptions) => ({
    user: o.user,
    password: o.passwordFile === undefined ? undefined : secretFrom(o.passwordFile),
    keep: o.thisTime ? ("end" as const) : undefined,
    accept: o.accept,
  });
  signIn(depot.command("add").argument("<location>", "a folder, a drive's mount point, or an address").argument("[name]"))
    .option("--title <name>", "what you call it")
    .option("--replace", "a drive that has the mark of one on the list takes its place")
    .action((location: string, name: string | undefined, o: SignInOptions & { title?: string; replace?: boolean }) =>
      act("depots/add", () => ({
        location: isAddress(location) ? location : { path: btoa(absolutePath(location)) },
        title: o.title ?? name,
        replace: o.replace,
        ...signInGiven(o),
      })),
    );
  signIn(depot.command("sign-in").argument("<depot>"))
    .description("change how a cloud is signed in to")
    .action((named: string, o: SignInOptions) =>
      show("depots/sign-in", { depot: depotWord(named), ...signInGiven(o) }, (answer) => out(answer.words)),
    );
  depot
    .command("remove")
    .argument("<depot>")
    .description("take a depot off the list; what lies in it stays there")
    .action((named: string) => act("depots/remove", () => ({ depot: depotWord(named) })));
  depot
    .command("check")
    .argument("<depot>")
    .description("read every parcel in it, and compare")
    .action((named: string) =>
      withLink(
        async (link) => {
          const answers = await link.ask("depots/check-all", { depot: depotWord(named) });
          if (answers.some(({ whole }) => !whole)) given.status = 3;
          return answers;
        },
        (answers) => {
          if (answers.length === 0) out("No parcel lies in it.");
          for (const answer of answers) printCheck(answer);
          return undefined;
        },
      ),
    );
  depot
    .command("checks")
    .argument("<depot>")
    .argument("<on|off>")
    .option("--bytes-a-month <n>", "of a cloud: how many bytes may be read in a month")
    .description("whether its parcels are read over in turn by themselves")
    .action((named: string, state: string, o: { bytesAMonth?: string }) => {
      if (state !== "on" && state !== "off") throw new Problem("bad-words", { detail: "Say on or off." });
      return act("depots/checks", () => ({
        depot: depotWord(named),
        on: state === "on",
        bytesAMonth: o.bytesAMonth === undefined ? undefined : Number(o.bytesAMonth),
      }));
    });
}

function parcelCommands(program: Command, given: Given): void {
  const { act, show, withLink, absolutePath, common, items } = given;
  const parcel = program.command("parcel").description("what was sent, what is on its way, and what is collected");
  parcel.command("list").action(() =>
    show("depots/parcels", {}, (list) => {
      const rows = list.map((p) => [
        p.title,
        p.state === "sent" ? `sent to ${p.depot}` : `${parcelStates[p.state]}${p.depot ? `, ${p.depot}` : ""}`,
        words().counted(p.things, "thing"),
        p.bytes === null ? "" : words().bytes(p.bytes),
        p.provenAt === null ? "" : `read back ${words().ago(Date.parse(p.provenAt))}`,
      ]);
      printRows(rows, "There is no parcel yet.");
    }),
  );
  parcel
    .command("show")
    .argument("<parcel>")
    .argument("[folder]", "a folder in a parcel that was sent")
    .action((named: string, folder?: string) => {
      if (folder !== undefined)
        return show("depots/browse", { parcel: named, folder }, (answer) =>
          printRows(
            answer.entries.map((e) => [words().bytes(e.bytes), e.type, e.path]),
            "It holds nothing.",
          ),
        );
      return show("depots/show", { parcel: named }, (answer) => {
        out(`${answer.title}: ${parcelStates[answer.state]}${answer.depot ? `, ${answer.depot}` : ""}`);
        if (answer.problem) out(answer.problem);
        printRows(
          answer.contents.map((t) => [words().bytes(t.bytes), t.folder, t.name]),
          "It holds nothing.",
        );
      });
    });
  parcel
    .command("find")
    .argument("<word...>")
    .description("find files by their names in all parcels, also of depots that are away")
    .action((terms: string[]) =>
      show("depots/find", { words: terms.join(" ") }, (answer) => {
        printRows(
          answer.found.map((f) => [f.title, f.near ? f.depot : `${f.depot}, away`, words().bytes(f.bytes), f.path]),
          "No parcel holds anything of that name.",
        );
        if (answer.more > 0) out(`and ${words().count(answer.more)} more`);
      }),
    );
  parcel
    .command("send")
    .argument("<parcel>")
    .argument("[depot]", "not needed for one that is on its way")
    .option("--no-wait", "do not wait until it has arrived")
    .description("send a parcel, or go on with it; the originals go once all of it was read back")
    .action((named: string, to: string | undefined, o: { wait: boolean }) =>
      act("depots/send", () => ({
        parcel: named,
        depot: to === undefined ? undefined : depotWord(to),
        wait: o.wait ? undefined : false,
      })),
    );
  for (const [name, asked, about] of [
    ["pause", "depots/pause", "stop a parcel where it is; send goes on with it"],
    ["cancel", "depots/cancel", "stop a parcel, and take away what was sent of it"],
  ] as const)
    parcel
      .command(name)
      .argument("<parcel>")
      .description(about)
      .action((named: string) => show(asked, { parcel: named }, (answer) => out(answer.words)));
  parcel
    .command("rename")
    .argument("<parcel>")
    .argument("<name>")
    .action((named: string, title: string) => act("depots/rename", () => ({ parcel: named, title })));
  parcel
    .command("move")
    .argument("<item...>")
    .option("--to <parcel>", "another parcel that is collected, or a new one; without it they go out of theirs")
    .description("put collected things into another parcel, or out of it")
    .action((names: string[], o: { to?: string }) =>
      act("depots/move", (account) => ({ items: items(account, names), parcel: o.to })),
    );
  parcel
    .command("from-home")
    .argument("<home>")
    .option("--before <date>", "only files that were last changed before that day, YYYY-MM-DD")
    .option("--parcel <name>")
    .description("collect what lies in a home in a parcel")
    .action((home: string, o: { before?: string; parcel?: string }) => {
      const before = o.before === undefined ? undefined : new Date(`${o.before}T00:00:00`).getTime();
      if (Number.isNaN(before)) throw new Problem("bad-words", { detail: `${o.before} is no day. Write it as 2025-03-01.` });
      return act("depots/from-home", () => ({ home: homeWord(home), before, parcel: o.parcel }));
    });
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
    .argument("[name...]", "files and folders in it; without any, all of it")
    .option("--to <folder>", "a folder that is not there yet; needed for a parcel that was changed or is somebody else's")
    .option("--with-programs", "what can be run comes along as it is, without asking")
    .description("bring back what is in a parcel; the parcel stays")
    .action((named: string, names: string[], o: { to?: string; withPrograms?: boolean }) => {
      const { dryRun } = common();
      const into = o.to === undefined ? undefined : { path: btoa(absolutePath(o.to)) };
      return withLink(
        async (link) => {
          const restore = (programs?: boolean) =>
            link.ask("depots/restore", { parcel: named, names: names.length > 0 ? names : undefined, into, programs, dryRun });
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
  parcel
    .command("propose")
    .argument("[proposal]", "one to take up: its things are collected in a parcel")
    .option("--except <item...>", "things that are left out")
    .option("--title <name>", "what the parcel is called")
    .description("what else could go to a depot")
    .action((named: string | undefined, o: { except?: string[]; title?: string }) => {
      if (named !== undefined)
        return act("depots/propose", (account) => ({
          proposal: named,
          except: o.except && items(account, o.except),
          title: o.title,
        }));
      return show("depots/proposals", {}, (list) => {
        if (list.length === 0) out("Nothing is proposed.");
        for (const { title, things, bytes } of list) {
          out(`${title}: ${words().counted(things.length, "thing")}, ${words().bytes(bytes)}`);
          for (const { path } of things) out(`  ${path}`);
        }
      });
    });
  parcel
    .command("fit")
    .description("how the parcels that are collected would fit into what is free")
    .action(() =>
      show("depots/fit", {}, ({ parcels }) => {
        if (parcels.length === 0) out("No parcel is collected.");
        for (const { title, bytes, depot, parts, tooLarge } of parcels) {
          out(`${title}, ${words().bytes(bytes)}: ${depot ? `fits into ${depot}` : "fits nowhere as a whole"}`);
          for (const part of parts)
            out(`  cut: ${words().counted(part.things, "thing")}, ${words().bytes(part.bytes)}, to ${part.depot}`);
          for (const one of tooLarge) out(`  no room anywhere: ${one.name}, ${words().bytes(one.bytes)}`);
        }
      }),
    );
  parcel
    .command("delete")
    .argument("<parcel>")
    .option("--yes", "without asking")
    .option("--read-clouds", "read the copies that remain in clouds back, too")
    .description("delete a parcel in its depot, for good")
    .action((named: string, o: { yes?: boolean; readClouds?: boolean }) => {
      const { dryRun } = common();
      const network = o.readClouds;
      return withLink(
        async (link) => {
          const trial = await link.ask("depots/delete", { parcel: named, dryRun: true });
          if (dryRun) {
            if (!common().json) printDeleting(trial);
            return trial;
          }
          if (!o.yes) {
            printDeleting(trial);
            if (common().json || !(await answersYes("Delete them for good?")))
              throw new Problem("cancelled", { name: "Deleting" });
          }
          return link.ask("depots/delete", { parcel: named, seen: trial.seen, network });
        },
        (report) => printReport(report, dryRun === true),
      );
    });
}
