import fs from "node:fs";
import path from "node:path";
import { afterEach, beforeEach, describe, expect, test } from "vitest";
import { type Cloud, openCloud } from "@/standins/cloud/cloud";
import { makeDrives, plug } from "@/standins/drive/drives";
import { emptyAll, itemNamed, makePlace, type Place } from "../../fixtures/engine";
import { addDepot } from "./depots/add";
import { check } from "./depots/check";
import { deleteParcel } from "./depots/delete";
import { depots } from "./depots/depots";
import { findParcels } from "./depots/found";
import { listParcels } from "./depots/list";
import { removeDepot } from "./depots/remove";
import { restoreParcel } from "./depots/restore";
import { send } from "./depots/send";
import type { Engine } from "./engine";
import { emptying, emptyTrash } from "./ledger/empty";
import { undo } from "./ledger/undo";
import { archive } from "./sitting/archive";
import { letGo } from "./sitting/let-go";
import { protect } from "./survey/protect";

let place: Place;
let engine: Engine;
let cloud: Cloud;
const of = (name: string) => `${name} `.padEnd(300_000, "tide ");
const at = (...parts: string[]) => path.join(place.root, ...parts);
const depot = (...parts: string[]) => path.join(place.folder, "depot", ...parts);
const inTrash = () => fs.readdirSync(at(".local/share/Trash/files")).sort();

beforeEach(async () => {
  place = makePlace((root) => {
    for (const folder of ["Desktop", "Documents/Tides"]) fs.mkdirSync(path.join(root, folder), { recursive: true });
    fs.writeFileSync(path.join(root, "Desktop/log.txt"), of("log"));
  });
  fs.mkdirSync(depot());
  makeDrives(place.folder);
  fs.mkdirSync(place.data, { mode: 0o700 });
  fs.writeFileSync(path.join(place.data, "sample"), "");
  cloud = await openCloud(path.join(place.folder, "cloud"));
  engine = await place.open();
  await addDepot(engine, { location: depot(), title: "Disk" });
});
afterEach(async () => {
  await engine.close();
  await cloud.close();
  place.remove();
});

const sent = async (to: string) => {
  await archive(engine, { items: [itemNamed(engine, "log.txt").id], parcel: "Log" });
  await send(engine, { parcel: "Log", depot: to });
};
const toCloud = async () => {
  const { user, password } = cloud.settings;
  await addDepot(engine, { location: cloud.url, title: "Cloud", user, password });
  await sent("Cloud");
};
/** A copy in a home, which is known, and then the thing is let go. */
const copied = async () => {
  fs.writeFileSync(at("Documents/Tides/log.txt"), of("log"));
  await engine.lookAgain("all");
  await letGo(engine, { items: [itemNamed(engine, "log.txt").id] });
};
/** Other content of the same length, under the same time of change. */
function rot(file: string): void {
  const { atime, mtime } = fs.statSync(file);
  const fd = fs.openSync(file, "r+");
  fs.writeSync(fd, "LOG", 0);
  fs.closeSync(fd);
  fs.utimesSync(file, atime, mtime);
}
const cloudFile = () => path.join(place.folder, "cloud", "Log/data/log.txt");

/** Ways in which the only other copy of what lies in the trash is worth nothing, or that is not known. */
const worthless: Record<string, () => Promise<unknown>> = {
  "its parcel's file is cut short": async () => {
    await sent("Disk");
    fs.truncateSync(depot("Log/data/log.txt"), 1000);
  },
  "its parcel's file has other bytes, as long and as old": async () => {
    await sent("Disk");
    rot(depot("Log/data/log.txt"));
  },
  "a check found its parcel's file damaged": async () => {
    await sent("Disk");
    rot(depot("Log/data/log.txt"));
    expect(await check(engine, { parcel: "Log" })).toMatchObject({ damaged: ["data/log.txt"] });
  },
  "its parcel's file is gone": async () => {
    await sent("Disk");
    fs.rmSync(depot("Log/data/log.txt"));
  },
  "its parcel is gone": async () => {
    await sent("Disk");
    fs.rmSync(depot("Log"), { recursive: true });
  },
  "its parcel is gone, as a check found": async () => {
    await sent("Disk");
    fs.rmSync(depot("Log"), { recursive: true });
    expect(await check(engine, { parcel: "Log" })).toMatchObject({ whole: false });
  },
  "its depot is no longer in the list": async () => {
    await sent("Disk");
    await removeDepot(engine, { depot: "Disk" });
  },
  "its drive is pulled out": async () => {
    await addDepot(engine, { location: path.join(place.folder, "station-drives/plugged in/station drive"), title: "Drive" });
    await sent("Drive");
    plug(place.folder, "station drive", false);
  },
  "the copy in a home was changed, and its time set back": async () => {
    await copied();
    rot(at("Documents/Tides/log.txt"));
  },
  "the copy in a home is gone since": async () => {
    await copied();
    fs.rmSync(at("Documents/Tides/log.txt"));
  },
  "the copy in a home is in a place that is only synchronised": async () => {
    await copied();
    await protect(engine, { folder: "Documents/Tides", protection: "synchronised" });
  },
  "its cloud does not answer": async () => {
    await toCloud();
    cloud.set({ down: true });
  },
};

