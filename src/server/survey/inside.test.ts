import fs from "node:fs";
import path from "node:path";
import { afterEach, beforeEach, expect, test } from "vitest";
import { itemNamed, makePlace, type Place } from "../../../fixtures/engine";
import type { Engine } from "../engine";
import { settle } from "./settle";
import { findings } from "./survey";

let place: Place;
let engine: Engine;
const write = (name: string, content: string | Buffer) => {
  const file = path.join(place.root, name);
  fs.mkdirSync(path.dirname(file), { recursive: true });
  fs.writeFileSync(file, content);
};
const large = (seed: string) => Buffer.alloc(100_000, seed);
beforeEach(async () => {
  place = makePlace((root) => fs.mkdirSync(path.join(root, "Desktop"), { recursive: true }));
  write("Documents/Tides/week.bin", large("week"));
  write("Documents/Tides/note.txt", "note");
  write("Desktop/mixed/deep/week copy.bin", large("week"));
  write("Desktop/mixed/own.bin", large("own"));
  write("Desktop/mixed/note.txt", "note");
  write("Desktop/trip/a.bin", large("a"));
  write("Desktop/trip copy/a.bin", large("a"));
  write("Desktop/loose.bin", large("own"));
  write("Desktop/alone/b.bin", large("b"));
  engine = await place.open();
});
afterEach(async () => {
  await engine.close();
  place.remove();
});

const found = async (kind: string) => {
  const finding = (await findings(engine)).find((one) => one.kind === kind);
  return Object.fromEntries((finding?.each ?? []).map(({ id, proof }) => [nameOf(id), proof]));
};
const nameOf = (id: string) =>
  ["mixed", "trip", "trip copy", "loose.bin", "alone"].find((name) => itemNamed(engine, name).id === id) ?? id;

test("files inside folders on the worktops that lie elsewhere too are found and said", async () => {
  expect(await found("twins inside")).toEqual({
    mixed: "2 of 3 files in it lie elsewhere too: own.bin is the same as loose.bin in Desktop",
    trip: "its one file lies elsewhere too: a.bin is the same as a.bin in Desktop / trip copy",
    "trip copy": "its one file lies elsewhere too: a.bin is the same as a.bin in Desktop / trip",
  });
  const { wins } = (await findings(engine)).find(({ kind }) => kind === "twins inside")!;
  expect(wins).toEqual({ items: 3, bytes: 400_000 });
});

test("a loose file that lies in such a folder too can be let go; what stays is proven once more", async () => {
  expect(await found("twins")).toEqual({ "loose.bin": "the same, byte for byte, as own.bin in Desktop / mixed" });
  expect(await settle(engine, { finding: "twins" })).toMatchObject({ done: 1, refused: [] });
  expect(fs.existsSync(path.join(place.root, "Desktop/loose.bin"))).toBe(false);
});

test("it stays where the other has changed meanwhile, whatever its size and times say", async () => {
  const other = path.join(place.root, "Desktop/mixed/own.bin");
  const { mtime } = fs.statSync(other);
  fs.writeFileSync(other, large("new"));
  fs.utimesSync(other, mtime, mtime);
  expect(await settle(engine, { finding: "twins" })).toMatchObject({ done: 0, refused: [{ code: "proof-gone" }] });
  expect(fs.existsSync(path.join(place.root, "Desktop/loose.bin"))).toBe(true);
});

test("a file that is known keeps its id, what was read of it included, while others in its folder come, change and go", async () => {
  const rows = () =>
    Object.fromEntries(
      engine.db
        .prepare<[], { id: number; name: string; sha256: string | null }>(
          "SELECT id, CAST(name AS TEXT) AS name, sha256 FROM filed_at WHERE CAST(folder AS TEXT) LIKE '%/Tides'",
        )
        .all()
        .map(({ name, ...row }) => [name, row]),
    );
  const before = rows();
  expect(before["week.bin"]!.sha256).not.toBeNull();
  write("Documents/Tides/new.txt", "new");
  write("Documents/Tides/note.txt", "another note");
  await engine.lookAgain("all");
  const after = rows();
  expect(Object.keys(after).sort()).toEqual(["new.txt", "note.txt", "week.bin"]);
  expect(after["week.bin"]).toEqual(before["week.bin"]);
  expect(after["note.txt"]!.id).toBe(before["note.txt"]!.id);
  fs.rmSync(path.join(place.root, "Documents/Tides/note.txt"));
  await engine.lookAgain("all");
  expect(Object.keys(rows()).sort()).toEqual(["new.txt", "week.bin"]);
});
