import { execFileSync } from "node:child_process";
import fs from "node:fs";
import path from "node:path";
import { afterEach, beforeEach, describe, expect, test } from "vitest";
import type { Raw } from "@/core/names/raw";
import { differences, readTree } from "../../../fixtures/compare-trees";
import { emptyAll, idsOn, itemNamed, makePlace, type Place } from "../../../fixtures/engine";
import { addDepot } from "../depots/add";
import { send } from "../depots/send";
import { realCalls } from "../disk/calls";
import type { Engine } from "../engine";
import { gather } from "../homes/gather";
import { put } from "../homes/put";
import { setOut } from "../homes/set-out";
import { openEngine } from "../opening";
import { quiet } from "../quiet/quiet";
import { archive } from "../sitting/archive";
import { letGo } from "../sitting/let-go";
import { stay } from "../sitting/stay";
import { itemsOn } from "../survey/items";
import { emptying, emptyTrash } from "./empty";
import { trashList } from "./trash-list";
import { undo } from "./undo";

const old = 1_600_000_000;
let place: Place;
let engine: Engine;
let far: string;
const at = (...parts: string[]) => path.join(place.root, ...parts);
const write = (name: string, content: string) => {
  fs.mkdirSync(path.dirname(at(name)), { recursive: true });
  fs.writeFileSync(at(name), content);
  fs.utimesSync(at(name), old, old);
};
const lying = () => fs.readdirSync(at("Desktop")).sort();
const id = (label: string) => itemNamed(engine, label).id;

beforeEach(async () => {
  place = makePlace((root) => {
    for (const name of ["Desktop", "Downloads", "Documents", ".config"]) fs.mkdirSync(path.join(root, name));
    far = path.join("/dev/shm", `vuoto-far-${path.basename(path.dirname(root))}`);
    fs.mkdirSync(far);
    fs.symlinkSync(far, path.join(root, "Far"));
    fs.writeFileSync(path.join(root, ".config/user-dirs.dirs"), 'XDG_MUSIC_DIR="$HOME/Far"\n');
  });
});
afterEach(async () => {
  await engine.close();
  place.remove();
  fs.rmSync(far, { recursive: true, force: true });
});
const start = async (options?: Parameters<Place["open"]>[0]) => {
  engine = await place.open(options);
};
const farHome = () => ({ folder: btoa(far) });

/** Another content of the same length, with size and time as they were: what a liar leaves. */
function lie(file: string, content: string): void {
  const { atime, mtime } = fs.statSync(file);
  fs.writeFileSync(file, content);
  fs.utimesSync(file, atime, mtime);
}

describe("a liar, who keeps size and time", () => {
  test("changes a file while it crosses file systems: the original is kept", async () => {
    write("Desktop/a.bin", "a".repeat(5_000_000));
    // After the last byte was read, before the original goes.
    let lied = false;
    await start({
      calls: {
        ...realCalls,
        dropCache(fd) {
          realCalls.dropCache(fd);
          if (!lied) lie(at("Desktop/a.bin"), "b".repeat(5_000_000));
          lied = true;
        },
      },
    });
    const report = await put(engine, { home: farHome(), items: [id("a.bin")] });
    expect(lied).toBe(true);
    expect(report.refused).toMatchObject([{ name: "a.bin", code: "changed", item: id("a.bin") }]);
    expect(fs.readFileSync(at("Desktop/a.bin"), "utf8")[0]).toBe("b");
    expect(fs.readdirSync(far)).toEqual([]);
    expect(lying()).toEqual(["a.bin"]);
  });

  test("changes a thing while its parcel is packed: the original stays", async () => {
    write("Desktop/tree/leaf", "first");
    fs.mkdirSync(path.join(place.folder, "disk"));
    let lied = false;
    await start({
      calls: {
        ...realCalls,
        dropCache(fd) {
          realCalls.dropCache(fd);
          if (!lied) lie(at("Desktop/tree/leaf"), "other");
          lied = true;
        },
      },
    });
    await addDepot(engine, { location: path.join(place.folder, "disk"), title: "Disk" });
    await archive(engine, { items: [id("tree")], parcel: "P" });
    expect((await send(engine, { parcel: "P", depot: "Disk" })).refused).toMatchObject([{ code: "changed" }]);
    expect(fs.readFileSync(at("Desktop/tree/leaf"), "utf8")).toBe("other");
  });

  test("changes what lies in the trash after it was counted: it is not erased", async () => {
    write("Desktop/one.txt", "first");
    write("Desktop/two.txt", "first");
    await start();
    await letGo(engine, { items: idsOn(engine) });
    const { things, lost } = await emptying(engine);
    const files = at(".local/share/Trash/files");
    lie(path.join(files, "one.txt"), "other");
    const report = await emptyTrash(engine, { things, lost });
    expect(report).toMatchObject({ done: 1, refused: [{ name: "one.txt", code: "changed" }] });
    expect(fs.readdirSync(files)).toEqual(["one.txt"]);
    expect(fs.readFileSync(path.join(files, "one.txt"), "utf8")).toBe("other");
  });
});

