import fs from "node:fs";
import path from "node:path";
import koffi from "koffi";
import { afterEach, beforeEach, describe, expect, test } from "vitest";
import { acts, changesSince, leftovers, smallPlace, things } from "../../../fixtures/acts";
import { differences } from "../../../fixtures/compare-trees";
import { idsOn, itemNamed, type Place, worktopTimes } from "../../../fixtures/engine";
import { type Calls, realCalls } from "../disk/calls";
import type { Engine } from "../engine";
import { put } from "../homes/put";
import { letGo } from "../sitting/let-go";
import { undo } from "./undo";

let place: Place;
let engine: Engine | undefined;
beforeEach(() => {
  place = smallPlace();
});
afterEach(async () => {
  await engine?.close();
  engine = undefined;
  place.remove();
});

const at = (...parts: string[]) => path.join(place.root, ...parts);
const files = () => fs.readdirSync(at("Bureau")).filter((name) => /\.(txt|csv|desktop|bin)$/.test(name));

/** The real calls, with something else that happens on the computer right before the first call of a name. */
function meanwhile(name: keyof Calls, happens: () => void): Calls {
  let happened = false;
  return {
    ...realCalls,
    [name]: (...args: never[]) => {
      if (!happened) {
        happened = true;
        happens();
      }
      return (realCalls[name] as (...a: never[]) => unknown)(...args);
    },
  };
}

async function open(calls?: Calls): Promise<Engine> {
  engine = await place.open({ calls });
  return engine;
}

describe("what happens to a thing between the last look and the step", () => {
  const first = () => files().sort()[0]!;
  const cases: { what: string; happens: (name: string) => void; code: string }[] = [
    {
      what: "it is saved through a new file",
      happens(name) {
        fs.writeFileSync(at("Bureau/.new"), "edited");
        fs.renameSync(at("Bureau/.new"), at("Bureau", name));
      },
      code: "changed",
    },
    {
      what: "it becomes a link",
      happens(name) {
        fs.renameSync(at("Bureau", name), at("elsewhere"));
        fs.symlinkSync("/etc/passwd", at("Bureau", name));
      },
      code: "changed",
    },
    {
      what: "it becomes a folder",
      happens(name) {
        fs.renameSync(at("Bureau", name), at("elsewhere"));
        fs.mkdirSync(at("Bureau", name));
      },
      code: "changed",
    },
    { what: "it goes", happens: (name) => fs.renameSync(at("Bureau", name), at("elsewhere")), code: "vanished" },
  ];

  test.each(cases)("$what: it is left as it is, the rest is done, and undo keeps it", async ({ happens, code }) => {
    const name = first();
    let since: ReturnType<Place["tree"]> | undefined;
    const calls = meanwhile("renameNoReplace", () => {
      happens(name);
      since = place.tree();
    });
    const e = await open(calls);
    const one = itemNamed(e, name).id;
    const items = [one, ...idsOn(e).filter((id) => id !== one)];
    const report = await letGo(e, { items });
    expect(report).toMatchObject({ done: things, refused: [{ code, name }] });
    expect(report.refused[0]!.why).toMatch(/\.$/);
    expect(await undo(e, {})).toMatchObject({ refused: [] });
    expect(changesSince(since!, place).filter((line) => !line.startsWith("missing: .local"))).toEqual([]);
  });

  test("the name in the home is taken: refused, and what took it stays", async () => {
    const name = first();
    const e = await open(
      meanwhile("renameNoReplace", () => {
        fs.writeFileSync(at("Papers/New", name), "somebody else's");
      }),
    );
    const one = itemNamed(e, name).id;
    const report = await put(e, { home: { title: "New" }, items: [one, ...idsOn(e).filter((id) => id !== one)] });
    expect(report).toMatchObject({ done: things, refused: [{ code: "name-taken", name }] });
    expect(fs.readFileSync(at("Papers/New", name), "utf8")).toBe("somebody else's");
    const back = await undo(e, {});
    // The new home is not empty any more, and stays.
    expect(back.refused.map((r) => r.code)).toEqual(["not-empty"]);
    expect(fs.readdirSync(at("Papers/New"))).toEqual([name]);
    expect(files()).toContain(name);
  });

  test("the home is swapped for a link: nothing goes where the link leads", async () => {
    fs.mkdirSync(at("Papers/Target"));
    fs.mkdirSync(path.join(place.folder, "outside"));
    const e = await open(
      meanwhile("renameNoReplace", () => {
        fs.renameSync(at("Papers/Target"), at("Papers/Real"));
        fs.symlinkSync(path.join(place.folder, "outside"), at("Papers/Target"));
      }),
    );
    const before = fs.readdirSync(at("Bureau")).sort();
    await put(e, { home: { title: "Papers / Target" }, items: idsOn(e) });
    expect(fs.readdirSync(path.join(place.folder, "outside"))).toEqual([]);
    // The opened folder is the one that was meant, whatever its name is now: nothing is lost.
    expect([...fs.readdirSync(at("Papers/Real")), ...fs.readdirSync(at("Bureau"))].sort()).toEqual(before);
  });

  test.each([
    ["grows", (file: string) => fs.appendFileSync(file, "more")],
    ["goes", (file: string) => fs.unlinkSync(file)],
    ["is cut short", (file: string) => fs.truncateSync(file, 1)],
  ])("a file %s while it is copied to another file system: refused, left as it is then", async (_, happens) => {
    const name = first();
    // The first sync is that of the first copied file, before the copy takes its name.
    const e = await open(meanwhile("syncFile", () => happens(at("Bureau", name))));
    const one = itemNamed(e, name).id;
    const far = fs.readlinkSync(at("Far"));
    const report = await put(e, { home: { folder: btoa(far) }, items: [one, ...idsOn(e).filter((id) => id !== one)] });
    expect(report).toMatchObject({ done: things, refused: [{ name }] });
    expect(["changed", "vanished"]).toContain(report.refused[0]!.code);
    expect(fs.readdirSync(far)).not.toContain(name);
    expect(leftovers(place.folder)).toEqual([]);
  });
});