describe("a copy that is worth nothing is not said to be elsewhere, and what is the last is not erased unasked", () => {
  test.each(Object.entries(worthless))("%s", async (_, make) => {
    await make();
    const what = await emptying(engine);
    expect(what.things).toHaveLength(1);
    expect(what.lost).toEqual(what.things);
    expect(what.nowhereElse.length + what.notKnown.length).toBe(1);
    expect(await emptyTrash(engine, { things: what.things, network: true })).toMatchObject({
      done: 0,
      refused: [{ code: "copy-gone" }],
    });
    expect(inTrash()).toEqual(["log.txt"]);
    // Asked about and told, it goes.
    expect(await emptyTrash(engine, { things: what.things, lost: what.lost })).toMatchObject({ done: 1, refused: [] });
  });
});

describe("a copy in a cloud", () => {
  test("is read back before the last other one is erased; declined, it is not known, and said so", async () => {
    await toCloud();
    const what = await emptying(engine);
    expect(what).toMatchObject({ lost: [], nowhereElse: [], notKnown: [] });
    expect(what.far).toMatchObject({ things: what.things, files: 1, bytes: 300_000 });
    expect(await emptyTrash(engine, { things: what.things })).toMatchObject({ done: 0, refused: [{ code: "copy-gone" }] });
    expect(inTrash()).toEqual(["log.txt"]);
    const given = cloud.counts.get("GET") ?? 0;
    expect(await emptyTrash(engine, { things: what.things, network: true })).toMatchObject({ done: 1, refused: [] });
    expect(cloud.counts.get("GET")).toBeGreaterThan(given);
    expect(await undo(engine, {})).toMatchObject({ done: 1, refused: [] });
    expect(fs.readFileSync(at(".local/share/Trash/files/log.txt"), "utf8")).toBe(of("log"));
  });

  test.each(["other", "flip", "short", "404", "503"])(
    "that answers with %s once it is asked again: the last copy stays",
    async (what) => {
      await toCloud();
      const { things } = await emptying(engine);
      cloud.set({ fail: [`GET=${what}`] });
      const erased = emptyTrash(engine, { things, network: true });
      // Where it only fails, nothing is known, and nothing is done.
      if (what === "503" || what === "short")
        await expect(erased).rejects.toMatchObject({ code: expect.stringMatching(/depot/) });
      else expect(await erased).toMatchObject({ done: 0, refused: [{ code: "copy-gone" }] });
      expect(inTrash()).toEqual(["log.txt"]);
      cloud.set({ fail: [] });
      rot(cloudFile());
      expect(await emptyTrash(engine, { things, network: true })).toMatchObject({ done: 0, refused: [{ code: "copy-gone" }] });
      expect(inTrash()).toEqual(["log.txt"]);
    },
  );
});

