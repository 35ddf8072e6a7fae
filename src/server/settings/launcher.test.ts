import { spawnSync } from "node:child_process";
import fs from "node:fs";
import path from "node:path";
import { afterEach, expect, test } from "vitest";
import { readDesktopEntry } from "@/core/survey/desktop-entry";
import { changesSince } from "../../../fixtures/acts";
import { makePlace, type Place } from "../../../fixtures/engine";
import type { Engine } from "../engine";
import { undo } from "../ledger/undo";
import { addOccasion, changeOccasion } from "../quiet/occasions";
import { launcher, launchersNow } from "./launcher";

let place: Place;
let engine: Engine | undefined;
afterEach(async () => {
  await engine?.close();
  place.remove();
});

test("a launcher among the programs gathers and sets out; made, taken away and undone; one edited since is not lost", async () => {
  place = makePlace((root) => fs.mkdirSync(path.join(root, "Desktop"), { recursive: true }));
  engine = await place.open();
  const before = place.tree();
  const file = path.join(place.root, ".local/share/applications/vuoto-gather.desktop");
  expect(await launcher(engine, { which: "gather", dryRun: true })).toMatchObject({ entry: null, done: 4 });
  expect(fs.existsSync(file)).toBe(false);
  await launcher(engine, { which: "gather" });
  const entry = readDesktopEntry(fs.readFileSync(file, "utf8"))!;
  expect(entry.get("Type")).toBe("Application");
  expect(entry.get("Exec")).toMatch(/vuoto\.mjs --account .* gather$/);
  // The very record in which its acts are undone.
  expect(entry.get("Exec")).toContain(`--data ${place.data} gather`);
  // Once more changes nothing.
  expect(await launcher(engine, { which: "gather" })).toMatchObject({ entry: null });
  const [opens, vuoto] = [await launcher(engine, { which: "open" }), path.join(path.dirname(file), "vuoto.desktop")];
  expect(opens).toMatchObject({ done: 1 });
  expect(readDesktopEntry(fs.readFileSync(vuoto, "utf8"))!.get("Exec")).toMatch(/ open$/);
  await undo(engine, {});
  expect(fs.existsSync(vuoto)).toBe(false);
  await launcher(engine, { which: "gather", away: true });
  expect(fs.existsSync(file)).toBe(false);
  await undo(engine, {});
  expect(fs.existsSync(file)).toBe(true);
  fs.appendFileSync(file, "# mine\n");
  expect(await undo(engine, {})).toMatchObject({ refused: [{ name: "vuoto-gather.desktop", code: "changed" }] });
  expect(fs.readFileSync(file, "utf8")).toContain("# mine");
  fs.rmSync(path.join(place.root, ".local"), { recursive: true });
  expect(changesSince(before, place)).toEqual([]);
});

test("at log-in Vuoto is started without a window; what others make of its entry is seen, and another program's is left alone", async () => {
  place = makePlace((root) => fs.mkdirSync(path.join(root, "Desktop"), { recursive: true }));
  engine = await place.open();
  const before = place.tree();
  const file = path.join(place.root, ".config/autostart/vuoto.desktop");
  const state = () => launchersNow(engine!).find(({ which }) => which === "at log-in")!.state;
  expect(state()).toBe("none");
  expect(await launcher(engine, { which: "at log-in" })).toMatchObject({ words: "Vuoto is started at log-in", refused: [] });
  const entry = readDesktopEntry(fs.readFileSync(file, "utf8"))!;
  const [node, command] = entry
    .get("Exec")!
    .split(" ")
    .filter((word) => !word.startsWith("--"));
  // Whole paths: at log-in there may be another PATH, or none.
  expect([node, fs.existsSync(command!)]).toEqual([process.execPath, true]);
  expect(entry.get("Exec")).toMatch(/ start --no-window$/);
  expect(state()).toBe("as made");
  fs.appendFileSync(file, "Hidden=true\n");
  expect(state()).toBe("changed");
  await launcher(engine, { which: "at log-in" });
  expect(state()).toBe("as made");
  // Undone, what the other program had made of it is back.
  await undo(engine, {});
  expect(fs.readFileSync(file, "utf8")).toContain("Hidden=true");
  fs.writeFileSync(file, "[Desktop Entry]\nType=Application\nName=Another\nExec=/bin/true\n");
  expect(state()).toBe("another's");
  for (const away of [false, true])
    await expect(launcher(engine, { which: "at log-in", away })).rejects.toMatchObject({ code: "name-taken" });
  expect(fs.readFileSync(file, "utf8")).toContain("Another");
  fs.rmSync(path.join(place.root, ".config"), { recursive: true });
  expect(changesSince(before, place)).toEqual([]);
});

