import type { HollowLine } from "@/contract/hollow";
import type { Tile } from "@/contract/views";
import { type BlanksMeasured, bestBlanks, blankInWords, fontsThatDraw, isBlankName } from "@/core/hollow/blanks";
import { clearPicture, type Hollow, hollowIn, isHiddenName, metadataFile, metadataText, pictureFile } from "@/core/hollow/hollow";
import { folderOf, joinRaw, nameOf, type Raw, shownName, textOfRaw } from "@/core/names/raw";
import { Problem, unlessProblem } from "@/core/problem";
import { fromAccount, tuckedFolder } from "../account";
import { writeDataFile } from "../data-file";
import { readPosition, readRecords } from "../db/record";
import type { Engine } from "../engine";
import { homes } from "../homes/homes";
import { itemAt } from "../survey/items";
import { blanksMeasured } from "./measured";

/** A hollow, and where it lies now, if it was found. */
export interface HollowNow extends Hollow {
  id: string;
  number: number;
  path?: Raw;
}

/**
 * The hollows in the order in which they were made. Each is looked for where it was, and else by its own metadata: on the
 * worktops, and where it is asked for, in all homes.
 */
export function hollows(engine: Engine, where: "worktops" | "homes too" = "homes too"): HollowNow[] {
  const all = [...readRecords<Hollow>(engine.db, "hollow")].sort(([, a], [, b]) => a.at - b.at);
  let found: Map<string, Raw> | undefined;
  return all.map(([id, hollow], n) => {
    const of = (path: Raw | undefined): HollowNow => ({ ...hollow, id, number: n + 1, path });
    if (idAt(engine, hollow.folder) === id) return of(hollow.folder);
    found ??= hollowsAround(engine, where);
    // Another folder may have taken its place; one whose metadata somebody took away is still it.
    return of(found.get(id) ?? (engine.disk.identity(hollow.folder)?.type === "folder" ? hollow.folder : undefined));
  });
}

/** What a small file in a folder says; undefined where there is none, or it cannot be read. */
const contentIn = ({ disk }: Engine, folder: Raw, name: Raw): Raw | undefined =>
  unlessProblem(() => disk.readFile(joinRaw(folder, name)))?.content;

/** The id in a folder's metadata. */
function idAt(engine: Engine, folder: Raw): string | undefined {
  const metadata = contentIn(engine, folder, metadataFile);
  return metadata === undefined ? undefined : hollowIn(metadata);
}

/** Folders with a hollow's metadata: somebody may have renamed or moved one, or it is out of sight. */
function hollowsAround(engine: Engine, where: "worktops" | "homes too"): Map<string, Raw> {
  const found = new Map<string, Raw>();
  const { worktops } = engine.account;
  const near = [...worktops.map(({ folder }) => folder), ...worktops.map(tuckedFolder)];
  const far = where === "homes too" ? homes(engine).map(({ folder }) => folder) : [];
  for (const folder of [...near, ...far])
    for (const { name, type } of unlessProblem(() => engine.disk.list(folder)) ?? []) {
      if (type !== "folder") continue;
      const id = idAt(engine, joinRaw(folder, name));
      if (id !== undefined && !found.has(id)) found.set(id, joinRaw(folder, name));
    }
  return found;
}

/** A hollow by its id, its number or its note. @throws Problem "unknown-hollow" */
export function hollowMeant(engine: Engine, named: string): HollowNow {
  const all = hollows(engine);
  const found =
    all.find(({ id }) => id === named) ??
    all.find(({ number }) => String(number) === named) ??
    all.find(({ note }) => note !== "" && note.toLowerCase() === named.toLowerCase());
  if (!found) throw new Problem("unknown-hollow", { name: named });
  return found;
}

/** The same, where it lies somewhere. @throws Problem "hollow-gone" */
export function hollowThere(engine: Engine, named: string): HollowNow & { path: Raw } {
  const { path, ...rest } = hollowMeant(engine, named);
  if (path === undefined) throw new Problem("hollow-gone", { name: rest.note || undefined });
  return { ...rest, path };
}

const own = new Set<Raw>([metadataFile, pictureFile]);

/** What of a hollow is not as it was made. */
export function wrongWith(
  engine: Engine,
  { id, path, hidden }: HollowNow,
  measured?: BlanksMeasured,
): { name: boolean; metadata: boolean; picture: boolean } {
  if (path === undefined) return { name: false, metadata: false, picture: false };
  const name = nameOf(path);
  return {
    name: hidden ? !isHiddenName(name) : !isBlankName(name) || isDrawnMore(name, measured),
    metadata: contentIn(engine, path, metadataFile) !== metadataText(id),
    picture: contentIn(engine, path, pictureFile) !== clearPicture,
  };
}

