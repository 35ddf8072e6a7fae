import { createHash } from "node:crypto";
import fs from "node:fs";
import path from "node:path";
import { afterEach, beforeEach, describe, expect, test } from "vitest";
import { type Cloud, openCloud } from "@/standins/cloud/cloud";
import { differences } from "../../../fixtures/compare-trees";
import { emptyAll, idsOn, itemNamed, makePlace, type Place, worktopTimes } from "../../../fixtures/engine";
import type { Engine } from "../engine";
import { undo } from "../ledger/undo";
import { archive } from "../sitting/archive";
import { letGo } from "../sitting/let-go";
import { itemById } from "../survey/items";
import { addDepot } from "./add";
import { check } from "./check";
import { deleteParcel } from "./delete";
import { listParcels, showParcel } from "./list";
import { restoreParcel } from "./restore";
import { send } from "./send";
import { depotsView } from "./view";

let place: Place;
let engine: Engine;
let cloud: Cloud;
let before: ReturnType<Place["tree"]>;
const at = (...parts: string[]) => path.join(place.root, ...parts);
const stored = (...parts: string[]) => path.join(place.folder, "cloud", ...parts);
const isOurs = (line: string) => !/^new: \.local|Trash/.test(line);

beforeEach(async () => {
  place = makePlace((root) => {
    fs.mkdirSync(path.join(root, "Desktop/box/deep"), { recursive: true });
    fs.mkdirSync(path.join(root, "Documents"));
    for (const name of ["one.txt", "two.txt", "box/a.txt", "box/deep/b.txt", "other.txt"])
      fs.writeFileSync(path.join(root, "Desktop", name), `content of ${name} `.repeat(3000));
  });
  cloud = await openCloud(path.join(place.folder, "cloud"));
  engine = await place.open();
  const { user, password } = cloud.settings;
  await addDepot(engine, { location: cloud.url, title: "Cloud", user, password });
  before = place.tree();
  const items = ["one.txt", "two.txt", "box"].map((name) => itemNamed(engine, name).id);
  await archive(engine, { items, parcel: "P" });
  await send(engine, { parcel: "P", depot: "Cloud" });
  await emptyAll(engine);
});
afterEach(async () => {
  cloud.before = undefined;
  cloud.set({ fail: [], latency: 0 });
  await engine.close();
  await cloud.close();
  place.remove();
});

const sumOf = (text: string) => createHash("sha256").update(text).digest("hex");

/** From now on the cloud holds another bag in this one's place, whole in itself, that plants a file in a home. */
function becomesAnother(): void {
  const list = JSON.parse(fs.readFileSync(stored("P/things.json"), "utf8"));
  const planted = "#!/bin/sh\necho planted\n";
  const entries = [
    {
      rel: btoa(""),
      type: "file",
      mode: 0o755,
      mtimeNs: "1",
      bytes: planted.length,
      payload: "data/planted",
      sha256: sumOf(planted),
    },
  ];
  list.things = [{ item: "x", name: btoa("planted"), folder: btoa(at("Documents")), position: null, entries }];
  fs.writeFileSync(stored("P/data/planted"), planted);
  fs.writeFileSync(stored("P/things.json"), JSON.stringify(list));
  fs.writeFileSync(stored("P/manifest-sha256.txt"), `${sumOf(planted)}  data/planted\n`);
  const tagged = ["bagit.txt", "bag-info.txt", "HOW-TO-BRING-IT-BACK.txt", "manifest-sha256.txt", "things.json"];
  const lines = tagged.map((name) => `${sumOf(fs.readFileSync(stored("P", name), "utf8"))}  ${name}\n`);
  fs.writeFileSync(stored("P/tagmanifest-sha256.txt"), lines.join(""));
}

const requests = Array.from({ length: 15 }, (_, n) => n + 1);

