import fs from "node:fs";
import os from "node:os";
import path from "node:path";
import { afterEach, beforeEach, describe, expect, test } from "vitest";
import { type Raw, rawFromBytes, rawFromText } from "@/core/names/raw";
import { openCloud } from "@/standins/cloud/cloud";
import { realCalls } from "../../disk/calls";
import { Disk } from "../../disk/disk";
import { sumOf, unhurried } from "../../disk/tree";
import { type DepotAddress, type DepotStore, type NewContent, readWhole } from "../store";
import { storeAt } from "./kinds";

let folder: string;
let ends: (() => Promise<void>)[];
beforeEach(() => {
  folder = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), "vuoto-depot-")));
  ends = [];
});
afterEach(async () => {
  for (const end of ends) await end();
  fs.rmSync(folder, { recursive: true, force: true });
});

const anywhere = () => new Disk(realCalls, () => () => true);

interface Made {
  store: DepotStore;
  away: () => void;
  back: () => void;
  /** Something that lies beside the depot, which no path in it may lead to. */
  outside: string;
}

/** A depot of each kind, with nothing in it, and how it goes out of reach. */
const each: Record<DepotAddress["kind"], () => Promise<Made>> = {
  async folder() {
    const at = path.join(folder, "disk");
    fs.mkdirSync(at);
    return {
      store: storeAt({ kind: "folder", folder: rawFromText(at) } as DepotAddress, anywhere()),
      away: () => fs.renameSync(at, `${at} away`),
      back: () => fs.renameSync(`${at} away`, at),
      outside: path.join(folder, "outside"),
    };
  },
  async drive() {
    const at = path.join(folder, "disk");
    const mark = "a-mark-of-our-own";
    fs.mkdirSync(at);
    fs.writeFileSync(path.join(at, ".vuoto-depot.json"), JSON.stringify({ depot: mark }));
    return {
      store: storeAt({ kind: "drive", title: "disk", mark, folder: rawFromText(at) }, anywhere()),
      // Pulled out, its empty mount point stays.
      away: () => {
        fs.renameSync(at, `${at} away`);
        fs.mkdirSync(at);
      },
      back: () => {
        fs.rmdirSync(at);
        fs.renameSync(`${at} away`, at);
      },
      outside: path.join(folder, "outside"),
    };
  },
  async cloud() {
    const cloud = await openCloud(path.join(folder, "cloud"), { settings: { quota: 100_000_000 } });
    const { user, password } = cloud.settings;
    const store = storeAt({ kind: "cloud", title: "disk", url: cloud.url, signIn: { user, password } }, anywhere());
    ends.push(() => store.close(), cloud.close);
    return {
      store,
      away: () => cloud.set({ down: true }),
      back: () => cloud.set({ down: false }),
      outside: path.join(folder, "outside"),
    };
  },
};

const raw = rawFromText;
function parts(...texts: (string | Buffer)[]): NewContent {
  return {
    bytes: texts.reduce((sum, text) => sum + Buffer.byteLength(text), 0),
    async *content() {
      for (const text of texts) yield Buffer.from(text);
    },
  };
}
const text = async (store: DepotStore, at: Raw) => (await readWhole(store, at, 1000))?.toString();

