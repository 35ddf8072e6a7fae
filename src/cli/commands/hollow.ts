import type { Command } from "commander";
import { type HollowLine, undrawnInWords } from "@/contract/hollow";
import { Problem } from "@/core/problem";
import type { Given } from "../given";
import { out, words } from "../print";

/** The commands for hollows. */
export function hollowCommands(program: Command, given: Given): void {
  const { act, withLink, common } = given;
  const hollow = program
    .command("hollow")
    .description("a folder on the desktop that is drawn as nothing; it hides from the eye, and protects nothing");
  hollow
    .command("make")
    .option("--at <x,y>", "where on the screen, in pixels from its upper left")
    .option("--note <text>", "by what you will know it")
    .option("--hidden", "with a dot in front of its name, which no desktop shows, instead of one that is drawn as nothing")
    .description("make one")
    .action(({ at, note, hidden }: { at?: string; note?: string; hidden?: true }) => {
      if (at !== undefined && hidden) throw new Problem("bad-words", { detail: "What is marked hidden lies at no place." });
      return act("quiet/make-hollow", () => ({ ...placeNamed(at), note, hidden }));
    });
  hollow
    .command("list")
    .description("all of them, with their places")
    .action(() => list(() => true));
  hollow
    .command("check")
    .argument("[hollow]", "its number or its note")
    .description("whether name and picture say that it is not drawn")
    .action((named?: string) => list(({ number, note }) => named === undefined || [String(number), note].includes(named), true));
  hollow
    .command("find")
    .argument("[word]", "of its note")
    .description("where each is, also after it was renamed or moved")
    .action((word?: string) => list(({ note }) => word === undefined || note.toLowerCase().includes(word.toLowerCase())));
  hollow
    .command("repair")
    .argument("<hollow>", "its number or its note")
    .description("make it drawn as nothing again")
    .action((named: string) => act("quiet/repair-hollow", () => ({ hollow: named })));
  hollow
    .command("undo")
    .argument("<hollow>", "its number or its note")
    .argument("<name>")
    .description("make an ordinary folder of it, with a name")
    .action((named: string, name: string) => act("quiet/open-hollow", () => ({ hollow: named, name })));

  function list(wanted: (line: HollowLine) => boolean, check = false): Promise<void> {
    return withLink(
      async (link) => (await link.ask("quiet/hollows", {})).filter(wanted),
      (lines) => {
        if (lines.length === 0) out("There is none.");
        for (const line of lines) {
          const { number, note, place, name, wrong, things, inside } = line;
          out(
            `${number}. ${note || "(no note)"}: ${place ?? "not found"}, ${things === 0 ? "empty" : `${words().counted(things, "thing")} in it`}`,
          );
          out(`   its name: ${name || "unknown"}`);
          for (const sentence of wrong) out(`   ${sentence}`);
          if (wrong.length === 0) out(`   ${undrawnInWords(line)}`);
          if (inside.length > 0) out(`   in it: ${inside.join(", ")}${things > inside.length ? " …" : ""}`);
        }
        return check && !common().json && lines.some(({ wrong }) => wrong.length > 0) ? 1 : 0;
      },
    );
  }
}

function placeNamed(text: string | undefined): { x?: number; y?: number } {
  if (text === undefined) return {};
  const [, x, y] = /^(\d{1,5}),(\d{1,5})$/.exec(text.trim()) ?? [];
  if (x === undefined) throw new Problem("bad-words", { detail: "A place is two numbers of pixels, such as 640,400." });
  return { x: Number(x), y: Number(y) };
}
