import fs from "node:fs";
import path from "node:path";
import { afterEach, describe, expect, test } from "vitest";
import { idsOn, itemNamed, makePlace, type Place } from "../../../fixtures/engine";
import { faultyCalls, Killed } from "../../../fixtures/faulty-calls";
import { addDepot } from "../depots/add";
import { restoreParcel } from "../depots/restore";
import { send } from "../depots/send";
import type { Engine } from "../engine";
import { archive } from "../sitting/archive";
import { letGo } from "../sitting/let-go";
import { undo } from "./undo";

let place: Place;
let engine: Engine | undefined;
let far: string | undefined;
afterEach(async () => {
  await engine?.close();
  engine = undefined;
  place.remove();
  if (far) fs.rmSync(far, { recursive: true, force: true });
  far = undefined;
});

const at = (...parts: string[]) => path.join(place.root, ...parts);
const old = new Date(Date.now() - 1e9);
function write(root: string, name: string, content = name): void {
  const file = path.join(root, name);
  fs.mkdirSync(path.dirname(file), { recursive: true });
  fs.writeFileSync(file, content);
  fs.utimesSync(file, old, old);
}

/** A home on another file system, as a mounted one is: a standard folder that is a link to it. */
function withFarHome(fill: (root: string) => void): void {
  far = fs.realpathSync(fs.mkdtempSync("/dev/shm/vuoto-far-"));
  place = makePlace((root) => {
    fs.symlinkSync(far!, path.join(root, "Documents"));
    fill(root);
  });
}

const toFar = (e: Engine, name: string) => {
  const item = itemNamed(e, name);
  const to = `${far}/${name}` as typeof item.path;
  return e.ledger.perform(() => ({
    act: "put",
    words: () => "far",
    left: [],
    steps: [{ type: "move", item: item.id, from: item.path, to, identity: item.identity }],
  }));
};

describe("an edit made after a crash", () => {
  test("an undo that is cut short, and whose recovery is cut short while it copies again, leaves no copy behind", async () => {
    withFarHome((root) => write(root, "Desktop/a.txt", "first"));
    const killed = (work: Promise<unknown>) =>
      work.then(
        () => false,
        (error) => error instanceof Killed,
      );
    engine = await place.open();
    await toFar(engine, "a.txt");
    await engine.close();
    const e = await place.open({
      // The first renaming cannot cross; before the second the copy is whole, and has no name yet.
      calls: faultyCalls({ at: 2, how: "kill before", only: "renameNoReplace" }),
    });
    expect(await killed(undo(e, {}))).toBe(true);
    await e.close();
    // Its inode is not given to the next copy.
    const copy = fs.readdirSync(at("Desktop")).find((name) => name.endsWith(".part"));
    fs.linkSync(at("Desktop", copy!), path.join(place.folder, "inode"));
    const calls = faultyCalls({ at: 1, how: "kill after", only: "write" });
    expect(await killed(place.recover({ calls }))).toBe(true);
    engine = await place.recover();
    expect(fs.readdirSync(at("Desktop"))).toEqual(["a.txt"]);
    expect(fs.readdirSync(far!)).toEqual([]);
  });

  test.each(["a file", "a file in a folder", "a new file in a folder"])(
    "of an original whose copy had crossed already is kept: %s",
    async (what) => {
      const name = what === "a file" ? "a.txt" : "folder";
      let survived = 0;
      for (let unlinks = 1; unlinks <= 2; unlinks++) {
        withFarHome((root) => {
          write(root, "Desktop/a.txt", "first");
          write(root, "Desktop/folder/one", "one");
          write(root, "Desktop/folder/two", "two");
        });
        const e = await place.open({ calls: faultyCalls({ at: unlinks, how: "kill before", only: "unlink" }) });
        const killed = await toFar(e, name).then(
          () => false,
          (error) => {
            if (!(error instanceof Killed)) throw error;
            return true;
          },
        );
        await e.close();
        if (killed) {
          const edited =
            what === "a file"
              ? at("Desktop/a.txt")
              : what === "a new file in a folder"
                ? at("Desktop/folder/three")
                : at("Desktop/folder/one");
          // Of what is still there, perhaps put aside, this is worked on before Vuoto starts again.
          const aside = fs.readdirSync(at("Desktop")).find((other) => other.startsWith(".vuoto-"));
          const now = aside && what !== "a file" ? edited.replace("/folder/", `/${aside}/`) : edited;
          if (fs.existsSync(path.dirname(now))) {
            fs.writeFileSync(now, "edited later");
            engine = await place.recover();
            expect(engine.recovered).toHaveLength(1);
            const found = [edited, path.join(far!, path.relative(at("Desktop"), edited))]
              .filter((p) => fs.existsSync(p))
              .map((p) => fs.readFileSync(p, "utf8"));
            expect(found).toContain("edited later");
            survived++;
            await engine.close();
            engine = undefined;
          }
        }
        place.remove();
        fs.rmSync(far!, { recursive: true });
      }
      expect(survived).toBeGreaterThan(0);
    },
  );
});