/** Whether more fonts draw a name of blanks than another that it could have. */
function isDrawnMore(name: Raw, measured: BlanksMeasured | undefined): boolean {
  const drawnIn = fontsThatDraw(name, measured);
  if (!measured || drawnIn === undefined || drawnIn.length === 0) return false;
  const [best] = bestBlanks(measured);
  return best !== undefined && measured.blanks[best]!.drawnIn.length < drawnIn.length;
}

/** So many names of what lies in it are shown. */
const namesShown = 12;

function hollowLine(engine: Engine, hollow: HollowNow, measured: BlanksMeasured | undefined): HollowLine {
  const { id, number, note, path, at, seen, hidden } = hollow;
  const item = path === undefined ? undefined : itemAt(engine.db, path);
  // It may have been dragged since.
  const { x, y } = (item && readPosition(engine.db, item.id)) ?? hollow;
  const wrong = wrongWith(engine, hollow, measured);
  const name = path && nameOf(path);
  const drawnIn = name && fontsThatDraw(name, measured);
  const desktop = engine.account.worktops.find((worktop) => worktop.id === "desktop")?.folder;
  const isAway = path !== undefined && engine.account.worktops.some((worktop) => folderOf(path) === tuckedFolder(worktop));
  const onDesktop = path !== undefined && (folderOf(path) === desktop || isAway);
  const inside = ((path && unlessProblem(() => engine.disk.list(path))) ?? [])
    .filter((entry) => !own.has(entry.name))
    .map((entry) => shownName(entry.name))
    .sort();
  return {
    id,
    number,
    note,
    place:
      path === undefined
        ? null
        : isAway
          ? "out of sight"
          : onDesktop
            ? "on the desktop"
            : `in ${fromAccount(engine.account, shownName(folderOf(path)))}`,
    item: item?.id ?? null,
    x,
    y,
    madeAt: new Date(at).toISOString(),
    name: name === undefined ? "" : isBlankName(name) ? blankInWords(name) : shownName(name),
    blank: name === undefined ? "" : (textOfRaw(name) ?? shownName(name)),
    hidden: hidden === true,
    undrawn: path !== undefined && !wrong.name && !wrong.metadata && !wrong.picture,
    fonts: drawnIn && measured ? { measured: measured.fonts, drawnIn } : null,
    wrong: [
      ...(path === undefined ? ["It is no longer where it was, and in none of your homes."] : []),
      ...(path !== undefined && !onDesktop ? ["It no longer lies on the desktop."] : []),
      ...(wrong.name ? [nameWrong(hidden, drawnIn)] : []),
      ...(wrong.metadata || wrong.picture ? ["Its picture is not the clear one any more."] : []),
    ],
    seen,
    things: inside.length,
    inside: inside.slice(0, namesShown),
  };
}

function nameWrong(hidden: true | undefined, drawnIn: string[] | undefined): string {
  if (hidden) return "The dot in front of its name is gone, so it is shown.";
  if (drawnIn && drawnIn.length > 0) return `Its name is drawn by a font of this computer: ${drawnIn.slice(0, 3).join(", ")}.`;
  return "It has a name that is drawn.";
}

/** The hollows as lines; where and what they are stands in a plain file in Vuoto's folder, too, to be found without Vuoto. */
export async function listHollows(engine: Engine): Promise<HollowLine[]> {
  const all = hollows(engine);
  const measured = all.length > 0 ? await blanksMeasured(engine) : undefined;
  const lines = all.map((hollow) => hollowLine(engine, hollow, measured));
  keepFile(engine, lines);
  return lines;
}

const fileName = "hollows.txt";

function keepFile(engine: Engine, lines: HollowLine[]): void {
  const text = lines.map(({ number, note, place, name, x, y }) => {
    const at = x === null || y === null ? "" : `, at ${Math.round(x)}, ${Math.round(y)} on the screen`;
    return `${number}. ${note || "(no note)"}\n   ${place === null ? "not found" : `lies ${place}`}${at}; its name: ${name || "unknown"}\n`;
  });
  const head = "Hollows: folders whose names and pictures are drawn as nothing. Kept by Vuoto, and not read by it.";
  try {
    writeDataFile(engine.account, fileName, `${head}\n\n${text.join("\n")}`);
  } catch {
    // A full disk: what was done is done, and it is written when they are next looked at.
  }
}

/** How hollows that lie somewhere are drawn, by path: known by their notes, with names and pictures that are nothing. */
export function hollowsDrawn(engine: Engine): Map<Raw, Pick<Tile, "name" | "blank" | "clear">> {
  return new Map(
    hollows(engine, "worktops").flatMap((hollow) => {
      const { path, note } = hollow;
      if (path === undefined) return [];
      const wrong = wrongWith(engine, hollow);
      const blank = wrong.name ? undefined : textOfRaw(nameOf(path));
      const name = blank === undefined ? shownName(nameOf(path)) : note ? `hollow: ${note}` : "a hollow";
      return [[path, { name, blank, ...(wrong.metadata || wrong.picture ? {} : { clear: true as const }) }] as const];
    }),
  );
}
