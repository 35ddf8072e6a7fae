import type { Command } from "commander";
import { Problem } from "@/core/problem";
import { type KindGroup, kindGroups } from "@/core/quiet/levels";
import { type Weekday, weekdays } from "@/core/quiet/occasions";
import { untilFrom } from "@/core/quiet/until";
import type { QuietLevel } from "@/core/screen/state";
import { type Kind, kinds } from "@/core/survey/kinds";
import type { Given } from "../given";
import { out, printReport, printRows, statusOf, words } from "../print";

const shownWords: Record<QuietLevel, string> = {
  everything: "Everything is to be in sight.",
  "some kinds": "All but some kinds is to be in sight.",
  "what stays": "Only what you left on purpose is to be in sight.",
  bare: "Only the wallpaper is to be in sight.",
};

/** The commands for quiet. */
export function quietCommands(program: Command, given: Given): void {
  const { act, show, items, withLink, common } = given;
  /** Each is an act of its own, and can be undone. The record stays, and with it every undo. */
  const leave = () => {
    const { dryRun } = common();
    return withLink(
      (link) => link.ask("settings/leave", { dryRun }),
      ({ reports, begins }) => {
        for (const report of reports) printReport(report, dryRun === true);
        if (reports.length === 0) out("Everything is in sight, and nothing of Vuoto's is left among your programs.");
        for (const { title, at } of begins)
          out(`“${title}” begins again ${words().dateTime(Date.parse(at))}, if Vuoto runs then.`);
        return Math.max(0, ...reports.map(statusOf));
      },
    );
  };
  const quiet = program.command("quiet").description("take the icons out of sight, and bring them back");
  quiet
    .command("on")
    .description("take everything out of sight; or all but what stays; or some kinds")
    .option("--leave <what>", "what remains in sight: nothing, or stays", "nothing")
    .option("--hide <kinds>", "only these go: drive, shortcut, folder, file, or a kind such as picture, several with commas")
    .option("--until <time>", "when everything comes back: 17:30, 45m, 2h, a date")
    .option("--along", "what arrives meanwhile goes out of sight too")
    .option("--even-in-use", "also what a program has open")
    .action((o: { leave: string; hide?: string; until?: string; along?: true; evenInUse?: true }, command: Command) => {
      if (o.hide !== undefined && command.getOptionValueSource("leave") === "cli")
        throw new Problem("bad-words", { detail: "Say what to leave, or which kinds to hide, not both." });
      return act("quiet/show", () => ({
        level: o.hide !== undefined ? "some kinds" : leaveNamed(o.leave),
        kinds: o.hide === undefined ? undefined : kindsNamed(o.hide),
        until: o.until === undefined ? undefined : endNamed(o.until),
        along: o.along,
        evenInUse: o.evenInUse,
      }));
    });
  quiet
    .command("off")
    .description("bring everything back in sight")
    .action(() => act("quiet/show", () => ({ level: "everything" })));
  quiet
    .command("toggle")
    .description("out of sight, and back")
    .action(() => act("quiet/show", () => ({ level: "toggle" })));
  quiet
    .command("longer")
    .option("--until <time>", "17:30, 45m, 2h")
    .description("keep what ends next going: half an hour longer, or until a time")
    .action((o: { until?: string }) =>
      act("quiet/longer", () => ({ until: o.until === undefined ? undefined : endNamed(o.until) })),
    );
  quiet
    .command("status")
    .description("how much is shown, and what is out of sight")
    .action(() =>
      show("quiet/status", {}, (answer) => {
        const { level, outOfSight, arrived, inUse, until, believed, endsSoon, gone, doubt, underWay } = answer;
        const counted = (n: number) => words().counted(n, "thing is", "things are");
        const ends = until === null ? "" : ` It ends ${words().clock(Date.parse(until))}.`;
        if (believed === "otherwise") out(`${shownWords[level]} But the screen says that it shows its icons.${ends}`);
        else if (believed === "asked")
          out(
            `The screen was asked to hide ${words().counted(outOfSight.length, "icon")}; nobody can say whether it did.${ends}`,
          );
        else out(`${shownWords[level]} ${counted(outOfSight.length)} out of sight; ${arrived} arrived since.${ends}`);
        if (doubt)
          out(
            `${doubt === "clock" ? "The clock was set back" : "The time zone changed under an occasion"}, so it cannot be told what is over. All stays out of sight until you say.`,
          );
        if (endsSoon)
          out(
            `${endsSoon.title === null ? "Everything comes back" : `“${endsSoon.title}” ends`} ${words().clock(Date.parse(endsSoon.at))}. vuoto quiet longer lets it go on.`,
          );
        for (const { title, until: end } of underWay)
          out(`“${title}” is under way until ${end === null ? "you end it" : words().clock(Date.parse(end))}.`);
        if (inUse > 0) out(`${counted(inUse)} in sight still, as a program has them open.`);
        if (gone.length > 0) {
          out(`${counted(gone.length)} no longer where they were put; somebody moved, renamed or deleted them:`);
          for (const { path } of gone) out(`  ${path}`);
        }
        for (const { path } of outOfSight) out(`  ${path}`);
      }),
    );
  const occasion = program.command("occasion").description("named times with how much goes out of sight");
  occasion
    .command("list")
    .description("the occasions, and when each is")
    .action(() =>
      show("quiet/occasions", {}, (list) =>
        printRows(
          list.map(({ title, level, kinds, unnamed, layout, since, until, next }) => [
            title,
            `${level === "some kinds" ? `without ${kinds.join(", ")}` : level}${unnamed ? ", no names" : ""}${layout === null ? "" : `, layout ${layout}`}`,
            since === null
              ? next[0]
                ? `next ${words().clock(Date.parse(next[0].from))}`
                : "when you begin it"
              : until === null
                ? "under way"
                : `under way until ${words().clock(Date.parse(until))}`,
          ]),
          "There are no occasions.",
        ),
      ),
    );
  occasion
    .command("add")
    .argument("<title>")
    .description("make one, begun by hand, or on days of the week")
    .option("--leave <what>", "what remains in sight: nothing, or stays", "nothing")
    .option("--hide <kinds>", "only these go: drive, shortcut, folder, file, or a kind such as picture")
    .option("--days <days>", "mo,tu,we,th,fr,sa,su")
    .option("--from <hour>", "09:00")
    .option("--to <hour>", "17:30")
    .option("--layout <name>", "the icons then lie as in this layout")
    .option("--unnamed", "others see the screen: Vuoto's own window shows no names meanwhile")
    .action(
      (
        title: string,
        o: { leave: string; hide?: string; days?: string; from?: string; to?: string; unnamed?: true; layout?: string },
      ) =>
        act("quiet/add-occasion", () => ({
          title,
          level: o.hide !== undefined ? "some kinds" : leaveNamed(o.leave),
          kinds: o.hide === undefined ? undefined : kindsNamed(o.hide),
          days: o.days === undefined ? undefined : daysNamed(o.days),
          from: o.from,
          to: o.to,
          unnamed: o.unnamed,
          layout: o.layout,
        })),
    );
  const change = (does: "start" | "end" | "longer" | "remove", description: string, hasEnd: boolean) => {
    const command = occasion.command(does).argument("<title>").description(description);
    if (hasEnd) command.option("--until <time>", "17:30, 45m, 2h");
    command.action((title: string, o: { until?: string }) =>
      act("quiet/occasion", () => ({ occasion: title, does, until: o.until === undefined ? undefined : endNamed(o.until) })),
    );
  };
  change("start", "begin it now", true);
  change("end", "end it now", false);
  change("longer", "keep it going: half an hour longer, or until a time", true);
  change("remove", "take it off the list; what it hid comes back", false);
  program
    .command("hide")
    .argument("<item...>")
    .option("--even-in-use", "also what a program has open")
    .description("take single things on the desktop out of sight")
    .action((names: string[], o: { evenInUse?: true }) =>
      act("quiet/hide", (account) => ({ items: items(account, names), evenInUse: o.evenInUse })),
    );
  program
    .command("place")
    .argument("<item>")
    .argument("<x>", "pixels from the left")
    .argument("<y>", "pixels from the top")
    .description("give an icon another place on the screen, where Vuoto draws that itself")
    .action((name: string, x: string, y: string) => {
      const [left, top] = [Number(x), Number(y)];
      if (!Number.isFinite(left) || !Number.isFinite(top))
        throw new Problem("bad-words", { detail: "A place is two numbers of pixels." });
      return act("quiet/place", (account) => ({ spots: [{ item: items(account, [name])[0]!, x: left, y: top }] }));
    });
  program
    .command("leave")
    .description(
      "bring everything back in sight, end what is under way, and take away what Vuoto put among your programs and at log-in",
    )
    .action(leave);
  program
    .command("show")
    .argument("<item...>")
    .description("bring single things back in sight, each to its spot")
    .action((names: string[]) => act("quiet/bring-back", (account) => ({ items: items(account, names) })));
}

