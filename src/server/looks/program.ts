import { spawn } from "node:child_process";
import path from "node:path";
import type { ProgramAnswer } from "@/contract/looks";
import { linkTo } from "@/core/names/link";
import { type Raw, textOfRaw } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import { readDesktopEntry } from "@/core/survey/desktop-entry";
import { execWords, programsFor, readMimeApps } from "@/core/survey/mime-apps";
import { actorNow } from "../actor";
import { canRun, readText, realFolder } from "../disk/around";
import type { Engine } from "../engine";
import { type Item, itemById } from "../survey/items";

/** Types whose files are looked at by programs and not run by them: anything else is not handed to one. */
const opened =
  /^(text\/plain|application\/(pdf|epub\+zip|rtf|msword|zip|gzip|x-tar|vnd\.(oasis\.opendocument\.(text|spreadsheet|presentation|graphics)|openxmlformats-officedocument\.(wordprocessingml\.document|spreadsheetml\.sheet|presentationml\.presentation)))|image\/(?!svg)[\w.+-]+|(audio|video|font)\/[\w.+-]+)$/;

/** Names that a program could take for something to be run, whatever is in them. */
const runs =
  /\.(desktop|sh|bash|py|pl|rb|js|mjs|cjs|jar|exe|bat|cmd|com|ps1|vbs|run|appimage|html?|xhtml|svg|url|docm|xlsm|pptm)$/i;

const refused = (item: Item | undefined, detail: string) => new Problem("no-program", { name: item?.label, detail });

/** Where programs and what opens what are named (XDG Base Directory Specification). */
function places({ root }: Engine["account"]): { lists: string[]; entries: string[] } {
  const home = textOfRaw(root) ?? "";
  const own = realFolder(root) !== undefined && process.env["HOME"] === home;
  const config = (own && process.env["XDG_CONFIG_HOME"]) || path.join(home, ".config");
  const data = (own && process.env["XDG_DATA_HOME"]) || path.join(home, ".local/share");
  const configs = [config, ...(process.env["XDG_CONFIG_DIRS"] || "/etc/xdg").split(":")];
  const all = [data, ...(process.env["XDG_DATA_DIRS"] || "/usr/local/share:/usr/share").split(":")];
  const entries = all.filter((one) => path.isAbsolute(one)).map((one) => path.join(one, "applications"));
  return {
    lists: [
      ...configs.filter((one) => path.isAbsolute(one)).map((one) => path.join(one, "mimeapps.list")),
      ...entries.map((one) => path.join(one, "mimeapps.list")),
      ...entries.map((one) => path.join(one, "mimeinfo.cache")),
    ],
    entries,
  };
}

const textAt = (file: string) => readText(Buffer.from(file).toString("latin1") as Raw);

/** The program that opens a thing by what is in it, with its argument list. @throws Problem "no-program" */
async function programOf(engine: Engine, id: string): Promise<{ item: Item; program: ProgramAnswer }> {
  const { account } = engine;
  const item = itemById(engine.db, id);
  if (!item || !engine.disk.identity(item.path)) throw new Problem("unknown-item", { name: item?.label });
  if (account.sample) throw refused(item, "there are no programs in the sample");
  if (item.identity.type !== "file" || ["shortcut", "web link", "installer"].includes(item.kind) || runs.test(item.label))
    throw refused(item, "it could be run instead of looked at");
  const type = await engine.workers.run("contentType", { path: item.path }, { urgent: true });
  if (type === undefined) throw refused(item, "it can be run, or its form is not known");
  if (!opened.test(type)) throw refused(item, `no program is given ${type}`);
  const { lists, entries } = places(account);
  const named = lists.flatMap((file) => {
    const text = textAt(file);
    return text === undefined ? [] : [readMimeApps(text)];
  });
  for (const entry of programsFor(type, named)) {
    const program = runnable(item, entry, entries);
    if (program) return { item, program };
  }
  throw refused(item, `no program is named for ${type}`);
}

/** A program by its desktop file's id, where that is whole and the program there. */
function runnable(item: Item, id: string, folders: readonly string[]): ProgramAnswer | undefined {
  for (const folder of folders) {
    const file = [id, id.replace("-", "/")].map((name) => path.join(folder, name)).find((one) => textAt(one) !== undefined);
    const entry = file && readDesktopEntry(textAt(file)!);
    if (!file || !entry) continue;
    // The more important one says that it is not there.
    if (entry.get("Hidden") === "true" || entry.get("Type") !== "Application" || entry.get("Terminal") === "true")
      return undefined;
    const title = entry.get("Name") ?? id;
    const place = textOfRaw(item.path);
    // An address is written in letters, whatever its name's bytes.
    const address = `file://${item.path
      .split("/")
      .map((part) => linkTo(part as Raw))
      .join("/")}`;
    const words = execWords(entry.get("Exec") ?? "", { path: place ?? "\0", address, title, entry: file });
    const program = words && canRun(words[0]!);
    if (!words || !program || words.some((word) => word.includes("\0"))) return undefined;
    return { id, title, runs: [program, ...words.slice(1)] };
  }
  return undefined;
}

/** Which program would open a thing, and how; to be shown before it does. */
export async function program(engine: Engine, { item: id }: { item: string }): Promise<ProgramAnswer> {
  return (await programOf(engine, id)).program;
}

/** Opens a thing in the program that was shown. Asked for at a window alone: another program has its own ways. */
export async function inProgram(engine: Engine, input: { item: string; program: string }): Promise<{ started: string }> {
  if (actorNow() === "command") throw refused(itemById(engine.db, input.item), "that is done at the window alone");
  const { item, program: found } = await programOf(engine, input.item);
  if (found.id !== input.program) throw refused(item, "another program than was shown would open it now");
  const [file, ...rest] = found.runs as [string, ...string[]];
  await new Promise<void>((done, fail) => {
    // It goes on when Vuoto ends, and hears nothing of it.
    const child = spawn(file, rest, { detached: true, stdio: "ignore", shell: false, cwd: "/", env: environment() });
    child.once("error", (error) => fail(refused(item, error.message)));
    child.once("spawn", () => {
      child.unref();
      done();
    });
  });
  return { started: found.title };
}

/** What the person's own session gives to its programs, and nothing of what Vuoto was started with. */
function environment(): NodeJS.ProcessEnv {
  const kept = Object.entries(process.env).filter(([key]) => !/^(NODE_|npm_|VUOTO_|NEXT_|__NEXT)/.test(key));
  return Object.fromEntries(kept) as NodeJS.ProcessEnv;
}
