import { spawnSync } from "node:child_process";
import fs from "node:fs";
import path from "node:path";
import { afterEach, describe, expect, test } from "vitest";
import { differences } from "../../../fixtures/compare-trees";
import { idsOn, itemNamed, makePlace, type Place } from "../../../fixtures/engine";
import type { Engine } from "../engine";
import { letGo } from "../sitting/let-go";
import { trashList } from "./trash-list";
import { restoreFromTrash } from "./trash-restore";
import { undo } from "./undo";

let place: Place;
let engine: Engine;
let shared: string | undefined;
afterEach(async () => {
  await engine.close();
  place.remove();
  if (shared) fs.rmSync(shared, { recursive: true, force: true });
  shared = undefined;
});

const at = (...parts: string[]) => path.join(place.root, ...parts);
const trash = (...parts: string[]) => at(".local/share/Trash", ...parts);
const info = (name: string) => fs.readFileSync(trash("info", `${name}.trashinfo`), "utf8");

async function start(fill: (root: string) => void): Promise<Engine> {
  place = makePlace((root) => {
    fs.mkdirSync(path.join(root, "Desktop"));
    fs.mkdirSync(path.join(root, "Documents"));
    fill(root);
  });
  engine = await place.open();
  return engine;
}

/** Puts something in the trash as another program would. */
function foreign(name: string, content: string, infoText?: string): void {
  for (const folder of ["files", "info"]) fs.mkdirSync(trash(folder), { recursive: true });
  fs.writeFileSync(trash("files", name), content);
  if (infoText !== undefined) fs.writeFileSync(trash("info", `${name}.trashinfo`), infoText);
}