test("a file that grows is left alone, said, and offered again once it rests", async () => {
  const growing = at("Bureau/recording.wav");
  fs.writeFileSync(growing, "");
  const timer = setInterval(() => fs.appendFileSync(growing, "sound"), 20);
  try {
    const e = await open();
    const report = await letGo(e, { items: idsOn(e) });
    expect(report).toMatchObject({ done: things + 1, refused: [{ name: "recording.wav" }] });
    expect(["in-use", "changed"]).toContain(report.refused[0]!.code);
    clearInterval(timer);
    await e.lookAgain();
    expect(idsOn(e)).toHaveLength(1);
    expect(await letGo(e, { items: idsOn(e) })).toMatchObject({ done: 1, refused: [] });
  } finally {
    clearInterval(timer);
  }
});

test.each(["let go", "put on another file system", "a parcel sent", "a parcel restored", "quiet, tucked away"])(
  "%s, where the system takes a few bytes at a time, is whole all the same",
  async (name) => {
    let e = await open();
    const made = place.tree();
    await acts[name]!.before?.(e, place.folder);
    await e.close();
    let short = 0;
    const few: Calls = {
      ...realCalls,
      write(fd, buffer, position) {
        if (buffer.length > 7) short++;
        return realCalls.write(fd, buffer.subarray(0, Math.min(buffer.length, 7)), position);
      },
      read: (fd, buffer, position) => realCalls.read(fd, buffer.subarray(0, Math.min(buffer.length, 11)), position),
    };
    e = await open(few);
    expect(await acts[name]!.act(e, place.folder)).toMatchObject({ refused: [] });
    expect(short).toBeGreaterThan(0);
    expect(await undo(e, { entry: "all" })).toMatchObject({ refused: [] });
    expect(changesSince(made, place)).toEqual([]);
  },
);