describe("a neighbour", () => {
  test("empties the trash: undo says that it is gone, and counts nothing as taken back", async () => {
    write("Desktop/one.txt", "1");
    write("Desktop/two.txt", "2");
    await start();
    await letGo(engine, { items: idsOn(engine) });
    for (const name of ["files", "info"])
      fs.rmSync(at(".local/share/Trash", name, name === "info" ? "one.txt.trashinfo" : "one.txt"));
    expect(await undo(engine, {})).toMatchObject({ done: 1, refused: [{ name: "one.txt", code: "not-in-trash" }] });
    expect(lying()).toEqual(["two.txt"]);
    fs.rmSync(at("Desktop/two.txt"));
  });

  test("has entries called as a temporary of ours might be: each is left as it is", async () => {
    const names = [".vuoto-1-0.part", ".vuoto-sizes.part", ".vuoto-0123456789abcdef0123456789abcdef.part"];
    write("Desktop/a.txt", "a");
    write("Desktop/folder/b.txt", "b");
    for (const name of names) {
      write(`Desktop/${name}`, "mine");
      write(`.local/share/Trash/${name}`, "mine");
      fs.mkdirSync(path.join(far, name));
      fs.writeFileSync(path.join(far, name, "mine"), "mine");
    }
    await start();
    await put(engine, { home: farHome(), items: idsOn(engine) });
    await undo(engine, {});
    await letGo(engine, { items: idsOn(engine) });
    await emptyAll(engine);
    for (const name of names) {
      expect(fs.readFileSync(at("Desktop", name), "utf8")).toBe("mine");
      expect(fs.readFileSync(at(".local/share/Trash", name), "utf8")).toBe("mine");
      expect(fs.readFileSync(path.join(far, name, "mine"), "utf8")).toBe("mine");
    }
  });

  test("has a trash folder of our name on a shared disk: nothing is put in there, and none of it is listed", async () => {
    const uid = process.getuid!();
    const theirs = `/dev/shm/.Trash-${uid}`;
    // Only where this computer has none there.
    if (fs.existsSync(theirs)) return;
    fs.mkdirSync(path.join(theirs, "files"), { recursive: true });
    fs.mkdirSync(path.join(theirs, "info"));
    fs.writeFileSync(path.join(theirs, "files/bait"), "bait");
    fs.chownSync(theirs, 1777, 1777);
    try {
      write("Desktop/a.txt", "a");
      await start();
      await put(engine, { home: farHome(), items: [id("a.txt")] });
      expect(trashList(engine).map((thing) => thing.label)).not.toContain("bait");
      const filed = { path: btoa(`${far}/a.txt`) };
      const item = engine.db.prepare<[], string>("SELECT id FROM item WHERE label = 'a.txt' AND seen = 1").pluck().get()!;
      expect(filed.path).toBeTruthy();
      const report = await engine.ledger.perform(() => ({
        act: "let-go",
        words: () => "",
        left: [],
        steps: [
          {
            type: "trash",
            item,
            from: `${far}/a.txt` as Raw,
            trash: theirs as Raw,
            name: "a.txt" as Raw,
            info: "",
            identity: engine.disk.identity(`${far}/a.txt` as Raw)!,
          },
        ],
      }));
      expect(report.refused).toMatchObject([{ code: expect.stringMatching(/trash-foreign|out-of-bounds/) }]);
      expect(fs.existsSync(path.join(far, "a.txt"))).toBe(true);
    } finally {
      fs.rmSync(theirs, { recursive: true });
    }
  });

  test("is another Vuoto with a record of its own: it is said, and they never meet on the disk", async () => {
    await start();
    const other = { root: place.root as Raw, data: path.join(place.folder, "other") };
    await expect(openEngine(other)).rejects.toMatchObject({ code: "record-apart" });
    await engine.close();
    await (await openEngine(other)).close();
    await start();
  });
});