describe("a cloud that is asked to give a parcel back", () => {
  test.each(requests)(
    "and is another from its request %i on plants nothing, and never gives back what was not sent",
    async (n) => {
      let count = 0;
      cloud.before = () => {
        if (++count === n) becomesAnother();
      };
      const restored = await restoreParcel(engine, { parcel: "P", programs: true }).catch((problem: unknown) => problem);
      cloud.before = undefined;
      const lines = differences(before, place.tree(), worktopTimes).filter(isOurs);
      expect(lines.filter((line) => !/^(gone|missing)/.test(line))).toEqual([]);
      expect(fs.readdirSync(at("Documents"))).toEqual([]);
      // Either all of it, or what is said to be refused.
      if (restored instanceof Error) expect(restored).toMatchObject({ code: expect.stringMatching(/parcel-|depot-/) });
      else if (lines.length > 0) expect((restored as { refused: unknown[] }).refused).not.toEqual([]);
    },
  );

  test.each(requests)(
    "and hangs at its request %i holds up no other act, and is cut short by cancelling and by the end",
    async (n) => {
      let count = 0;
      const hung = new Promise<void>((resolve) => {
        cloud.before = () => {
          if (++count < n) return;
          cloud.set({ fail: ["*=stall"] });
          resolve();
        };
      });
      let over = false;
      const restored = restoreParcel(engine, { parcel: "P", programs: true })
        .catch((problem: unknown) => problem)
        .finally(() => {
          over = true;
        });
      await Promise.race([hung, restored]);
      if (over) return void expect(count).toBeLessThan(n);
      const [other] = idsOn(engine);
      expect(await letGo(engine, { items: [other!] })).toMatchObject({ done: 1, refused: [] });
      expect(await undo(engine, {})).toMatchObject({ done: 1, refused: [] });
      expect(over).toBe(false);
      if (n % 2) {
        engine.jobs.cancelAll();
        expect(await restored).toMatchObject(expect.anything());
      }
      await engine.close();
      await restored;
      engine = await place.open();
      expect(
        differences(before, place.tree(), worktopTimes).filter((line) => isOurs(line) && !/^(gone|missing)/.test(line)),
      ).toEqual([]);
    },
  );
});

describe("a parcel of which a file is damaged", () => {
  const rot = (...parts: string[]) => {
    const fd = fs.openSync(stored("P/data", ...parts), "r+");
    fs.writeSync(fd, "X", 0);
    fs.closeSync(fd);
  };

  test("brings back what is whole, names the file, and is called damaged from then on", async () => {
    rot("box/deep/b.txt");
    rot("two.txt");
    const report = await restoreParcel(engine, { parcel: "P" });
    expect(report.refused.map(({ name }) => name).sort()).toEqual(["box/deep/b.txt", "two.txt"]);
    expect(report.refused[0]!.why).toMatch(/is damaged in the parcel P; no other copy of it is known/);
    expect(fs.readFileSync(at("Desktop/one.txt"), "utf8")).toBe("content of one.txt ".repeat(3000));
    expect(fs.readFileSync(at("Desktop/box/a.txt"), "utf8")).toBe("content of box/a.txt ".repeat(3000));
    expect(fs.existsSync(at("Desktop/box/deep/b.txt"))).toBe(false);
    expect(listParcels(engine)).toMatchObject([{ state: "damaged", provenAt: null }]);
    expect(await showParcel(engine, { parcel: "P" })).toMatchObject({ state: "damaged" });
    const [view] = (await depotsView(engine)).sent;
    expect(view).toMatchObject({ state: "damaged", damaged: expect.arrayContaining(["data/two.txt"]) });
    expect(view!.words).not.toContain("every checksum the same");
    expect(await undo(engine, { entry: "all" })).toMatchObject({ done: expect.any(Number) });
  });

  test("is told what is whole at once where it is known already, and where the original lies", async () => {
    rot("box/a.txt");
    await restoreParcel(engine, { parcel: "P", names: ["one.txt"] });
    fs.writeFileSync(at("Documents/kept.txt"), "content of box/a.txt ".repeat(3000));
    fs.copyFileSync(at("Documents/kept.txt"), at("Desktop/kept too.txt"));
    await engine.lookAgain("all");
    await restoreParcel(engine, { parcel: "P", into: "~/Documents/back" } as never).catch(() => {});
    const again = await restoreParcel(engine, { parcel: "P", into: "~/Documents/again" } as never);
    expect(again.refused).toMatchObject([
      { name: "box/a.txt", code: "file-damaged", why: expect.stringMatching(/still lies in ~/) },
    ]);
    expect(fs.readdirSync(at("Documents/again/box"))).toEqual(["deep"]);
    await engine.lookAgain("all");
    const { nowhereElse } = await deleteParcel(engine, { parcel: "P", dryRun: true });
    expect(nowhereElse.files).toBe(0);
  });
});