/** Root may do anything, so the act is done as another user; only root can become one. */
describe.skipIf(process.getuid?.() !== 0)("as a user who may not do everything", () => {
  const nobody = 65534;
  const prctl = koffi.load("libc.so.6").func("int prctl(int, unsigned long, unsigned long, unsigned long, unsigned long)");
  /** A process that changed its user may not look into its own /proc/self/fd unless it says that it may be looked into. */
  function become(uid: number): void {
    process.seteuid!(uid);
    prctl(4, 1, 0, 0, 0);
  }
  function own(folder: string): void {
    for (const name of ["", ...fs.readdirSync(folder, { recursive: true, encoding: "utf8" })])
      fs.lchownSync(path.join(folder, name), nobody, nobody);
  }
  afterEach(() => process.seteuid!(0));

  test.each([
    {
      what: "a folder of somebody else's in the account",
      prepare() {
        fs.mkdirSync(at("Bureau/not mine"), { mode: 0o755 });
        fs.writeFileSync(at("Bureau/not mine/theirs"), "theirs");
      },
      refused: ["not mine"],
    },
    {
      what: "a desktop on which only owners take things away",
      prepare() {
        fs.chownSync(at("Bureau"), 0, 0);
        fs.chmodSync(at("Bureau"), 0o1777);
        fs.writeFileSync(at("Bureau/not mine.txt"), "theirs");
      },
      refused: ["not mine.txt"],
    },
    {
      what: "a desktop that is only to be read",
      prepare() {
        fs.chmodSync(at("Bureau"), 0o555);
      },
      refused: "all" as const,
    },
  ])("$what: what may not be moved is said and stays, the rest is done and undone", async ({ prepare, refused }) => {
    own(place.folder);
    prepare();
    const before = place.tree();
    const e = await open();
    own(place.data);
    become(nobody);
    const items = idsOn(e);
    const report = await letGo(e, { items });
    const names = refused === "all" ? items.length : refused.length;
    expect(report.refused.map((r) => r.code)).toEqual(Array(names).fill("no-permission"));
    expect(report.refused[0]!.why).toContain("Change its permissions");
    if (refused !== "all") {
      expect(report.refused.map((r) => r.name)).toEqual(refused);
      expect(report.done).toBe(items.length - 1);
      expect(await undo(e, {})).toMatchObject({ refused: [] });
    }
    process.seteuid!(0);
    expect(differences(before, place.tree(), worktopTimes).filter((line) => !line.startsWith("new: .local"))).toEqual([]);
  });

  test("a home in which nothing may be put: said, and nothing is done", async () => {
    own(place.folder);
    fs.mkdirSync(at("Papers/Locked"), { mode: 0o755 });
    const before = place.tree();
    const e = await open();
    own(place.data);
    become(nobody);
    const report = await put(e, { home: { title: "Papers / Locked" }, items: idsOn(e) });
    expect(report.done).toBe(0);
    expect(new Set(report.refused.map((r) => r.code))).toEqual(new Set(["no-permission"]));
    process.seteuid!(0);
    expect(changesSince(before, place)).toEqual([]);
  });

  test("a file that may not be read is not sent, stays, and the rest of the parcel is not counted as sent with it", async () => {
    fs.chmodSync(at("Bureau", files()[0]!), 0o000);
    const e = await open();
    await acts["a parcel sent"]!.before!(e, place.folder);
    own(place.folder);
    own(place.data);
    fs.chownSync(at("Bureau", files()[0]!), 0, 0);
    become(nobody);
    const report = (await acts["a parcel sent"]!.act(e, place.folder)) as Awaited<ReturnType<typeof letGo>>;
    expect(report.refused.map((r) => r.code)).toContain("no-permission");
    process.seteuid!(0);
    expect(files()).toHaveLength(report.refused.length > 1 ? things : 1);
  });
});
