import fs from "node:fs";
import path from "node:path";
import { afterEach, beforeEach, describe, expect, test } from "vitest";
import { api } from "@/contract/api";
import { isBlankName } from "@/core/hollow/blanks";
import { rawFromText } from "@/core/names/raw";
import { openCloud } from "@/standins/cloud/cloud";
import { makeHostileAccount, makeRandomAccount } from "../../../fixtures/accounts";
import { differences } from "../../../fixtures/compare-trees";
import { emptyAll, idsOn, itemNamed, makePlace, type Place, worktopTimes } from "../../../fixtures/engine";
import { writeRecord } from "../db/record";
import { addDepot } from "../depots/add";
import { browse } from "../depots/browse";
import { send } from "../depots/send";
import type { Engine } from "../engine";
import { operate } from "../operations";
import { archive } from "../sitting/archive";
import { letGo } from "../sitting/let-go";
import { emptying, emptyTrash } from "./empty";
import { trashList } from "./trash-list";
import { undo } from "./undo";

let place: Place;
let engine: Engine | undefined;
afterEach(async () => {
  await engine?.close();
  engine = undefined;
  place.remove();
});
const trashFiles = (kind: string) => fs.readdirSync(path.join(place.root, ".local/share/Trash", kind));

describe("emptying the trash", () => {
  let e: Engine;
  beforeEach(async () => {
    place = makePlace((root) => void makeRandomAccount(root, 61, 12));
    e = engine = await place.open();
  });

  test("says count, bytes and what exists nowhere else, and erases exactly that", async () => {
    const [name] = fs.readdirSync(path.join(place.root, "Papers")).map((home) => path.join(place.root, "Papers", home));
    const filed = path.join(name!, fs.readdirSync(name!)[0]!);
    fs.copyFileSync(filed, path.join(place.root, "Bureau/a copy.txt"));
    // With a shortcut nothing is lost, here as in the survey.
    fs.writeFileSync(path.join(place.root, "Bureau/tool.desktop"), "[Desktop Entry]\nType=Application\nExec=/bin/true\n");
    await e.lookAgain("all");
    const lying = idsOn(e).length;
    await letGo(e, { items: idsOn(e) });
    const what = await emptying(e);
    expect(what.count).toBe(lying);
    expect(what.nowhereElse).toHaveLength(lying - 2);
    for (const name of ["a copy.txt", "tool.desktop"]) expect(what.nowhereElse).not.toContainEqual({ name });
    const bytes = fs
      .readdirSync(path.join(place.root, ".local/share/Trash/files"), { recursive: true, withFileTypes: true })
      .filter((f) => f.isFile());
    expect(what.files).toBe(bytes.length);
    expect(what.bytes).toBe(bytes.reduce((sum, f) => sum + fs.statSync(path.join(f.parentPath, f.name)).size, 0));
    // Something more arrives in the trash after it was shown: it stays.
    fs.writeFileSync(path.join(place.root, ".local/share/Trash/files/later"), "later");
    fs.writeFileSync(
      path.join(place.root, ".local/share/Trash/info/later.trashinfo"),
      "[Trash Info]\nPath=/x/later\nDeletionDate=2026-01-01T00:00:00\n",
    );
    expect(await emptyTrash(e, { things: what.things, lost: what.lost })).toMatchObject({ done: lying, refused: [] });
    expect(trashFiles("files")).toEqual(["later"]);
    expect(trashFiles("info")).toEqual(["later.trashinfo"]);
  });

  test("leaves alone what changed after it was shown", async () => {
    await letGo(e, { items: idsOn(e).slice(0, 3) });
    const { things, lost } = await emptying(e);
    const file = path.join(place.root, ".local/share/Trash/files", trashFiles("files").find((n) => n.includes("."))!);
    fs.appendFileSync(file, "more");
    const report = await emptyTrash(e, { things, lost });
    expect(report).toMatchObject({ done: 2, refused: [{ code: "not-in-trash" }] });
    expect(fs.readFileSync(file, "utf8")).toContain("more");
  });

  test("cannot be undone where nothing holds a copy, and says so", async () => {
    await letGo(e, { items: idsOn(e).slice(0, 2) });
    const emptied = await emptyAll(e);
    await expect(undo(e, { entry: emptied.entry! })).rejects.toMatchObject({ code: "erased" });
    await expect(undo(e, { entry: emptied.entry!, dryRun: true })).rejects.toMatchObject({ code: "erased" });
  });

  test("fetches back from the parcel what it holds, to its exact place", async () => {
    const before = place.tree();
    fs.mkdirSync(path.join(place.folder, "disk"));
    await addDepot(e, { location: path.join(place.folder, "disk"), title: "Disk" });
    await archive(e, { items: idsOn(e), parcel: "P" });
    await send(e, { parcel: "P", depot: "Disk" });
    const what = await emptying(e);
    expect(what.nowhereElse).toEqual([]);
    await emptyTrash(e, { things: what.things, lost: what.lost });
    expect(trashFiles("files")).toEqual([]);
    expect(await undo(e, { entry: "all" })).toMatchObject({ refused: [] });
    expect(differences(before, place.tree(), worktopTimes).filter((line) => !/^new: \.local/.test(line))).toEqual([]);
  });

  test("is reached by no other path: no other act plans to erase, or leaves less than there was", async () => {
    const cloud = await openCloud(path.join(place.folder, "cloud"), { settings: { latency: 20 } });
    const nothingOpens = () => {
      const put = (rel: string, text: string) => {
        fs.mkdirSync(path.dirname(path.join(place.root, rel)), { recursive: true });
        fs.writeFileSync(path.join(place.root, rel), text);
      };
      put(".config/mimeapps.list", "[Default Applications]\ntext/plain=nothing.desktop\n");
      put(".local/share/applications/nothing.desktop", "[Desktop Entry]\nType=Application\nName=Nothing\nExec=true %f\n");
      put("Bureau/plain words.txt", "plain words");
      return e.lookAgain().then(() => itemNamed(e, "plain words.txt").id);
    };
    const erasing: string[] = [];
    const { perform } = e.ledger;
    e.ledger.perform = async (makePlan, options) => {
      const plan = await makePlan();
      if (plan.steps.some((step) => step.type === "erase")) erasing.push(plan.act);
      return perform.call(e.ledger, () => plan, options);
    };
    fs.mkdirSync(path.join(place.folder, "disk"));
    const { user, password } = cloud.settings;
    await operate(e, "depots/add", { location: cloud.url, title: "C", user, password });
    const content = () =>
      [...place.tree()]
        .filter(([rel, entry]) => entry.type === "file" && !entry.content.startsWith("0 ") && !rel.endsWith(".trashinfo"))
        .map(([, entry]) => entry.content)
        .sort();
    await letGo(e, { items: [idsOn(e)[0]!] });
    const all = new Set(content());
    const inputs: Record<string, () => unknown> = {
      "survey/settle": () => ({ finding: "twins" }),
      "survey/finding": () => ({ finding: "twins" }),
      "survey/families": () => ({ worktop: "desktop" }),
      "settings/screen": () => ({ width: 1280, height: 800, icon: 48 }),
      "survey/family": () => ({ item: idsOn(e)[0] }),
      "survey/left-out": () => ({}),
      "survey/leave-out": () => ({ name: "Kept", out: true }),
      "survey/protect": () => ({ folder: { path: btoa(path.join(place.root, "Papers")) }, protection: "backed up" }),
      "homes/put": () => ({ home: { title: "H" }, items: [idsOn(e)[0]] }),
      "homes/sweep": () => ({ home: { title: "H" }, items: [idsOn(e)[0]] }),
      "homes/titles": () => ({ items: [idsOn(e)[0]], title: "{short}" }),
      "homes/retitle": () => ({ items: [idsOn(e)[0]], title: "{date} {name}" }),
      "homes/gather": () => ({ items: [idsOn(e)[0]], title: "G" }),
      "homes/set-out": () => ({}),
      "homes/split": () => ({ home: { title: "H" }, by: "kind" }),
      "homes/add": () => ({ homes: [{ title: "H2" }] }),
      "sitting/stay": () => ({ items: [idsOn(e)[0]] }),
      "sitting/wait": () => ({ items: [idsOn(e)[0]] }),
      "sitting/archive": () => ({ items: [idsOn(e)[0]], parcel: "P" }),
      "sitting/let-go": () => ({ items: [idsOn(e)[1]] }),
      "sitting/note": () => {
        fs.writeFileSync(path.join(place.root, "Bureau/idea.png"), "a picture, nearly");
        all.add(content().find((sum) => !all.has(sum))!);
        return e.lookAgain().then(() => ({ items: [itemNamed(e, "idea.png").id], home: { title: "Notes" } }));
      },
      "sitting/end-project": async () => {
        await operate(e, "sitting/stay", { items: [idsOn(e).at(-1)], project: "Harvest" });
        return { project: "Harvest" };
      },
      "survey/since": () => ({ mark: "none" }),
      "quiet/since": () => ({ mark: "none" }),
      "sitting/now": () => ({ ahead: idsOn(e).slice(0, 3) }),
      "sitting/in-use": () => ({ items: idsOn(e).slice(0, 3) }),
      "sitting/open": () => {
        fs.mkdirSync(path.join(place.root, "Bureau/box"), { recursive: true });
        return e.lookAgain().then(() => ({ item: itemNamed(e, "box").id }));
      },
      "sitting/clash": () => {
        fs.mkdirSync(path.join(place.root, "Papers/Twice"), { recursive: true });
        for (const at of ["Bureau", "Papers/Twice"]) fs.writeFileSync(path.join(place.root, at, "same name"), at);
        return e
          .lookAgain("all")
          .then(() => ({ item: itemNamed(e, "same name").id, home: { folder: btoa(path.join(place.root, "Papers/Twice")) } }));
      },
      "sitting/thing": () => ({ item: idsOn(e)[0] }),
      "sitting/end": () => ({ sitting: "x" }),
      "depots/add": () => ({ location: path.join(place.folder, "disk"), title: "D" }),
      "depots/checks": () => ({ depot: "D", on: false }),
      "depots/check-all": () => ({ depot: "D" }),
      "depots/rename": () => ({ parcel: "P", title: "P" }),
      "depots/browse": () => ({ parcel: "P" }),
      "depots/look": async () => {
        const { entries } = await browse(e, { parcel: "P" });
        return { parcel: "P", path: entries.find(({ type }) => type === "file")!.path };
      },
      "depots/move": () =>
        operate(e, "sitting/archive", { items: [idsOn(e)[0]], parcel: "Q" }).then(() => ({ items: [idsOn(e)[0]] })),
      "depots/pause": async () => {
        await operate(e, "sitting/archive", { items: [idsOn(e)[0]], parcel: "R" });
        await operate(e, "depots/send", { parcel: "R", depot: "C", wait: false });
        return { parcel: "R" };
      },
      "depots/cancel": () => ({ parcel: "R" }),
      "depots/sign-in": () => ({ depot: "C", user, password }),
      "depots/from-home": () => ({ home: { title: "H2" } }),
      "depots/propose": () => ({ proposal: "none" }),
      "depots/plug": () => ({ drive: "none", in: true }),
      "depots/find": () => ({ words: "a" }),

      "depots/send": () => ({ parcel: "P", depot: "D" }),
      "depots/check": () => ({ parcel: "P" }),
      "depots/show": () => ({ parcel: "P" }),
      "depots/restore": () => ({ parcel: "P", programs: true }),
      "depots/remove": () => ({ depot: "D" }),
      "quiet/show": () => ({ level: "bare" }),
      // One more than the level, as everything is out of sight already.
      "quiet/hide": () => {
        fs.writeFileSync(path.join(place.root, "Bureau/new one.txt"), "new");
        return e.lookAgain().then(() => ({ items: [itemNamed(e, "new one.txt").id] }));
      },
      "quiet/bring-back": () => ({ items: [itemNamed(e, "new one.txt").id] }),
      "ledger/restore": () => ({ things: [trashList(e)[0]!.id] }),
      "ledger/steps": () => ({ entry: 1 }),
      "ledger/later": () => ({ entry: 1 }),
      "jobs/cancel": () => ({ job: "none" }),
      "quiet/add-occasion": () => ({ title: "Painting", level: "bare" }),
      "quiet/occasion": () => ({ occasion: "Painting", does: "start" }),
      // The person's own program, which does nothing.
      ...Object.fromEntries(
        (["looks/program", "looks/in-program"] as const).map((path) => [
          path,
          async () => ({ item: await nothingOpens(), program: "nothing.desktop" }),
        ]),
      ),
      "looks/look": () => ({ item: idsOn(e)[0]! }),
      // On a screen that Vuoto draws itself; the next one asked is on the account's own again.
      "quiet/place": () => {
        writeRecord(e.db, "setting:screen", "simulated");
        return { spots: [{ item: idsOn(e)[0]!, x: 1, y: 1 }] };
      },
      "quiet/straighten": () => ({ by: "near" }),
      "quiet/make-hollow": () => ({ note: "Keys" }),
      "quiet/seen-hollow": () => ({ hollow: "Keys", seen: "nothing" }),
      "quiet/repair-hollow": () => {
        const hollow = fs.readdirSync(path.join(place.root, "Bureau")).find((name) => isBlankName(rawFromText(name)))!;
        fs.rmSync(path.join(place.root, "Bureau", hollow, ".directory"));
        return { hollow: "Keys" };
      },
      "quiet/open-hollow": () => ({ hollow: "Keys", name: "Keys" }),
      "quiet/keep-layout": () => ({ title: "As it was" }),
      "quiet/compare-layout": () => ({ layout: "As it was" }),
      "quiet/bring-layout": () => ({ layout: "As it was" }),
      "quiet/export-layout": () => ({ layout: "As it was" }),
      "quiet/import-layout": async () => ({
        document: await operate(e, "quiet/export-layout", { layout: "As it was" }),
        title: "Another",
      }),
      "quiet/remove-layout": () => ({ layout: "As it was" }),
      "ledger/list": () => {
        writeRecord(e.db, "setting:screen", null);
        return {};
      },
      "quiet/longer": async () => {
        await operate(e, "quiet/show", { level: "bare", until: e.now() + 3_600_000 });
        return {};
      },
      "settings/launcher": () => ({ which: "open" }),
      "settings/use-screen": () => ({ name: "listed" }),
      "settings/backup": () => ({ file: path.join(place.folder, "copy.ndjson") }),
      "sitting/give": () => ({ verdicts: [{ id: "given-first", act: "sitting/stay", input: { items: [idsOn(e)[2]] } }] }),
      "sitting/given": () => ({ ids: ["given-first"] }),
    };
    const nothingToDo: Partial<Record<keyof typeof api, string>> = {
      "depots/propose": "unknown-proposal",
      "depots/from-home": "parcel-empty",
      "depots/plug": "unknown-depot",
    };
    const asked: string[] = [];
    // The depot goes last: others need it.
    const paths = (Object.keys(api) as (keyof typeof api)[]).toSorted(
      (a, b) => Number(a === "depots/remove") - Number(b === "depots/remove"),
    );
    for (const p of paths) {
      // Both that destroy.
      if (p === "ledger/empty" || p === "depots/delete") continue;
      const input = (await inputs[p]?.()) ?? {};
      await operate(e, p, input).catch((problem) => expect(`${p}: ${problem.code}`).toBe(`${p}: ${nothingToDo[p]}`));
      asked.push(p);
      const now = new Set(content());
      expect(
        [...all].filter((sum) => !now.has(sum)),
        p,
      ).toEqual([]);
    }
    expect(asked).toHaveLength(Object.keys(api).length - 2);
    await cloud.close();
    expect(erasing).toEqual([]);
  });
});

test("things of every sort are erased, links without what they lead to", async () => {
  place = makePlace((root) => void makeHostileAccount(root));
  engine = await place.open();
  fs.mkdirSync(path.join(place.folder, "outside"));
  fs.writeFileSync(path.join(place.folder, "outside/kept"), "kept");
  fs.symlinkSync(path.join(place.folder, "outside"), path.join(place.root, "Desktop/door"));
  await engine.lookAgain();
  await letGo(engine, { items: idsOn(engine) });
  const what = await emptying(engine);
  expect(await emptyTrash(engine, { things: what.things, lost: what.lost })).toMatchObject({ refused: [] });
  expect(trashFiles("files")).toEqual([]);
  expect(fs.readFileSync(path.join(place.folder, "outside/kept"), "utf8")).toBe("kept");
});
