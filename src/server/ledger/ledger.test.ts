import fs from "node:fs";
import path from "node:path";
import { afterEach, describe, expect, test, vi } from "vitest";
import { acts, actWithFault, changesSince, halfErased, leftovers, smallPlace, things } from "../../../fixtures/acts";
import { differences } from "../../../fixtures/compare-trees";
import { idsOn, itemNamed, type Place, worktopTimes } from "../../../fixtures/engine";
import { type Fault, faultyCalls } from "../../../fixtures/faulty-calls";
import { parcels } from "../depots/depots";
import { send } from "../depots/send";
import type { Engine } from "../engine";
import { put } from "../homes/put";
import { letGo } from "../sitting/let-go";
import { move } from "./steps/move";
import { trashList } from "./trash-list";
import { undo } from "./undo";

let place: Place;
let engine: Engine | undefined;
afterEach(async () => {
  await engine?.close();
  engine = undefined;
  place.remove();
});

const same = (before: ReturnType<Place["tree"]>) => changesSince(before, place);

/** Every point in the long form (VUOTO_TORTURE=1) and in `npm run torture`; in the short one a stride through each act. */
const fewest = 4;
const stride = (count: number) => (process.env.VUOTO_TORTURE ? 1 : Math.max(1, Math.floor(count / fewest)));

const withFault = async (name: string, fault?: Fault) => {
  const done = await actWithFault(name, fault);
  place = done.place;
  return done;
};

/** A later undo of an act that was undone forward ends as if the act had never been; else the start is what must be. */
const goesForward = (name: string) => name.startsWith("undo of") && name !== "undo of an undo";

describe("killed at every call that changes something", () => {
  test.each(Object.keys(acts))(
    "%s",
    async (name) => {
      const whole = await withFault(name, undefined);
      expect(whole.count).toBeGreaterThan(3);
      const end = place.tree();
      place.remove();
      let points = 0;
      for (const how of ["kill before", "kill after"] as const)
        for (let at = 1; at <= whole.count; at += stride(whole.count)) {
          const { start, killed } = await withFault(name, { at, how });
          expect(killed, `${how} ${at}`).toBe(true);
          points++;
          const recovered = await place.recover();
          engine = recovered;
          expect(recovered.db.prepare("SELECT count(*) FROM entry WHERE state = 'running'").pluck().get()).toBe(0);
          // A parcel on its way is no act before it has arrived.
          if (!acts[name]!.tidy) expect(recovered.recovered, `${how} ${at}`).toHaveLength(1);
          await acts[name]!.tidy?.(recovered, place.folder);
          const lines = acts[name]!.destroys
            ? halfErased(start, place.tree())
            : goesForward(name)
              ? differencesButTimes(end)
              : same(start);
          // Vuoto's own texts are written anew, with times of their own.
          expect(
            lines.filter(
              (line) => !/^mtimeNs of .*(\.trashinfo|HOW-TO-BRING-THEM-BACK\.txt|\/\.directory|\/\.clear\.png):/.test(line),
            ),
            `${how} ${at}`,
          ).toEqual([]);
          expect(leftovers(place.folder), `${how} ${at}`).toEqual([]);
          expect(recovered.db.pragma("integrity_check", { simple: true })).toBe("ok");
          await recovered.close();
          engine = undefined;
          place.remove();
        }
      expect(points).toBeGreaterThanOrEqual(Math.min(2 * whole.count, 2 * fewest));
      if (process.env.VUOTO_TORTURE) console.log(`${name}: ${points} kills`);
      place = smallPlace();
    },
    600_000,
  );
});

test("a settle that does not look at the facts is found out", async () => {
  const blind = vi.spyOn(move, "settle").mockReturnValue("undone");
  try {
    let found = 0;
    for (let at = 1; ; at++) {
      const { start, killed } = await withFault("put away into a new home", { at, how: "kill after", only: "renameNoReplace" });
      if (!killed) break;
      engine = await place.recover();
      if (same(start).length > 0) found++;
      await engine.close();
      engine = undefined;
      place.remove();
    }
    expect(found).toBe(things + 1);
  } finally {
    blind.mockRestore();
  }
});

/** Other runs of the same account have other times of making and another root; names, content and modes must agree. */
function differencesButTimes(end: ReturnType<Place["tree"]>): string[] {
  return same(end).filter((line) => !/^mtimeNs|^content of .*\.trashinfo:/.test(line));
}

