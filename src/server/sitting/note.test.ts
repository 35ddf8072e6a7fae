import fs from "node:fs";
import path from "node:path";
import { afterEach, beforeEach, expect, test } from "vitest";
import { differences } from "../../../fixtures/compare-trees";
import { itemNamed, makePlace, type Place, worktopTimes } from "../../../fixtures/engine";
import type { Engine } from "../engine";
import { undo } from "../ledger/undo";
import { note, notes } from "./note";

const hostile = "mesh #1 (50%) [copy] & tide.png";
let place: Place;
let engine: Engine;
const at = (rel: string) => path.join(place.root, rel);
const read = (rel: string) => fs.readFileSync(at(rel), "utf8");
const ref = (label: string) => [itemNamed(engine, label).id];

beforeEach(async () => {
  place = makePlace((root) => {
    for (const folder of ["Desktop", "Documents/Notes"]) fs.mkdirSync(path.join(root, folder), { recursive: true });
    const lay = (name: string, content: string | Buffer) => fs.writeFileSync(path.join(root, "Desktop", name), content);
    lay("sketch.png", Buffer.from("89504e470d0a1a0a", "hex"));
    lay(hostile, Buffer.from("89504e470d0a1a0a00", "hex"));
    lay("idea.txt", "net of ```three``` meshes\n# not a heading\n");
    lay("plan.md", "## Plan\n\n- one\n");
    lay("latin.txt", Buffer.from("caf\xe9", "latin1"));
    fs.mkdirSync(path.join(root, "Desktop/folder"));
  });
  engine = await place.open();
});
afterEach(async () => {
  await engine.close();
  place.remove();
});

test("asks once for the home of the notes, and keeps it", async () => {
  expect(notes(engine)).toEqual({ home: null, notes: [] });
  await expect(note(engine, { items: ref("sketch.png") })).rejects.toMatchObject({ code: "no-notes" });
  await note(engine, { items: ref("sketch.png"), home: { title: "Documents / Notes" } });
  await note(engine, { items: ref("plan.md") });
  expect(notes(engine)).toEqual({ home: "Documents / Notes", notes: ["plan", "sketch"] });
});

test("a picture lies beside its note and is drawn in it; a text stands in it word for word, and its file in the trash", async () => {
  const before = place.tree();
  expect((await note(engine, { items: ref("sketch.png"), home: { title: "Documents / Notes" } })).words).toBe(
    "Made a note of sketch.png",
  );
  expect(read("Documents/Notes/sketch.md")).toMatch(/^# sketch\n\n!\[sketch\]\(attachments\/sketch\.png\)\n\n\*from sketch/);
  expect(fs.readdirSync(at("Documents/Notes/attachments"))).toEqual(["sketch.png"]);
  await note(engine, { items: ref("idea.txt") });
  const idea = read("Documents/Notes/idea.md");
  // What would end the fence does not.
  expect(idea).toContain("````\nnet of ```three``` meshes\n# not a heading\n````\n");
  expect(fs.readdirSync(at(".local/share/Trash/files"))).toEqual(["idea.txt"]);
  await note(engine, { items: ref("plan.md") });
  expect(read("Documents/Notes/plan.md")).toMatch(/^# plan\n\n## Plan\n\n- one\n/);
  // Not UTF-8: it would not be the same as text, so the file itself is kept.
  await note(engine, { items: ref("latin.txt") });
  expect(fs.readFileSync(at("Documents/Notes/attachments/latin.txt"), "latin1")).toBe("caf\xe9");
  for (let n = 0; n < 4; n++) expect(await undo(engine, {})).toMatchObject({ refused: [] });
  const rest = differences(before, place.tree(), worktopTimes).filter((line) => !line.startsWith("new: .local"));
  expect(rest).toEqual([]);
});

test("whatever its name holds, the link leads to it", async () => {
  await note(engine, { items: ref(hostile), home: { title: "Documents / Notes" } });
  const [file] = fs.readdirSync(at("Documents/Notes")).filter((name) => name.endsWith(".md"));
  const link = /!\[.*\]\((\S+)\)/.exec(read(`Documents/Notes/${file}`))![1]!;
  expect(fs.existsSync(at(`Documents/Notes/${decodeURIComponent(link)}`))).toBe(true);
});

test("a piece of a text is quoted, and the whole of it kept beside the note", async () => {
  await note(engine, { items: ref("idea.txt"), home: { title: "Documents / Notes" }, piece: "three meshes\n*loud*" });
  const text = read("Documents/Notes/idea.md");
  expect(text).toContain("> three meshes\n> \\*loud\\*");
  expect(text).toContain("](attachments/idea.txt)");
  expect(read("Documents/Notes/attachments/idea.txt")).toContain("three");
});

test("adds to a note that is there, in its own line ends, and begins one that is not", async () => {
  fs.writeFileSync(at("Documents/Notes/Harbour.md"), "# Harbour\r\n\r\nfirst\r\n");
  const home = { title: "Documents / Notes" };
  const items = [...ref("sketch.png"), ...ref("plan.md")];
  expect((await note(engine, { items, into: "harbour", home })).words).toBe("Put 2 things into the note “harbour”");
  const text = read("Documents/Notes/Harbour.md");
  expect(text).toMatch(/^# Harbour\r\n\r\nfirst\r\n\r\n## sketch\r\n/);
  expect(text.replaceAll("\r\n", "")).not.toContain("\n");
  await note(engine, { items: ref("idea.txt"), into: "New one" });
  expect(read("Documents/Notes/New one.md")).toMatch(/^# New one\n\n## idea\n/);
  // What somebody wrote into it since is not taken back with it.
  fs.appendFileSync(at("Documents/Notes/New one.md"), "mine\n");
  expect(await undo(engine, {})).toMatchObject({ refused: [{ code: "changed" }] });
  expect(read("Documents/Notes/New one.md")).toContain("mine");
  expect(fs.existsSync(at("Desktop/idea.txt"))).toBe(true);
});

test("note and thing go together or not at all", async () => {
  const home = { title: "Documents / Notes" };
  const before = place.tree();
  // It is open in a program: nothing is left behind, no note and no folder.
  fs.writeFileSync(at("Desktop/.~lock.sketch.png#"), "");
  const refused = await note(engine, { items: [...ref("sketch.png"), ...ref("plan.md")], home });
  // Its trial says so, too.
  const items = [...ref("sketch.png"), ...ref("plan.md")];
  expect(await note(engine, { items, home, dryRun: true })).toMatchObject({ done: 0, steps: [] });
  expect(refused).toMatchObject({ done: 0 });
  expect(refused.refused.map(({ code }) => code)).toContain("in-use");
  fs.rmSync(at("Desktop/.~lock.sketch.png#"));
  // The note cannot be written: the thing stays where it lies.
  fs.writeFileSync(at("Documents/Notes/Full.md"), "x");
  const plan = note(engine, { items: ref("plan.md"), into: "Full", home });
  fs.writeFileSync(at("Documents/Notes/Full.md"), "written meanwhile");
  await plan.catch(() => undefined);
  expect(fs.existsSync(at("Desktop/plan.md")) || read("Documents/Notes/Full.md").includes("## plan")).toBe(true);
  fs.rmSync(at("Documents/Notes/Full.md"));
  await undo(engine, {}).catch(() => undefined);
  const rest = differences(before, place.tree(), worktopTimes).filter((line) => !line.startsWith("new: .local"));
  expect(rest).toEqual([]);
  expect(await note(engine, { items: ref("folder"), home })).toMatchObject({ done: 0, refused: [{ code: "no-note" }] });
});