describe.each(Object.entries(each))("a depot of the kind %s", (_kind, make) => {
  test("gives back what was written, says what is there, and how large it is", async () => {
    const { store } = await make();
    expect(await store.list(raw(""))).toEqual([]);
    await store.makeFolder(raw("part"));
    await store.makeFolder(raw("part/data"));
    await store.write(raw("part/data/tide · 7 m.txt"), parts("high ", "tide"), { mtimeNs: 1_234_567_890_123_456_789n });
    await store.write(raw("part/data/empty"), parts());
    await store.settle(raw("part"));
    expect(await text(store, raw("part/data/tide · 7 m.txt"))).toBe("high tide");
    expect(await text(store, raw("part/data/empty"))).toBe("");
    expect(await store.stat(raw("part/data/tide · 7 m.txt"))).toEqual({ name: raw("tide · 7 m.txt"), type: "file", bytes: 9 });
    expect(await store.stat(raw("part/data"))).toMatchObject({ type: "folder" });
    expect(await store.stat(raw("part/other"))).toBeUndefined();
    expect(await text(store, raw("part/other"))).toBeUndefined();
    expect((await store.list(raw("part/data"))).map(({ name, type, bytes }) => [name, type, bytes]).sort()).toEqual([
      [raw("empty"), "file", 0],
      [raw("tide · 7 m.txt"), "file", 9],
    ]);
    expect((await store.capacity()).free).toBeGreaterThan(0);
    expect((await store.capacity()).total).toBeGreaterThan((await store.capacity()).free! - 1);
  });

  test("keeps long content whole, with the holes in it", async () => {
    const { store } = await make();
    await store.makeFolder(raw("part"));
    const block = Buffer.alloc(1 << 20);
    await store.write(raw("part/long"), parts("a", block, block, "z", block));
    const whole = Buffer.concat([Buffer.from("a"), block, block, Buffer.from("z"), block]);
    const read: Buffer[] = [];
    for await (const part of store.read(raw("part/long"))) read.push(Buffer.from(part));
    expect(Buffer.concat(read).equals(whole)).toBe(true);
    const { createHash } = await import("node:crypto");
    expect(await sumOf(store.read(raw("part/long")), 0, unhurried)).toBe(createHash("sha256").update(whole).digest("hex"));
    await expect(readWhole(store, raw("part/long"), 1000)).rejects.toMatchObject({ code: "file-too-large" });
  });

  test("commits a parcel under its name, and replaces none", async () => {
    const { store } = await make();
    await store.makeFolder(raw("Season"));
    await store.write(raw("Season/a"), parts("first"));
    await store.makeFolder(raw("part"));
    await store.write(raw("part/a"), parts("second"));
    await expect(store.commit(raw("part"), raw("Season"))).rejects.toMatchObject({ code: "name-taken" });
    expect(await text(store, raw("Season/a"))).toBe("first");
    await store.commit(raw("part"), raw("Season (2)"));
    expect(await text(store, raw("Season (2)/a"))).toBe("second");
    expect(await store.stat(raw("part"))).toBeUndefined();
    await expect(store.write(raw("Season/a"), parts("third"))).rejects.toMatchObject({ code: "name-taken" });
    expect(await text(store, raw("Season/a"))).toBe("first");
    await store.write(raw("Season/a"), parts("fourth"), { replaces: true });
    expect(await text(store, raw("Season/a"))).toBe("fourth");
    await store.remove(raw("Season"));
    expect((await store.list(raw(""))).map(({ name }) => name)).toEqual([raw("Season (2)")]);
    // What is not there is gone already.
    await store.remove(raw("Season"));
  });

  test("says when it is out of reach, and is found again", async () => {
    const { store, away, back } = await make();
    await store.makeFolder(raw("Season"));
    away();
    await expect(store.reach()).rejects.toMatchObject({ facts: { place: "disk" } });
    for (const work of [
      () => store.makeFolder(raw("part")),
      () => store.write(raw("Season/a"), parts("a")),
      () => store.commit(raw("Season"), raw("Other")),
      () => sumOf(store.read(raw("Season/a")), 0, unhurried),
    ])
      await expect(work()).rejects.toMatchObject({
        code: expect.stringMatching(/^depot-(gone|failing)$/),
        facts: { place: "disk" },
      });
    back();
    await store.reach();
    expect(await store.stat(raw("Season"))).toMatchObject({ type: "folder" });
  });

  test("never leads out of itself", async () => {
    const { store } = await make();
    fs.writeFileSync(path.join(folder, "outside"), "mine");
    for (const at of ["../outside", "a/../../outside"]) {
      await expect(store.write(raw(at), parts("x"))).rejects.toMatchObject({ code: "out-of-bounds" });
      await expect(sumOf(store.read(raw(at)), 0, unhurried)).rejects.toThrow();
    }
    expect(fs.readFileSync(path.join(folder, "outside"), "utf8")).toBe("mine");
  });
});

test("names of any bytes are listed in a folder as they are", async () => {
  const { store } = await each.folder();
  const name = Buffer.from([0x2f, 0xff, 0xfe]);
  fs.mkdirSync(Buffer.concat([Buffer.from(path.join(folder, "disk")), name]));
  expect(await store.list(raw(""))).toEqual([{ name: rawFromBytes(name.subarray(1)), type: "folder", bytes: 0 }]);
});