describe("a call that fails", () => {
  test.each(["ENOSPC", "EROFS", "EACCES", "EIO", "EBUSY", "EMFILE"])(
    "%s in turn refuses one thing, and does the rest",
    async (code) => {
      let tried = 0;
      for (let at = 1; ; at++) {
        const { start, count, refused } = await withFault("let go", { at, how: { code }, only: "renameNoReplace" });
        tried++;
        const recovered = await place.open();
        engine = recovered;
        if (at <= count) {
          expect(refused.length).toBeGreaterThan(0);
          expect(idsOn(recovered)).toHaveLength(1);
        } else expect(idsOn(recovered)).toHaveLength(0);
        const report = await undo(recovered, {});
        expect(report.refused).toEqual([]);
        expect(same(start)).toEqual([]);
        await recovered.close();
        engine = undefined;
        place.remove();
        if (at > count) break;
      }
      expect(tried).toBe(things + 2);
      place = smallPlace();
    },
  );

  test("a full depot is said, counts as nothing sent, and leaves originals and depot as they were", async () => {
    place = smallPlace();
    let e = await place.open();
    await acts["a parcel sent"]!.before!(e, place.folder);
    await e.close();
    const start = place.tree();
    for (const at of [1, 2, 3]) {
      e = await place.open({ calls: faultyCalls({ at, how: { code: "ENOSPC" }, only: "write" }) });
      await expect(send(e, { parcel: "P", depot: "Disk" })).rejects.toMatchObject({
        code: "no-space",
        message: expect.stringContaining("no room left in Disk"),
      });
      await e.close();
      e = await place.open();
      expect(parcels(e)).toMatchObject([{ title: "P", state: "collecting" }]);
      await acts["a parcel sent"]!.tidy!(e, place.folder);
      await e.close();
      expect(fs.readdirSync(path.join(place.folder, "depot"))).toEqual([]);
      expect(same(start)).toEqual([]);
    }
    engine = await place.open();
    expect(await send(engine, { parcel: "P", depot: "Disk" })).toMatchObject({ refused: [] });
  });
});