describe("while bytes are on their way", () => {
  /** A crossing that waits in the middle of its bytes until it is let go on. */
  async function underWay(
    work: (moving: Promise<{ refused: { code: string }[]; done: number }>, goOn: () => void) => Promise<void>,
  ) {
    write("Desktop/large.bin", "x".repeat(3_000_000));
    write("Desktop/other.txt", "o");
    await start({ calls: realCalls });
    let goOn = () => {};
    const gate = new Promise<void>((open) => {
      goOn = open;
    });
    const item = itemNamed(engine, "large.bin");
    const to = `${far}/large.bin` as Raw;
    const moving = engine.ledger.perform(
      () => ({
        act: "put",
        words: () => "Put large.bin far away",
        left: [],
        steps: [{ type: "move", item: item.id, from: item.path, to, identity: item.identity }],
      }),
      { pace: { step: async (bytes) => (bytes > 0 ? gate : undefined), breath: () => undefined } },
    );
    while (!engine.ledger.isOnItsWay(item.path)) await new Promise((next) => setTimeout(next, 1));
    await work(moving, goOn);
  }

  test("a trial, another act and its undo do not wait; the thing itself is left alone, and that is said", async () => {
    await underWay(async (moving, goOn) => {
      const large = id("large.bin");
      expect(await letGo(engine, { items: [id("other.txt")], dryRun: true })).toMatchObject({ done: 1 });
      expect(await letGo(engine, { items: [id("other.txt")] })).toMatchObject({ done: 1, refused: [] });
      expect(await letGo(engine, { items: [large], dryRun: true })).toMatchObject({ done: 0, refused: [{ code: "on-its-way" }] });
      expect(await quiet(engine, { level: "bare" }).catch((error) => error)).toMatchObject({
        refused: [{ name: "large.bin", code: "on-its-way", item: large }],
      });
      await engine.lookAgain();
      // Not lost from the list, and not found a second time.
      expect(itemsOn(engine.db, "desktop").map((item) => item.label)).toEqual(["large.bin"]);
      goOn();
      expect(await moving).toMatchObject({ done: 1, refused: [] });
    });
    expect(fs.readdirSync(far)).toEqual(["large.bin"]);
    expect(await undo(engine, { entry: "all" })).toMatchObject({ refused: [] });
    expect(lying()).toEqual(["large.bin", "other.txt"]);
  });

  test("closing waits for it", async () => {
    await underWay(async (moving, goOn) => {
      const closing = engine.close();
      goOn();
      await closing;
      expect(await moving).toMatchObject({ done: 1 });
      await start();
    });
    expect(fs.readdirSync(far)).toEqual(["large.bin"]);
  });
});

describe("what crosses file systems", () => {
  test("keeps hard links within it, rights and attributes; and comes back the same", async () => {
    write("Desktop/tree/one", "content");
    write("Desktop/tree/deep/plain", "plain");
    fs.linkSync(at("Desktop/tree/one"), at("Desktop/tree/deep/again"));
    fs.chmodSync(at("Desktop/tree/one"), 0o4755);
    fs.chmodSync(at("Desktop/tree/deep"), 0o2750);
    // Of version 2, effective, cap_net_raw (capabilities(7), "File capability extended attribute versioning").
    const capability = Buffer.from("0100000200200000000000000000000000000000", "hex");
    const named = Buffer.from("security.capability");
    realCalls.setXattr(Buffer.from(at("Desktop/tree/deep/plain")), named, capability);
    const before = readTree(at("Desktop"));
    await start();
    expect(await put(engine, { home: farHome(), items: [id("tree")] })).toMatchObject({ refused: [] });
    const there = fs.statSync(path.join(far, "tree/one"));
    expect([there.nlink, there.mode & 0o7777]).toEqual([2, 0o4755]);
    expect(realCalls.getXattr(Buffer.from(path.join(far, "tree/deep/plain")), named)).toEqual(capability);
    await undo(engine, {});
    expect(differences(before, readTree(at("Desktop")))).toEqual([]);
  });

  test("is not moved where rights of a program could not be kept: that is said, and it stays", async () => {
    write("Desktop/tools/helper", "helper");
    execFileSync("setfattr", [
      "-n",
      "security.capability",
      "-v",
      "0x0100000200040000000000000000000000000000",
      at("Desktop/tools/helper"),
    ]);
    const setXattr: typeof realCalls.setXattr = (place, name, value) => {
      if (name.toString().startsWith("security."))
        throw Object.assign(new Error("EPERM"), { code: "EPERM", syscall: "setxattr" });
      realCalls.setXattr(place, name, value);
    };
    await start({ calls: { ...realCalls, setXattr } });
    const before = place.tree();
    const { done, refused } = await put(engine, { home: farHome(), items: [id("tools")] });
    expect({ done, code: refused[0]?.code }).toEqual({ done: 0, code: "would-lose" });
    expect(differences(before, place.tree(), () => true)).toEqual([]);
    expect(fs.readdirSync(far)).toEqual([]);
  });

  test("is moved wholly or not at all: a pipe in it keeps all of it where it is", async () => {
    write("Desktop/tree/a", "a");
    execFileSync("mkfifo", [at("Desktop/tree/pipe")]);
    const before = readTree(at("Desktop"));
    await start();
    expect((await put(engine, { home: farHome(), items: [id("tree")] })).refused).toMatchObject([{ code: "special-file" }]);
    expect(differences(before, readTree(at("Desktop")))).toEqual([]);
    expect(fs.readdirSync(far)).toEqual([]);
  });
});