describe("a parcel that is deleted", () => {
  const shown = async () => {
    const what = await deleteParcel(engine, { parcel: "Log", dryRun: true });
    const { nowhereElse, inTrash, notKnown, far } = what;
    return { ...what, lost: nowhereElse.files + inTrash.files + notKnown.files + far.files };
  };

  test("no longer warns once all of it came back, and was read there", async () => {
    await sent("Disk");
    await emptyAll(engine);
    expect((await shown()).lost).toBe(1);
    await restoreParcel(engine, { parcel: "Log" });
    await engine.lookAgain("all");
    const { seen, lost } = await shown();
    expect(lost).toBe(0);
    expect(await deleteParcel(engine, { parcel: "Log", seen })).toMatchObject({ done: 1, refused: [] });
  });

  test("at once with another that holds the same: one of them stays", async () => {
    await sent("Disk");
    await emptyAll(engine);
    await restoreParcel(engine, { parcel: "Log" });
    await engine.lookAgain("all");
    await archive(engine, { items: [itemNamed(engine, "log.txt").id], parcel: "Again" });
    await send(engine, { parcel: "Again", depot: "Disk" });
    await emptyAll(engine);
    await engine.lookAgain("all");
    const { seen, lost } = await shown();
    expect(lost).toBe(0);
    const both = await Promise.allSettled(["Log", "Again"].map((parcel) => deleteParcel(engine, { parcel, seen })));
    expect(both.map(({ status }) => status).sort()).toEqual(["fulfilled", "rejected"]);
    expect(listParcels(engine)).toHaveLength(1);
  });

  test("stays where the copy that was to remain is another by then, though it looks the same", async () => {
    await sent("Disk");
    await emptyAll(engine);
    await restoreParcel(engine, { parcel: "Log" });
    await engine.lookAgain("all");
    const { seen } = await shown();
    rot(at("Desktop/log.txt"));
    await expect(deleteParcel(engine, { parcel: "Log", seen })).rejects.toMatchObject({ code: "copy-gone" });
    expect(fs.existsSync(depot("Log/data/log.txt"))).toBe(true);
  });

  test("stays where as many would be lost as was said, but others", async () => {
    fs.writeFileSync(at("Desktop/tides.txt"), of("tides"));
    await engine.lookAgain("all");
    await archive(engine, { items: ["log.txt", "tides.txt"].map((name) => itemNamed(engine, name).id), parcel: "Log" });
    await send(engine, { parcel: "Log", depot: "Disk" });
    await emptyAll(engine);
    const home = async (name: string) => {
      fs.writeFileSync(at("Documents/Tides", `${name}.txt`), of(name));
      await engine.lookAgain("all");
    };
    await home("log");
    const { seen, lost } = await shown();
    expect(lost).toBe(1);
    fs.rmSync(at("Documents/Tides/log.txt"));
    await home("tides");
    expect((await shown()).lost).toBe(1);
    await expect(deleteParcel(engine, { parcel: "Log", seen })).rejects.toMatchObject({ code: "copy-gone" });
    expect(fs.existsSync(depot("Log/data/log.txt"))).toBe(true);
    expect(await deleteParcel(engine, { parcel: "Log", seen: (await shown()).seen })).toMatchObject({ done: 1, refused: [] });
  });

  test("says that the original lies in the trash, which is no place to keep things", async () => {
    await sent("Disk");
    expect(await shown()).toMatchObject({ inTrash: { files: 1 }, nowhereElse: { files: 0 }, notKnown: { files: 0 } });
  });
});

describe("a parcel that was found damaged", () => {
  test("offers its original in the trash, which comes first among what lies nowhere else", async () => {
    await sent("Disk");
    fs.writeFileSync(at("Desktop/alone.txt"), of("alone"));
    await engine.lookAgain("all");
    await letGo(engine, { items: [itemNamed(engine, "alone.txt").id] });
    rot(depot("Log/data/log.txt"));
    expect(await check(engine, { parcel: "Log" })).toMatchObject({
      whole: false,
      damaged: ["data/log.txt"],
      elsewhere: [{ path: "data/log.txt", place: "the trash" }],
    });
    expect((await emptying(engine)).nowhereElse).toEqual([
      { name: "log.txt", why: expect.stringMatching(/^its copy in the parcel “Log” in Disk was found damaged/) },
      { name: "alone.txt" },
    ]);
  });

  test("or wholly gone is called damaged from then on, and one whose manifest was made anew as well", async () => {
    await sent("Disk");
    rot(depot("Log/data/log.txt"));
    // Somebody made its checksums anew.
    for (const name of ["manifest-sha256.txt", "tagmanifest-sha256.txt"]) fs.writeFileSync(depot("Log", name), "");
    expect(await check(engine, { parcel: "Log" })).toMatchObject({
      whole: false,
      damaged: expect.arrayContaining(["data/log.txt"]),
    });
    expect(listParcels(engine)).toMatchObject([{ state: "damaged" }]);
    fs.rmSync(depot("Log"), { recursive: true });
    expect(await check(engine, { parcel: "Log" })).toMatchObject({ whole: false, missing: ["data"] });
    expect(listParcels(engine)).toMatchObject([{ state: "damaged", provenAt: null }]);
  });
});

test("a stranger's parcel that was never read over is read before it counts", async () => {
  const bag = depot("Theirs/data");
  fs.mkdirSync(bag, { recursive: true });
  fs.writeFileSync(path.join(bag, "log.txt"), of("log"));
  fs.writeFileSync(depot("Theirs/bagit.txt"), "BagIt-Version: 0.97\nTag-File-Character-Encoding: UTF-8\n");
  const { createHash } = await import("node:crypto");
  const sum = createHash("sha256").update(of("log")).digest("hex");
  fs.writeFileSync(depot("Theirs/manifest-sha256.txt"), `${sum}  data/log.txt\n`);
  await findParcels(engine);
  expect(depots(engine)).toHaveLength(1);
  await letGo(engine, { items: [itemNamed(engine, "log.txt").id] });
  expect(await emptying(engine)).toMatchObject({ lost: [] });
  rot(path.join(bag, "log.txt"));
  expect(await emptying(engine)).toMatchObject({ nowhereElse: [{ name: "log.txt" }] });
});
