import fs from "node:fs";
import path from "node:path";
import { afterEach, beforeEach, describe, expect, test } from "vitest";
import { rawFromText } from "@/core/names/raw";
import { makePlace, type Place } from "../../fixtures/engine";
import { addDepot } from "./depots/add";
import { realCalls } from "./disk/calls";
import type { Engine } from "./engine";
import { addHomes } from "./homes/add";
import { namedFolder } from "./named-folder";
import { protect } from "./survey/protect";

let place: Place;
let engine: Engine;
const at = (...parts: string[]) => path.join(place.root, ...parts);
const beside = (...parts: string[]) => path.join(place.folder, ...parts);
const make = (folder: string, mode = 0o755) => {
  fs.mkdirSync(folder, { recursive: true });
  fs.chmodSync(folder, mode);
  return folder;
};
beforeEach(async () => {
  place = makePlace((root) => {
    for (const name of ["Desktop", "Documents"]) fs.mkdirSync(path.join(root, name));
  });
  engine = await place.open();
});
afterEach(async () => {
  await engine.close();
  place.remove();
});

const why = (folder: string) => {
  try {
    namedFolder(engine, rawFromText(folder));
    return "may";
  } catch (error) {
    return (error as { facts: { detail: string } }).facts.detail;
  }
};

/** An access control list (acl(5)) by which one more user may write. */
function listOf(user: number): Buffer {
  const entry = (tag: number, rights: number, id = 0xffffffff) => {
    const bytes = Buffer.alloc(8);
    bytes.writeUInt16LE(tag, 0);
    bytes.writeUInt16LE(rights, 2);
    bytes.writeUInt32LE(id, 4);
    return bytes;
  };
  const version = Buffer.from([2, 0, 0, 0]);
  return Buffer.concat([version, entry(0x01, 7), entry(0x02, 7, user), entry(0x04, 5), entry(0x10, 7), entry(0x20, 5)]);
}

describe("which folders may be named", () => {
  test("those that are only the person's own, also such as do not exist yet", () => {
    for (const folder of [at("Documents"), at("Documents/New/Deep"), make(beside("disk")), beside("disk/new")])
      expect(why(folder), folder).toBe("may");
  });
  test("not where programs keep what they run, nor where programs are run from", () => {
    for (const folder of [at(".config"), at(".ssh/x"), at("Documents/.git/hooks"), at("Desktop/.out-of-sight")])
      expect(why(folder), folder).toMatch(/begins with a dot/);
    make(at("bin"));
    for (const folder of [at("bin"), at("bin/x"), "/usr/local/bin", "/usr", "/etc/cron.d"])
      expect(why(folder), folder).toMatch(/programs are run/);
    make(at("Documents/tools/run"));
    const before = process.env.PATH;
    process.env.PATH = `${before}:${at("Documents/tools/run")}`;
    try {
      for (const folder of [at("Documents/tools/run"), at("Documents/tools")]) expect(why(folder)).toMatch(/programs are run/);
      expect(why(at("Documents/toolsmith"))).toBe("may");
    } finally {
      process.env.PATH = before;
    }
  });
  test("not Vuoto's own record, the program itself, or a trash; by a link neither", () => {
    expect(why(place.data)).toMatch(/record/);
    expect(why(place.folder)).toMatch(/record/);
    expect(why(path.join(process.cwd(), "src"))).toMatch(/Vuoto itself/);
    fs.symlinkSync(place.data, at("Documents/way"));
    expect(why(at("Documents/way/x"))).toMatch(/record/);
    make(beside("mount/.Trash-0/files"));
    fs.symlinkSync(at(".local/share/Trash"), at("Documents/rubbish"));
    make(at(".local/share/Trash"));
    expect(why(at("Documents/rubbish"))).toMatch(/dot/);
  });
  test("not where another user could change what lies there; a sticky folder keeps them off, and a group of one's own too", () => {
    expect(why(make(beside("open"), 0o777))).toMatch(/other users can change/);
    expect(why(make(beside("open/inside")))).toMatch(/other users can change/);
    expect(why(make(beside("sticky"), 0o1777))).toBe("may");
    expect(why(make(beside("group"), 0o775))).toBe("may");
    fs.chownSync(beside("group"), 0, 1777);
    expect(why(beside("group"))).toMatch(/other users can change/);
    fs.chownSync(make(beside("theirs")), 1777, 1777);
    expect(why(beside("theirs"))).toMatch(/belongs to another user/);
    realCalls.setXattr(Buffer.from(make(beside("listed"))), Buffer.from("system.posix_acl_access"), listOf(1777));
    expect(why(beside("listed"))).toMatch(/other users can change/);
  });
});

test("depots, homes and protected places are all told by it", async () => {
  const open = make(beside("open"), 0o777);
  await expect(addDepot(engine, { location: open })).rejects.toMatchObject({ code: "place-unsuitable" });
  await expect(protect(engine, { folder: { path: btoa(open) }, protection: "backed up" })).rejects.toMatchObject({
    code: "place-unsuitable",
  });
  make(at("Documents/.git/hooks"));
  await expect(addHomes(engine, { homes: [{ folder: btoa(at("Documents/.git/hooks")) }] })).rejects.toMatchObject({
    code: "place-unsuitable",
  });
  fs.symlinkSync(make(beside("elsewhere")), at("Documents/way"));
  await expect(addHomes(engine, { homes: [{ title: "Documents / way / in" }] })).rejects.toMatchObject({
    code: expect.stringMatching(/link-on-the-way|name-taken/),
  });
});

test("a folder that becomes a depot is empty, or holds only bags", async () => {
  const depot = make(beside("disk"));
  fs.writeFileSync(path.join(depot, "letter.txt"), "mine");
  await expect(addDepot(engine, { location: depot })).rejects.toMatchObject({
    code: "depot-unsuitable",
    message: expect.stringContaining("letter.txt"),
  });
  fs.rmSync(path.join(depot, "letter.txt"));
  make(path.join(depot, "photographs"));
  await expect(addDepot(engine, { location: depot })).rejects.toMatchObject({ code: "depot-unsuitable" });
  fs.writeFileSync(path.join(depot, "photographs/bagit.txt"), "BagIt-Version: 1.0\n");
  make(path.join(depot, "lost+found"));
  expect(await addDepot(engine, { location: depot })).toMatchObject({ done: 1 });
});