test("a tree of three thousand levels is let go, counted and erased with few open files", async () => {
  const levels = 3000;
  write("Desktop/deep/file", "top");
  const dig = `chdir $ARGV[0] or die; for (1..${levels}) { mkdir "d" or die; chdir "d" or die } open F, ">leaf"; print F "leaf"`;
  execFileSync("perl", ["-e", dig, at("Desktop/deep")]);
  await start();
  let most = 0;
  const watch = setInterval(() => {
    most = Math.max(most, fs.readdirSync("/proc/self/fd").length);
  }, 5);
  await letGo(engine, { items: [id("deep")] });
  const what = await emptying(engine);
  expect(what).toMatchObject({ count: 1, files: 2 });
  expect(await emptyTrash(engine, { things: what.things, lost: what.lost })).toMatchObject({ done: 1, refused: [] });
  clearInterval(watch);
  expect(most).toBeLessThan(400);
  expect(fs.readdirSync(at(".local/share/Trash/files"))).toEqual([]);
}, 120_000);

describe("a document and its lock file", () => {
  const lock = ".~lock.letter.odt#";
  const lockText = (computer: string) => `,somebody,${computer},26.11.2026 12:00,file:///x;`;
  const booted = Number(/^btime (\d+)$/m.exec(fs.readFileSync("/proc/stat", "utf8"))![1]);

  test("stay together while it means something, in every act", async () => {
    write("Desktop/letter.odt", "letter");
    write("Desktop/plain.txt", "plain");
    fs.writeFileSync(at("Desktop", lock), lockText(""));
    await start();
    expect((await gather(engine, {})).refused.map((r) => r.code)).toEqual(["in-use", "in-use"]);
    expect(lying()).toEqual([lock, "Gathered", "letter.odt"]);
    await undo(engine, {});
    expect((await quiet(engine, { level: "bare" })).refused.map((r) => r.name).sort()).toEqual([lock, "letter.odt"].sort());
    await quiet(engine, { level: "everything" });
    for (const name of [lock, "letter.odt"])
      expect((await letGo(engine, { items: [id(name)] })).refused[0], name).toMatchObject({ code: "in-use" });
    expect(lying()).toEqual([lock, "letter.odt", "plain.txt"]);
  });

  test("go together when it was left behind before this computer started", async () => {
    write("Desktop/letter.odt", "letter");
    fs.writeFileSync(at("Desktop", lock), lockText(""));
    fs.utimesSync(at("Desktop", lock), booted - 1000, booted - 1000);
    await start();
    expect(await put(engine, { home: { title: "Letters" }, items: [id("letter.odt")] })).toMatchObject({ refused: [] });
    expect(lying()).toEqual([]);
    await undo(engine, {});
    expect(lying()).toEqual([lock, "letter.odt"]);
    // That of another computer says nothing about when this one started.
    fs.writeFileSync(at("Desktop", lock), lockText("another"));
    fs.utimesSync(at("Desktop", lock), booted - 1000, booted - 1000);
    await engine.lookAgain();
    expect((await letGo(engine, { items: [id("letter.odt")] })).refused[0]).toMatchObject({ code: "in-use" });
  });
});

