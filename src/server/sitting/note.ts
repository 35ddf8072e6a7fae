import type { HomeRef } from "@/contract/homes";
import type { ReportJson } from "@/contract/items";
import type { NoteInput, NotesAnswer } from "@/contract/sitting";
import type { Plan, Step } from "@/core/ledger/step";
import { shownPlace } from "@/core/ledger/step-type";
import { folderNameFromText, freeName, splitEnding } from "@/core/names/free-name";
import { joinRaw, type Raw, rawFromText, shownName, textOfRaw } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import { attachments, type NotePart, noteText } from "@/core/sitting/note";
import { perform } from "../act";
import { type NotesRecord, readRecord } from "../db/record";
import { realFolder } from "../disk/around";
import type { Engine } from "../engine";
import { homeMeant } from "../homes/homes";
import { trashSteps } from "../ledger/trash-place";
import { type Item, itemsLying } from "../survey/items";
import { onceDecided } from "./verdict";

const ending = rawFromText(".md");
/** A text of more bytes is kept with its note as a file. */
const mostWordForWord = 50_000;

/**
 * Things become notes in Markdown, in the home that was chosen for them. A short text goes into the note word for word, and its
 * file to the trash; anything else is moved beside the notes and linked. Note and thing go together, or neither, and come back
 * by one undo.
 */
export function note(engine: Engine, input: NoteInput): Promise<ReportJson> {
  return perform(engine, "Making a note", () => planNote(engine, input), { trial: input.dryRun, verdict: input });
}

/** The home for notes, and the titles of those that lie there. */
export function notes(engine: Engine): NotesAnswer {
  const chosen = readRecord<NotesRecord>(engine.db, "notes");
  if (!chosen) return { home: null, notes: [] };
  const folder = chosen.folder as Raw;
  const found = engine.disk.list(folder) ?? [];
  return {
    home: shownPlace(folder, engine.account.root),
    notes: found.flatMap(({ name, type }) => (type === "file" && isNote(name) ? [titleOf(name)] : [])).sort(),
  };
}

const isNote = (name: Raw) => /\.md$/i.test(name) && !name.startsWith(".");
const titleOf = (name: Raw) => shownName(splitEnding(name).stem);

function homeForNotes(engine: Engine, ref?: HomeRef): { folder: Raw; steps: Step[] } {
  const before = readRecord<NotesRecord>(engine.db, "notes");
  if (ref) {
    const { home, steps } = homeMeant(engine, ref);
    if (before?.folder === home.folder) return { folder: home.folder, steps };
    return {
      folder: home.folder,
      steps: [...steps, { type: "set", key: "notes", from: before && { ...before }, to: { folder: home.folder }, shared: true }],
    };
  }
  if (!before) throw new Problem("no-notes");
  const folder = before.folder as Raw;
  if (realFolder(folder) !== folder) throw new Problem("home-gone", { place: shownPlace(folder, engine.account.root) });
  return { folder, steps: [] };
}

function planNote(engine: Engine, input: NoteInput): Plan {
  const { disk } = engine;
  const { folder, steps } = homeForNotes(engine, input.home);
  const { items, left } = onceDecided(engine, itemsLying(engine, input.items), input.sitting);
  const going: Item[] = [];
  for (const item of items) {
    if (item.identity.type === "file") going.push(item);
    else {
      const problem = new Problem("no-note", { name: item.label, detail: "it is no file" });
      left.push({ name: item.label, item: item.id, code: problem.code, why: problem.message });
    }
  }
  const keptIn = joinRaw(folder, attachments);
  const [inNotes, kept] = [namesIn(engine, folder), namesIn(engine, keptIn)];
  const made: { item: Item; part: NotePart; step?: Step }[] = going.map((item) => {
    const part: NotePart = {
      title: titleOf(item.name),
      from: `from ${shownName(item.name)}, ${shownPlace(item.folder, engine.account.root)}, last changed ${engine.words().date(item.mtimeMs)}`,
    };
    const words = input.piece === undefined ? shortText(engine, item) : undefined;
    if (words !== undefined) return { item, part: { ...part, text: { words, markdown: isNote(item.name) } } };
    const name = freeName(item.name, (one) => kept.has(one));
    kept.add(name);
    return {
      item,
      part: {
        ...part,
        attachment: { name, picture: item.kind === "picture" || item.kind === "screenshot" },
        text: input.piece === undefined ? undefined : { words: input.piece, piece: true },
      },
      step: { type: "move", item: item.id, from: item.path, to: joinRaw(keptIn, name), identity: item.identity },
    };
  });
  if (made.some(({ step }) => step) && !disk.identity(keptIn)) steps.push({ type: "make-folder", folder: keptIn });
  steps.push(...made.flatMap(({ step }) => step ?? []));
  const texts = made.flatMap(({ item, step }) => (step ? [] : [item]));
  steps.push(...trashSteps(engine, texts));
  if (input.into !== undefined && made.length > 0) steps.push(writeInto(engine, folder, input.into, made, inNotes));
  else
    for (const { part } of made) {
      const name = freeName(noteName(part.title), (one) => inNotes.has(one));
      inNotes.add(name);
      steps.push(writing(joinRaw(folder, name), noteText(part.title, [part])));
    }
  const named = going.length === 1 ? going[0]!.label : engine.words().counted(going.length, "thing");
  return {
    act: "note",
    words: () =>
      input.into === undefined
        ? `Made ${going.length === 1 ? "a note" : "notes"} of ${named}`
        : `Put ${named} into the note “${input.into}”`,
    steps,
    left,
    sitting: input.sitting,
  };
}

const namesIn = (engine: Engine, folder: Raw) => new Set(engine.disk.list(folder)?.map(({ name }) => name) ?? []);
const writing = (file: Raw, text: string): Step => ({ type: "write", file, before: null, after: { content: rawFromText(text) } });

function noteName(title: string): Raw {
  const name = folderNameFromText(title);
  if (!name) throw new Problem("bad-name", { name: title });
  return freeName((name.slice(0, 200) + ending) as Raw, () => false);
}

/** A short text, whole; undefined of what is none, or would not be the same as text. */
function shortText({ disk }: Engine, { path, kind, identity }: Item): string | undefined {
  if (identity.bytes > mostWordForWord || kind === "picture" || kind === "screenshot") return undefined;
  const read = disk.readSmall(path, mostWordForWord);
  if (!read || read.includes(0)) return undefined;
  try {
    return new TextDecoder("utf-8", { fatal: true }).decode(read);
  } catch {
    return undefined;
  }
}

/** Adds to a note that is there, at its end, or makes one of that title. */
function writeInto(engine: Engine, folder: Raw, title: string, made: { part: NotePart }[], names: ReadonlySet<Raw>): Step {
  const wanted = title.replace(/\.md$/i, "").toLowerCase();
  const there = [...names].find((name) => isNote(name) && titleOf(name).toLowerCase() === wanted);
  const parts = made.map(({ part }) => part);
  if (!there) return writing(joinRaw(folder, noteName(title.replace(/\.md$/i, ""))), noteText(title, parts));
  const file = joinRaw(folder, there);
  const before = engine.disk.readFile(file);
  const text = before ? textOfRaw(before.content as Raw) : undefined;
  if (!before || text === undefined) throw new Problem("no-note", { name: shownName(there), detail: "it is no text" });
  const after = noteText(title, parts, text);
  const lines = text?.includes("\r\n") ? after.replace(/\r?\n/g, "\r\n") : after;
  return { type: "write", file, before, after: { ...before, content: rawFromText(lines) } };
}