function leaveNamed(text: string): "what stays" | "bare" {
  if (text === "nothing") return "bare";
  if (text === "stays") return "what stays";
  throw new Problem("bad-words", { detail: `${text} cannot be left. There are: nothing, stays.` });
}

function daysNamed(text: string): Weekday[] {
  return text.split(",").map((word) => {
    const day = weekdays.find((known) => known === word.trim().slice(0, 2).toUpperCase());
    if (!day) throw new Problem("bad-words", { detail: `${word} is no day. There are: mo, tu, we, th, fr, sa, su.` });
    return day;
  });
}

function endNamed(text: string): number {
  const until = untilFrom(text, Date.now());
  if (until === undefined)
    throw new Problem("bad-words", { detail: `${text} is no time to come. Say 17:30, 45m, 2h or a date, as 2026-12-01.` });
  return until;
}

/** Kinds as they are typed: a group such as file, or a kind, in the singular or the plural. */
function kindsNamed(text: string): Kind[] {
  const named = text.split(",").map((word) => word.trim().toLowerCase().replaceAll("-", " "));
  const found = named.flatMap((word): readonly Kind[] => {
    const one = word.replace(/s$/, "");
    const group = [word, one].find((name): name is KindGroup => Object.hasOwn(kindGroups, name));
    if (group) return kindGroups[group];
    const kind = kinds.find((known) => known === word || known === one);
    if (kind) return [kind];
    const known = [...Object.keys(kindGroups), ...kinds.filter((k) => !Object.hasOwn(kindGroups, k))];
    throw new Problem("bad-words", { detail: `${word || "Nothing"} is no kind. There are: ${known.join(", ")}.` });
  });
  return [...new Set(found)];
}