describe("quiet", () => {
  test("gives a thing its own name back where a stranger had it in the hidden folder", async () => {
    write("Desktop/a.txt", "mine");
    write("Desktop/.out-of-sight/a.txt", "stranger");
    await start();
    const own = itemsOn(engine.db, "desktop").find((item) => !item.folder.includes("out-of-sight"))!;
    await quiet(engine, { level: "bare" });
    expect(fs.readdirSync(at("Desktop/.out-of-sight")).sort()).toEqual(["HOW-TO-BRING-THEM-BACK.txt", "a (2).txt", "a.txt"]);
    fs.rmSync(at("Desktop/.out-of-sight/a.txt"));
    await engine.lookAgain();
    await quiet(engine, { level: "everything" });
    expect(lying()).toEqual(["a.txt"]);
    expect(fs.readFileSync(at("Desktop/a.txt"), "utf8")).toBe("mine");
    expect(id("a.txt")).toBe(own.id);
  });

  test("undone twice does not hide again", async () => {
    for (const name of ["a.txt", "b.txt"]) write(`Desktop/${name}`, name);
    await start();
    await letGo(engine, { items: [id("b.txt")] });
    await quiet(engine, { level: "bare" });
    await quiet(engine, { level: "everything" });
    await quiet(engine, { level: "bare" });
    await undo(engine, {});
    expect(lying()).toEqual(["a.txt"]);
    // The next one takes back what was done before all of it.
    await undo(engine, {});
    expect(lying()).toEqual(["a.txt", "b.txt"]);
    await expect(undo(engine, {})).rejects.toMatchObject({ code: "undo-nothing" });
  });

  test("gathered, quiet and back, set out, and all undone: no refusal, no difference", async () => {
    for (const name of ["a.txt", "b.txt", "c/d.txt"]) write(`Desktop/${name}`, name);
    const before = readTree(at("Desktop"));
    await start();
    for (const work of [
      () => gather(engine, {}),
      () => quiet(engine, { level: "bare" }),
      () => quiet(engine, { level: "everything" }),
      () => setOut(engine, {}),
    ])
      expect(await work()).toMatchObject({ refused: [] });
    expect(await undo(engine, { entry: "all" })).toMatchObject({ refused: [] });
    expect(differences(before, readTree(at("Desktop")), () => true)).toEqual([]);
  });
});

test("a folder that cannot be read is a thing all the same", async () => {
  write("Desktop/closed/file", "x");
  fs.chmodSync(at("Desktop/closed"), 0o000);
  fs.chownSync(at("Desktop/closed"), 0, 0);
  for (const name of [place.folder, place.root, at("Desktop"), at("Documents"), at("Downloads"), at(".config"), far])
    fs.chownSync(name, 1777, 1777);
  process.seteuid!(1777);
  try {
    await start();
    expect(itemsOn(engine.db, "desktop").map((item) => [item.label, item.kind, item.facts.closed])).toEqual([
      ["closed", "folder", true],
    ]);
    // The system lets nobody else move a folder to another one; that is said.
    expect((await letGo(engine, { items: [id("closed")] })).refused).toMatchObject([{ code: "no-permission" }]);
    expect(await stay(engine, { items: [id("closed")] })).toMatchObject({ done: 1 });
    expect(lying()).toEqual(["closed"]);
  } finally {
    process.seteuid!(0);
  }
});

test("Vuoto's own folder is no item, wherever it lies, nor is one that holds it", async () => {
  for (const data of ["Desktop/record", "Desktop/holder/deep/record"]) {
    write("Desktop/a.txt", "a");
    const inside = await openEngine({ root: place.root as Raw, data: at(data) });
    await inside.lookAgain("all");
    expect(itemsOn(inside.db, "desktop").map((item) => item.label)).toEqual(["a.txt"]);
    const from = at(data.split("/").slice(0, 2).join("/")) as Raw;
    const report = await inside.ledger.perform(() => ({
      act: "put",
      words: () => "",
      left: [],
      steps: [{ type: "move", from, to: at("Documents/x") as Raw, identity: inside.disk.identity(from)! }],
    }));
    expect(report.refused).toMatchObject([{ code: "out-of-bounds" }]);
    await inside.close();
    fs.rmSync(from, { recursive: true });
  }
  await start();
});