test("a copy that is saved anew while its undo looks at the parcel is not taken away", async () => {
  place = makePlace((root) => write(root, "Desktop/a.txt", "first"));
  fs.mkdirSync(path.join(place.folder, "disk"));
  const e = await place.open();
  engine = e;
  await addDepot(e, { location: path.join(place.folder, "disk"), title: "Disk" });
  await archive(e, { items: idsOn(e), parcel: "P" });
  await send(e, { parcel: "P", depot: "Disk" });
  await restoreParcel(e, { parcel: "P", programs: true });
  const { rename } = e.disk;
  e.disk.rename = (from, to) => {
    if (from.endsWith("/Desktop/a.txt")) {
      // A program saves through a new file just then.
      fs.writeFileSync(at("Desktop/.saving"), "edited later");
      fs.renameSync(at("Desktop/.saving"), at("Desktop/a.txt"));
    }
    rename.call(e.disk, from, to);
  };
  expect((await undo(e, {})).refused).toMatchObject([{ code: "changed" }]);
  expect(fs.readFileSync(at("Desktop/a.txt"), "utf8")).toBe("edited later");
});

test("an info file that another program is just making under the same name is left to it", async () => {
  place = makePlace((root) => write(root, "Desktop/a.txt", "first"));
  const e = await place.open();
  engine = e;
  const info = at(".local/share/Trash/info/a.txt.trashinfo");
  const { createSmall } = e.disk;
  e.disk.createSmall = (file, content, mode) => {
    fs.writeFileSync(info, "");
    createSmall.call(e.disk, file, content, mode);
  };
  for (const folder of ["files", "info"]) fs.mkdirSync(at(".local/share/Trash", folder), { recursive: true });
  expect(await letGo(e, { items: idsOn(e) })).toMatchObject({ done: 0, refused: [{ code: "name-taken" }] });
  expect(fs.readFileSync(info, "utf8")).toBe("");
  expect(fs.readFileSync(at("Desktop/a.txt"), "utf8")).toBe("first");
});

test("an act over more folders than are kept open at once does all of it", async () => {
  place = makePlace((root) => {
    for (let n = 0; n < 150; n++) write(root, `Desktop/tree/sub-${n}/file`, `${n}`);
    for (let n = 0; n < 5; n++) write(root, `Desktop/loose-${n}`);
  });
  fs.mkdirSync(path.join(place.folder, "disk"));
  const e = await place.open();
  engine = e;
  const open = () => fs.readdirSync("/proc/self/fd").length;
  // The thread that makes changes durable is there already.
  await e.workers.sync({ folders: [], written: [] });
  const before = open();
  await addDepot(e, { location: path.join(place.folder, "disk"), title: "Disk" });
  await archive(e, { items: idsOn(e), parcel: "P" });
  expect(await send(e, { parcel: "P", depot: "Disk" })).toMatchObject({ done: 6, refused: [] });
  expect(await undo(e, {})).toMatchObject({ refused: [] });
  // Restored from the trash into as many folders, each another one.
  fs.mkdirSync(at("Documents"));
  expect(fs.readdirSync(at("Desktop/tree"))).toHaveLength(150);
  expect(open()).toBeLessThanOrEqual(before + 2);
});

test("a folder that is lent to work is never closed under it, however many are opened meanwhile", async () => {
  place = makePlace((root) => {
    for (let n = 0; n < 70; n++) write(root, `Desktop/sub-${n}/file`, `${n}`);
  });
  const e = await place.open();
  engine = e;
  const desktop = e.account.worktops[0]!.folder;
  const sub = (n: number, name = "") => `${desktop}/sub-${n}${name}` as typeof desktop;
  e.disk.hold();
  try {
    // As many as are kept are open, the first of them among these; then a move from it into one that is not.
    for (let n = 0; n < 64; n++) e.disk.list(sub(n));
    e.disk.rename(sub(0, "/file"), sub(66, "/moved"));
    e.disk.inFolder(sub(1), (lent) => {
      for (let n = 60; n < 70; n++) e.disk.list(sub(n));
      expect(lent.list().map((entry) => entry.name)).toEqual(["file"]);
      expect(lent.stat("file" as typeof desktop)?.size).toBe(1n);
    });
  } finally {
    e.disk.letGo();
  }
  expect(fs.readFileSync(at("Desktop/sub-66/moved"), "utf8")).toBe("0");
});