test("its command is quoted so that any folder can be the account", async () => {
  place = makePlace((root) => fs.mkdirSync(path.join(root, 'it "costs" 5$ 100%\\', "Desktop"), { recursive: true }));
  const inner = { ...place, root: path.join(place.root, 'it "costs" 5$ 100%\\') };
  const { openEngine } = await import("../opening");
  engine = await openEngine({ root: inner.root as never, data: place.data });
  expect(await launcher(engine, { which: "gather" })).toMatchObject({ refused: [] });
  const file = path.join(inner.root, ".local/share/applications/vuoto-gather.desktop");
  const exec = readDesktopEntry(fs.readFileSync(file, "utf8"))!.get("Exec")!;
  // The words of an Exec value are quoted as in a shell, its percent signs doubled.
  const words = spawnSync("sh", ["-c", `printf '%s\\n' ${exec.replaceAll("%%", "%")}`], { encoding: "utf8" }).stdout.split("\n");
  expect(words).toContain(inner.root);
});

test("the one for quiet offers to begin each occasion, also those that come later, and is no longer followed once somebody changed it", async () => {
  place = makePlace((root) => fs.mkdirSync(path.join(root, "Desktop"), { recursive: true }));
  engine = await place.open();
  const file = path.join(place.root, ".local/share/applications/vuoto-quiet.desktop");
  const offers = () =>
    [
      ...fs
        .readFileSync(file, "utf8")
        .matchAll(/^\[Desktop Action (.*)\]\nName=(.*)\nExec=.* (occasion start -- .*|quiet off)$/gm),
    ].map(([, , name, runs]) => [name, runs]);
  await launcher(engine, { which: "quiet" });
  const first = [
    ["Bring everything back", "quiet off"],
    ["Begin: evening", "occasion start -- evening"],
    ["Begin: presenting", "occasion start -- presenting"],
    ["Begin: sharing the screen", 'occasion start -- "sharing the screen"'],
  ];
  expect(offers()).toEqual(first);
  const made = fs.readFileSync(file, "utf8");
  expect(readDesktopEntry(made)!.get("Actions")).toBe("everything;occasion-1;occasion-2;occasion-3;");
  await addOccasion(engine, { title: '-C:\\ 100% "off"', level: "bare" });
  expect(offers()[1]).toEqual(['Begin: -C:\\\\ 100% "off"', 'occasion start -- "-C:\\\\\\\\ 100%% \\\\"off\\\\""']);
  expect(launchersNow(engine).find(({ which }) => which === "quiet")!.state).toBe("as made");
  await undo(engine, {});
  expect(fs.readFileSync(file, "utf8")).toBe(made);
  await changeOccasion(engine, { occasion: "evening", does: "remove" });
  expect(offers()).toEqual(first.filter(([name]) => name !== "Begin: evening"));
  fs.appendFileSync(file, "# mine\n");
  await changeOccasion(engine, { occasion: "presenting", does: "remove" });
  expect(fs.readFileSync(file, "utf8")).toMatch(/Begin: presenting[\s\S]*# mine/);
});