describe("the trash", () => {
  test("is that of the specification: info first, escaped path, local date, for the person alone", async () => {
    const e = await start((root) => fs.writeFileSync(path.join(root, "Desktop/tide & høst 100%.txt"), "x"));
    await letGo(e, { items: idsOn(e) });
    expect(info("tide & høst 100%.txt")).toMatch(
      new RegExp(
        `^\\[Trash Info\\]\nPath=${at("Desktop").replaceAll("/", "\\/")}\\/tide%20%26%20h%C3%B8st%20100%25\\.txt\nDeletionDate=\\d{4}-\\d\\d-\\d\\dT\\d\\d:\\d\\d:\\d\\d\n$`,
      ),
    );
    expect(fs.statSync(trash()).mode & 0o777).toBe(0o700);
    expect(fs.readdirSync(trash()).sort()).toEqual(["files", "info"]);
  });

  test("two things of one name lie beside each other, and each goes back to its own place", async () => {
    const e = await start((root) => {
      fs.mkdirSync(path.join(root, "Downloads"));
      fs.writeFileSync(path.join(root, "Desktop/a.txt"), "desktop");
      fs.writeFileSync(path.join(root, "Downloads/a.txt"), "downloads");
    });
    await letGo(e, { items: [...idsOn(e), ...idsOn(e, "downloads")] });
    expect(fs.readdirSync(trash("files")).sort()).toEqual(["a (2).txt", "a.txt"]);
    await restoreFromTrash(e, { things: trashList(e).map((t) => t.id) });
    expect([fs.readFileSync(at("Desktop/a.txt"), "utf8"), fs.readFileSync(at("Downloads/a.txt"), "utf8")]).toEqual([
      "desktop",
      "downloads",
    ]);
    expect(fs.readdirSync(trash("info"))).toEqual([]);
  });

  test("the longest name fits together with the ending of its info file", async () => {
    const long = `${"n".repeat(251)}.txt`;
    const e = await start((root) => fs.writeFileSync(path.join(root, "Desktop", long), "x"));
    await letGo(e, { items: idsOn(e) });
    expect(trashList(e)[0]).toMatchObject({ label: long });
    await undo(e, {});
    expect(fs.readdirSync(at("Desktop"))).toEqual([long]);
  });

  test("what other programs put there is listed and restored, its folder made again where it is gone", async () => {
    const e = await start(() => {});
    foreign(
      "x.2",
      "theirs",
      `[Trash Info]\nPath=${at("Desktop/gone folder").replace(" ", "%20")}/x.txt\nDeletionDate=2026-01-02T03:04:05\nSomethingElse=1\n`,
    );
    const [thing] = trashList(e);
    expect(thing).toMatchObject({
      label: "x.txt",
      original: at("Desktop/gone folder/x.txt"),
      deletedAt: new Date(2026, 0, 2, 3, 4, 5).getTime(),
    });
    expect(await restoreFromTrash(e, { things: [thing!.id] })).toMatchObject({ done: 1, refused: [] });
    expect(fs.readFileSync(at("Desktop/gone folder/x.txt"), "utf8")).toBe("theirs");
    expect(await undo(e, {})).toMatchObject({ refused: [] });
    expect(info("x.2")).toContain("SomethingElse=1");
    expect(fs.existsSync(at("Desktop/gone folder"))).toBe(false);
  });

  test("damaged and missing info files are survived: the thing is listed, and comes back to the desktop", async () => {
    const e = await start(() => {});
    foreign("none", "1");
    foreign("torn", "2", "[Trash In");
    foreign("empty", "3", "");
    foreign("binary", "4", "\u0000\u0001\u0002");
    foreign("huge", "5", `[Trash Info]\nPath=/x\n${"#".repeat(100_000)}`);
    fs.mkdirSync(trash("info/folder.trashinfo"), { recursive: true });
    foreign("folder", "6");
    foreign("nodate", "7", `[Trash Info]\nPath=${at("Desktop/nodate")}\nDeletionDate=yesterday\n`);
    const list = trashList(e);
    expect(list.map((t) => t.label).sort()).toEqual(["binary", "empty", "folder", "huge", "nodate", "none", "torn"]);
    expect(list.find((t) => t.label === "nodate")?.deletedAt).toBeUndefined();
    const ids = list.filter((t) => ["none", "torn", "empty", "binary"].includes(t.label)).map((t) => t.id);
    expect(await restoreFromTrash(e, { things: ids })).toMatchObject({ done: 4, refused: [] });
    expect(fs.readdirSync(at("Desktop")).sort()).toEqual(["binary", "empty", "none", "torn"]);
  });

  test("a name that is taken at the old place is not replaced", async () => {
    const e = await start((root) => fs.writeFileSync(path.join(root, "Desktop/a.txt"), "old"));
    await letGo(e, { items: idsOn(e) });
    fs.writeFileSync(at("Desktop/a.txt"), "new");
    expect(await restoreFromTrash(e, { things: [trashList(e)[0]!.id] })).toMatchObject({ done: 1 });
    expect(fs.readFileSync(at("Desktop/a.txt"), "utf8")).toBe("new");
    expect(fs.readFileSync(at("Desktop/a (2).txt"), "utf8")).toBe("old");
  });

  test("an undo whose old place is taken is refused, and the thing stays in the trash", async () => {
    const e = await start((root) => fs.writeFileSync(path.join(root, "Desktop/a.txt"), "old"));
    await letGo(e, { items: idsOn(e) });
    fs.writeFileSync(at("Desktop/a.txt"), "new");
    expect((await undo(e, {})).refused[0]).toMatchObject({ code: "name-taken" });
    expect(fs.readFileSync(trash("files/a.txt"), "utf8")).toBe("old");
    expect(info("a.txt")).toContain("Desktop/a.txt");
  });

  test("what would go outside the worktops and homes is not restored there", async () => {
    const e = await start(() => {});
    foreign("passwd", "x", "[Trash Info]\nPath=/etc/vuoto-passwd\nDeletionDate=2026-01-02T03:04:05\n");
    foreign("up", "x", `[Trash Info]\nPath=${at("Desktop")}/../../up\nDeletionDate=2026-01-02T03:04:05\n`);
    const report = await restoreFromTrash(e, { things: trashList(e).map((t) => t.id) });
    expect(report).toMatchObject({ done: 0 });
    expect(report.refused).toHaveLength(2);
    expect(fs.existsSync("/etc/vuoto-passwd")).toBe(false);
  });

  test("on another file system is that one's own, with a path relative to its top", async () => {
    shared = fs.realpathSync(fs.mkdtempSync("/dev/shm/vuoto-desktop-"));
    fs.writeFileSync(path.join(shared, "far.txt"), "far");
    fs.utimesSync(path.join(shared, "far.txt"), 1, 1);
    place = makePlace((root) => {
      fs.symlinkSync(shared!, path.join(root, "Desktop"));
    });
    engine = await place.open();
    const uid = process.getuid!();
    expect(await letGo(engine, { items: [itemNamed(engine, "far.txt").id] })).toMatchObject({ done: 1, refused: [] });
    expect(fs.readFileSync(`/dev/shm/.Trash-${uid}/info/far.txt.trashinfo`, "utf8")).toContain(
      `\nPath=${path.basename(shared)}/far.txt\n`,
    );
    expect(fs.existsSync(trash("files"))).toBe(false);
    expect(trashList(engine).find((t) => t.label === "far.txt")).toMatchObject({ original: path.join(shared, "far.txt") });
    expect(await undo(engine, {})).toMatchObject({ done: 1, refused: [] });
    expect(fs.readFileSync(path.join(shared, "far.txt"), "utf8")).toBe("far");
    expect(fs.existsSync(`/dev/shm/.Trash-${uid}/files/far.txt`)).toBe(false);
  });

  test("a socket is left alone, and said", async () => {
    const { createServer } = await import("node:net");
    const e = await start(() => {});
    const server = createServer();
    await new Promise<void>((ready) => server.listen(at("Desktop/socket"), ready));
    await e.lookAgain();
    const before = place.tree();
    expect(await letGo(e, { items: [itemNamed(e, "socket").id] })).toMatchObject({
      done: 0,
      refused: [{ code: "special-file" }],
    });
    expect(differences(before, place.tree(), () => true)).toEqual([]);
    server.close();
  });

  test("the sizes file tells other programs what folders in the trash take, as du counts, and forgets what left", async () => {
    const e = await start((root) => {
      fs.mkdirSync(path.join(root, "Desktop/with a space/inner"), { recursive: true });
      fs.writeFileSync(path.join(root, "Desktop/with a space/inner/big"), Buffer.alloc(100_000, 1));
      fs.mkdirSync(path.join(root, "Desktop/small"));
      fs.writeFileSync(path.join(root, "Desktop/file"), "no folder");
    });
    // Another program's folder is counted too; its line with an older time is out of date.
    fs.mkdirSync(trash("files/foreign"), { recursive: true });
    fs.mkdirSync(trash("info"));
    fs.writeFileSync(trash("info/foreign.trashinfo"), "[Trash Info]\nPath=/x/foreign\n");
    fs.writeFileSync(trash("directorysizes"), "1 1 foreign\n77 5 long%20gone\nnonsense\n");
    await letGo(e, { items: idsOn(e) });
    await e.lookAgain("all");
    const du = (name: string) => spawnSync("du", ["-s", "-B1", trash("files", name)], { encoding: "utf8" }).stdout.split("\t")[0];
    const line = (name: string, escaped = name) =>
      `${du(name)} ${Math.floor(fs.statSync(trash("info", `${name}.trashinfo`)).mtimeMs / 1000)} ${escaped}\n`;
    expect(fs.readFileSync(trash("directorysizes"), "utf8")).toBe(
      line("foreign") + line("small") + line("with a space", "with%20a%20space"),
    );
    await undo(e, {});
    await e.lookAgain("all");
    expect(fs.readFileSync(trash("directorysizes"), "utf8")).toBe(line("foreign"));
    fs.rmSync(trash("files/foreign"), { recursive: true });
    await e.lookAgain("all");
    expect(fs.existsSync(trash("directorysizes"))).toBe(false);
  });
});