describe("facts beat memory", () => {
  async function open(): Promise<[Engine, string]> {
    place = smallPlace();
    engine = await place.open();
    const file = fs.readdirSync(path.join(place.root, "Bureau")).find((name) => name.endsWith(".txt") || name.endsWith(".csv"))!;
    return [engine, file];
  }
  const at = (...parts: string[]) => path.join(place.root, ...parts);

  test("a name that is taken in the home gets a number, and nothing is replaced", async () => {
    const [e, file] = await open();
    fs.mkdirSync(at("Papers/Full"));
    fs.writeFileSync(at("Papers/Full", file), "was there first");
    const report = await put(e, { home: { title: "Papers / Full" }, items: [itemNamed(e, file).id] });
    expect(report).toMatchObject({ done: 1, refused: [] });
    expect(fs.readFileSync(at("Papers/Full", file), "utf8")).toBe("was there first");
    expect(fs.readdirSync(at("Papers/Full"))).toHaveLength(2);
  });

  test("a name taken between plan and step is refused, and nothing is replaced", async () => {
    const [e, file] = await open();
    fs.mkdirSync(at("Papers/Full"));
    const { rename } = e.disk;
    e.disk.rename = (from, to) => {
      fs.writeFileSync(Buffer.from(to, "latin1"), "in between");
      rename.call(e.disk, from, to);
    };
    const report = await put(e, { home: { title: "Papers / Full" }, items: [itemNamed(e, file).id] });
    expect(report).toMatchObject({ done: 0, refused: [{ code: "name-taken" }] });
    expect(fs.readFileSync(at("Papers/Full", file), "utf8")).toBe("in between");
    expect(fs.existsSync(at("Bureau", file))).toBe(true);
  });

  test("what vanished or changed since is said, the rest is done", async () => {
    const [e] = await open();
    const [a, b, c] = idsOn(e);
    const names = fs.readdirSync(at("Bureau")).filter((name) => fs.statSync(at("Bureau", name)).isFile());
    const [gone, changed, fine] = names;
    const items = [gone, changed, fine].map((name) => itemNamed(e, name!).id);
    expect([a, b, c]).toHaveLength(3);
    fs.rmSync(at("Bureau", gone!));
    fs.appendFileSync(at("Bureau", changed!), "more");
    const report = await letGo(e, { items });
    expect(report.done).toBe(1);
    expect(report.refused.map((r) => [r.name, r.code])).toEqual([
      [gone, "vanished"],
      [changed, "changed"],
    ]);
    expect(fs.readFileSync(at("Bureau", changed!), "utf8")).toContain("more");
  });

  test("what a program has open for writing is left alone, and can be moved afterwards", async () => {
    const [e, file] = await open();
    const { spawn } = await import("node:child_process");
    const writer = spawn("sh", ["-c", `exec 3>>"${at("Bureau", file)}"; echo ready; sleep 30`]);
    await new Promise((ready) => writer.stdout.once("data", ready));
    const { id } = itemNamed(e, file);
    expect(await letGo(e, { items: [id] })).toMatchObject({
      done: 0,
      refused: [{ code: "in-use", why: expect.stringContaining("has it open") }],
    });
    const ended = new Promise((end) => writer.once("exit", end));
    writer.kill("SIGKILL");
    await ended;
    // The shell's child sleeps on with the same file open.
    await new Promise((next) => setTimeout(next, 50));
    const again = await letGo(e, { items: [id] });
    expect(again.done + again.refused.length).toBe(1);
  });

  test("a thing with a lock file beside it is left alone", async () => {
    const [e, file] = await open();
    fs.writeFileSync(at("Bureau", `.~lock.${file}#`), "");
    expect(await letGo(e, { items: [itemNamed(e, file).id] })).toMatchObject({ done: 0, refused: [{ code: "in-use" }] });
  });

  test("a home that became a link is not entered", async () => {
    const [e, file] = await open();
    fs.mkdirSync(at("Papers/Door"));
    fs.mkdirSync(path.join(place.folder, "elsewhere"));
    const { rename } = e.disk;
    e.disk.rename = (from, to) => {
      fs.rmdirSync(at("Papers/Door"));
      fs.symlinkSync(path.join(place.folder, "elsewhere"), at("Papers/Door"));
      rename.call(e.disk, from, to);
    };
    const report = await put(e, { home: { title: "Papers / Door" }, items: [itemNamed(e, file).id] });
    // The folder that was opened is worked in, not what took its name; and that one is gone.
    expect(report).toMatchObject({ done: 0, refused: [{ code: expect.stringMatching(/vanished|link-on-the-way/) }] });
    expect(fs.readdirSync(path.join(place.folder, "elsewhere"))).toEqual([]);
    expect(fs.existsSync(at("Bureau", file))).toBe(true);
  });

  test("nothing outside worktops, homes, trash and depots can be written", async () => {
    const [e, file] = await open();
    const from = itemNamed(e, file).path;
    for (const to of [
      `${place.folder}/out`,
      `${place.root}/loose`,
      `${place.root}/Papers/../loose`,
      `${place.root}/.config/x`,
      "/etc/vuoto",
    ])
      expect(() => e.disk.rename(from, to as typeof from)).toThrow(expect.objectContaining({ code: "out-of-bounds" }));
    expect(fs.existsSync(at("Bureau", file))).toBe(true);
  });

  test("a trial says what would be done and what would be refused, and changes nothing", async () => {
    const [e, file] = await open();
    const before = place.tree();
    fs.writeFileSync(at("Bureau", `.~lock.${file}#`), "");
    const items = idsOn(e);
    const report = await letGo(e, { items, dryRun: true });
    expect(report).toMatchObject({ entry: null, done: items.length - 1, refused: [{ name: file, code: "in-use" }] });
    expect(report.steps?.map(({ words }) => words)).toContainEqual(expect.stringMatching(/from Bureau to the trash$/));
    fs.rmSync(at("Bureau", `.~lock.${file}#`));
    expect(differences(before, place.tree(), worktopTimes)).toEqual([]);
    expect(e.db.prepare("SELECT count(*) FROM entry").pluck().get()).toBe(0);
  });

  test("acts asked for at once take turns, and none is lost", async () => {
    const [e] = await open();
    const items = idsOn(e);
    const reports = await Promise.all(items.map((id) => letGo(e, { items: [id] })));
    expect(reports.every((r) => r.done === 1)).toBe(true);
    const twice = await Promise.allSettled([letGo(e, { items: [items[0]!] }), letGo(e, { items: [items[0]!] })]);
    expect(twice.every((r) => r.status === "rejected")).toBe(true);
    expect(trashList(e)).toHaveLength(items.length);
  });

  test("across file systems a thing is copied, proven and then removed, and undo brings back time and mode", async () => {
    const [e, file] = await open();
    const other = fs.mkdtempSync("/dev/shm/vuoto-");
    fs.mkdirSync(at("Papers/Far"));
    fs.rmdirSync(at("Papers/Far"));
    try {
      fs.chmodSync(at("Bureau", file), 0o640);
      await e.lookAgain();
      const before = place.tree();
      const item = itemNamed(e, file);
      // A folder of another file system within bounds: what a mounted home would be.
      const far = `${other}/far` as typeof item.path;
      Object.assign(e.disk, { bounds: () => () => true });
      fs.mkdirSync(far);
      const done = await e.ledger.perform(() => ({
        act: "put",
        words: () => "far",
        left: [],
        steps: [
          { type: "move", item: item.id, from: item.path, to: `${far}/${file}` as typeof item.path, identity: item.identity },
        ],
      }));
      expect(done).toMatchObject({ done: 1, refused: [] });
      expect(fs.existsSync(at("Bureau", file))).toBe(false);
      expect(fs.readdirSync(far)).toEqual([file]);
      expect(await undo(e, {})).toMatchObject({ done: 1, refused: [] });
      expect(fs.readdirSync(far)).toEqual([]);
      expect(same(before)).toEqual([]);
    } finally {
      fs.rmSync(other, { recursive: true });
    }
  });
});