test("a depot that others may write to by now is sent nothing, also where it was fine when it was added", async () => {
  fs.mkdirSync(path.join(place.folder, "disk"));
  await addDepot(engine, { location: path.join(place.folder, "disk"), title: "Disk" });
  await archive(engine, { items: [itemNamed(engine, "other.txt").id], parcel: "Q" });
  fs.chmodSync(path.join(place.folder, "disk"), 0o777);
  await expect(send(engine, { parcel: "Q", depot: "Disk" })).rejects.toMatchObject({ code: "place-unsuitable" });
  expect(fs.readdirSync(path.join(place.folder, "disk"))).toEqual([]);
  fs.chmodSync(path.join(place.folder, "disk"), 0o755);
  expect(await send(engine, { parcel: "Q", depot: "Disk" })).toMatchObject({ done: 1, refused: [] });
});

test("a cloud that copies where it is asked to move leaves nothing of ours behind, and a program of a stranger's is nobody else's to change", async () => {
  await archive(engine, { items: [itemNamed(engine, "other.txt").id], parcel: "Q" });
  let part = "";
  cloud.before = (method, url) => {
    if (method !== "MOVE") return;
    part = decodeURIComponent(new URL(url, "http://x").pathname)
      .split("/")
      .findLast((name) => name !== "")!;
    fs.cpSync(stored(part), `${stored(part)} kept`, { recursive: true });
    setImmediate(() => undefined);
  };
  // The stand-in moves; what it would have left is put back before it is looked at again.
  const sending = send(engine, { parcel: "Q", depot: "Cloud" });
  const back = setInterval(() => {
    if (part === "" || fs.existsSync(stored(part)) || !fs.existsSync(stored("Q"))) return;
    clearInterval(back);
    fs.renameSync(`${stored(part)} kept`, stored(part));
  }, 1);
  expect(await sending).toMatchObject({ done: 1, refused: [] });
  clearInterval(back);
  expect(
    fs
      .readdirSync(stored())
      .filter((name) => !name.endsWith(" kept"))
      .sort(),
  ).toEqual(["P", "Q"]);

  const list = JSON.parse(fs.readFileSync(stored("Q/things.json"), "utf8"));
  list.things[0].entries[0].mode = 0o777;
  fs.writeFileSync(stored("Q/things.json"), JSON.stringify(list));
  await restoreParcel(engine, { parcel: "Q", into: "~/Documents/theirs", programs: true });
  expect(fs.statSync(at("Documents/theirs/other.txt")).mode & 0o777).toBe(0o755);
});

test("a cloud that keeps names in another form of their characters takes them all, and they come back as they were", async () => {
  const names = ["Möwe.txt", "Mo\u0308we zwei.txt", "갈매기.txt", "café/é\u0323.txt"];
  for (const name of names) {
    fs.mkdirSync(path.dirname(at("Desktop", name)), { recursive: true });
    fs.writeFileSync(at("Desktop", name), `of ${name}`);
    fs.utimesSync(at("Desktop", name), 1.7e9, 1.7e9);
  }
  await engine.lookAgain("all");
  cloud.set({ decomposes: true });
  const now = place.tree();
  const labels = ["Möwe.txt", "갈매기.txt", "café"];
  const items = idsOn(engine).filter((id) => {
    const { label } = itemById(engine.db, id)!;
    return labels.includes(label.normalize("NFC")) || label.normalize("NFC") === "Möwe zwei.txt";
  });
  expect(items).toHaveLength(4);
  await archive(engine, { items, parcel: "Names" });
  expect(await send(engine, { parcel: "Names", depot: "Cloud" })).toMatchObject({ done: 4, refused: [] });
  expect(fs.readdirSync(stored("Names/data")).some((name) => name !== name.normalize("NFC"))).toBe(true);
  expect(await check(engine, { parcel: "Names" })).toMatchObject({ whole: true, files: 4 });
  await emptyAll(engine);
  expect(await restoreParcel(engine, { parcel: "Names" })).toMatchObject({ done: 4, refused: [] });
  expect(differences(now, place.tree(), worktopTimes).filter(isOurs)).toEqual([]);
});
