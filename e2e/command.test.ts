import { spawnSync } from "node:child_process";
import fs from "node:fs";
import os from "node:os";
import path from "node:path";
import { expect, test } from "@playwright/test";
import { makeHostileAccount, makeRandomAccount } from "../fixtures/accounts";
import { differences, readTree } from "../fixtures/compare-trees";
import { surveyAnswer } from "../src/contract/survey";

const root = path.dirname(import.meta.dirname);
let folder: string;
const account = () => path.join(folder, "account");

test.beforeEach(() => {
  folder = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), "vuoto-command-")));
  fs.mkdirSync(account());
});
test.afterEach(() => fs.rmSync(folder, { recursive: true, force: true }));

function vuoto(...words: string[]) {
  const done = spawnSync(
    process.execPath,
    [path.join(root, "bin/vuoto.mjs"), "--account", account(), "--data", path.join(folder, "data"), ...words],
    { encoding: "utf8", cwd: folder },
  );
  return { status: done.status, out: done.stdout, err: done.stderr };
}

const changed = (before: ReturnType<typeof readTree>) =>
  differences(before, readTree(account()), () => true).filter(
    (line) => !/^new: \.local(\/share(\/Trash(\/(files|info|directorysizes))?)?)?$/.test(line),
  );

test("the whole job by command, undone, leaves no difference", () => {
  makeRandomAccount(account(), 99, 40);
  const before = readTree(account());
  const names = fs.readdirSync(path.join(account(), "Bureau"));
  const [a, b, c, d, e, f] = names;

  const survey = vuoto("--json", "survey");
  expect(survey.status, survey.err).toBe(0);
  const answer = surveyAnswer.parse(JSON.parse(survey.out));
  expect(answer.worktops.map((w) => w.figures.items)).toEqual([names.length, 15]);
  expect(vuoto("survey", "downloads").out).toMatch(/15 things on the downloads/);

  expect(vuoto("put", "New / Deep", a!, path.join(account(), "Bureau", b!))).toMatchObject({
    status: 0,
    out: expect.stringContaining("Put 2 things into"),
  });
  expect(fs.readdirSync(path.join(account(), "Papers/New/Deep")).sort()).toEqual([a, b].sort());
  const home = fs.readdirSync(path.join(account(), "Papers"))[0]!;
  expect(vuoto("sweep", `Papers / ${home}`).status).toBe(0);
  const left = [c, d, e, f].filter((name) => fs.existsSync(path.join(account(), "Bureau", name!))) as string[];
  for (const [n, words] of [["stay"], ["wait", "--until", "2031-05-06"], ["let-go"]].entries())
    if (left[n]) expect(vuoto(...words, left[n]!), left[n]).toMatchObject({ status: 0 });
  fs.mkdirSync(path.join(folder, "disk"));
  expect(vuoto("depot", "add", path.join(folder, "disk"), "Disk").status).toBe(0);
  const rest = fs.readdirSync(path.join(account(), "Bureau")).slice(0, 4);
  expect(vuoto("archive", "Disk", ...rest, "--parcel", "Season").out).toContain("Archived 4 things to Disk");
  const sums = spawnSync("sha256sum", ["-c", "--quiet", "manifest-sha256.txt"], {
    cwd: path.join(folder, "disk/Season"),
    encoding: "utf8",
  });
  expect(sums).toMatchObject({ status: 0, stdout: "" });
  expect(vuoto("parcel", "check", "Season")).toMatchObject({ status: 0, out: expect.stringContaining("is whole") });
  expect(vuoto("parcel", "list").out).toContain("sent to Disk");

  expect(vuoto("quiet", "on").status).toBe(0);
  expect(fs.readdirSync(path.join(account(), "Bureau"))).toEqual([".out-of-sight"]);
  expect(vuoto("quiet", "status").out).toContain("Only the wallpaper is to be in sight.");
  expect(vuoto("quiet", "toggle").status).toBe(0);
  expect(vuoto("trash", "list").out.trim().split("\n").length).toBeGreaterThanOrEqual(5);

  expect(vuoto("ledger").out.trim().split("\n").length).toBeGreaterThan(7);
  expect(vuoto("undo", "all").status).toBe(0);
  expect(changed(before)).toEqual([]);
  expect(vuoto("undo")).toMatchObject({ status: 3, err: expect.stringContaining("There is nothing to undo.") });
});

test("homes by command: made, filled under new titles, refined, gathered and set out, undone without a difference", () => {
  const on = (name: string, content = name) => {
    fs.mkdirSync(path.dirname(path.join(account(), name)), { recursive: true });
    fs.writeFileSync(path.join(account(), name), content);
    fs.utimesSync(path.join(account(), name), 1_700_000_000, 1_700_000_000);
  };
  const lying = (place: string) => fs.readdirSync(path.join(account(), place)).sort();
  for (let n = 0; n < 10; n++) {
    on(`Documents/Station/Tides/high-water-${n}.csv`);
    on(`Documents/Letters/letter-harbour-${n}.txt`);
  }
  for (const name of ["high-water-may.csv", "Copy of a letter.txt", "quartz (2).bin", "slate.bin", "marble.bin"])
    on(`Desktop/${name}`);
  const shortcuts = ["gauge.desktop", "plotter.desktop", "rings.desktop"];
  for (const name of shortcuts) on(`Desktop/${name}`, "[Desktop Entry]\nType=Application\nExec=/bin/true\nCategories=Science;\n");
  const before = readTree(account());

  expect(vuoto("suggested").out).toMatch(/Desktop \/ Science +3 things +shortcuts for science/);
  expect(vuoto("make-home", "Stones / Hard", "Desktop / Daily").out).toContain("Made 2 homes");
  expect(lying("Desktop")).toContain("Daily");
  expect(
    vuoto("--dry-run", "put", "Documents / Stones / Hard", "quartz (2).bin", "slate.bin", "--title", "stone {number}").out,
  ).toContain("slate.bin from Desktop to Documents / Stones / Hard as stone 2.bin");
  vuoto("put", "Documents / Stones", "quartz (2).bin", "slate.bin", "--title", "{date} {short}");
  expect(lying("Documents/Stones")).toEqual(["2023-11-14 quartz.bin", "2023-11-14 slate.bin", "Hard"]);
  // Stones is an area now, with a home in it.
  expect(vuoto("finer").out).toContain("2023-11-14 slate.bin");
  vuoto("put", "Documents / Stones / Hard", path.join(account(), "Documents/Stones/2023-11-14 slate.bin"));
  expect(lying("Documents/Stones/Hard")).toEqual(["2023-11-14 slate.bin"]);
  expect(vuoto("retitle", "{short}", "Copy of a letter.txt").out).toContain("Called Copy of a letter.txt letter.txt");
  expect(vuoto("retitle", "{size}", "letter.txt")).toMatchObject({ status: 3, err: expect.stringContaining("is no pattern") });
  expect(vuoto("sweep", "--title", "{short}")).toMatchObject({ status: 2, err: expect.stringContaining("goes with one home") });
  expect(vuoto("gather", "--except", "*.txt").status).toBe(0);
  expect(lying("Desktop")).toEqual(["Gathered", "letter.txt"]);
  expect(vuoto("gatherings").out).toContain("Gathered");
  expect(vuoto("set-out").status).toBe(0);
  expect(lying("Desktop")).toEqual(["Daily", ...shortcuts, "high-water-may.csv", "letter.txt", "marble.bin"].sort());
  expect(vuoto("launcher").status).toBe(0);
  const launcher = path.join(account(), ".local/share/applications/vuoto-gather.desktop");
  const exec = /^Exec=(.*)$/m.exec(fs.readFileSync(launcher, "utf8"))![1]!;
  // What the launcher runs is the command itself.
  const ran = spawnSync("sh", ["-c", exec], { encoding: "utf8", cwd: folder });
  expect(ran, ran.stderr).toMatchObject({ status: 0 });
  expect(lying("Desktop")).toEqual(["Gathered"]);

  expect(vuoto("undo", "all").status).toBe(0);
  expect(changed(before).filter((line) => !/^new: \.local(\/share(\/applications)?)?$/.test(line))).toEqual([]);
});

test("names are bytes on the command line too", () => {
  makeHostileAccount(account());
  const before = readTree(account());
  const desktop = path.join(account(), "Desktop");
  const drawn = fs.readdirSync(desktop, { encoding: "buffer" }).filter((name) => name[0] !== 0x2e);
  // The shell passes the bytes; Node's own arguments could not.
  const script = `cd "$1" && shift && for n in *; do printf '%s\\0' "$n"; done | xargs -0 "$@" let-go --`;
  const words = [
    desktop,
    process.execPath,
    path.join(root, "bin/vuoto.mjs"),
    "--account",
    account(),
    "--data",
    path.join(folder, "data"),
  ];
  const done = spawnSync("bash", ["-c", script, "bash", ...words], { encoding: "utf8", env: { ...process.env, LC_ALL: "C" } });
  expect(done.status, done.stdout + done.stderr).toBe(0);
  expect(fs.readdirSync(path.join(account(), ".local/share/Trash/files"))).toHaveLength(drawn.length);
  expect(vuoto("undo").status).toBe(0);
  expect(changed(before)).toEqual([]);
});

test("a trial changes nothing, and says what it would do", () => {
  makeRandomAccount(account(), 3, 10);
  const before = readTree(account());
  const [a] = fs.readdirSync(path.join(account(), "Bureau"));
  const trial = vuoto("--dry-run", "let-go", a!);
  expect(trial.status).toBe(0);
  expect(trial.out).toContain(`${a} from Bureau to the trash`);
  expect(changed(before)).toEqual([]);
});

test("what is wrong is said in a sentence, with its exit status, and nothing is changed", () => {
  makeRandomAccount(account(), 4, 10);
  const before = readTree(account());
  const [a] = fs.readdirSync(path.join(account(), "Bureau"));
  const cases: [string[], number, RegExp][] = [
    [["nonsense"], 2, /unknown command/],
    [["put"], 2, /missing required argument/],
    [["wait", a!, "--until", "someday"], 2, /names no day ahead/],
    [["undo", "first"], 2, /is no entry's number/],
    [["survey", "attic"], 2, /is no worktop/],
    [["let-go", "not there"], 3, /is not on your worktops/],
    [["undo", "12345"], 3, /has no entry 12345/],
    [["archive", "Nowhere", a!], 3, /no depot called Nowhere/],
    [["depot", "add", "/no/such"], 3, /there is no such folder/],
    [["depot", "add", account()], 3, /worktop, a home or the trash/],
    [["parcel", "check", "none"], 3, /no parcel called none/],
    [["trash", "restore", "none"], 3, /is not in the trash/],
    [["put", "/etc", a!], 3, /home|outside/],
    [["quiet", "off"], 3, /already shows exactly that/],
  ];
  for (const [words, status, sentence] of cases) {
    const done = vuoto(...words);
    expect(done.status, `${words.join(" ")}: ${done.out}${done.err}`).toBe(status);
    expect(done.out + done.err).toMatch(sentence);
    expect(done.err).not.toMatch(/\bat .*\.mjs:/);
  }
  const json = vuoto("--json", "let-go", "not there");
  expect(JSON.parse(json.out)).toMatchObject({ code: "unknown-item", status: 404 });
  // Nothing was collected for the depot that there is not.
  expect(vuoto("ledger").out).toBe("Nothing has been done yet.\n");
  expect(changed(before)).toEqual([]);
});

test("scripts are told what they lack; a reader that has enough ends it without a trace; a full device is said", () => {
  makeRandomAccount(account(), 11, 30);
  const [a] = fs.readdirSync(path.join(account(), "Bureau"));
  expect(vuoto("let-go", a!).status).toBe(0);
  expect(vuoto("trash", "empty")).toMatchObject({ status: 2, err: expect.stringContaining("Add --yes") });
  expect(vuoto("--help").out).toContain("Exit status: 0 done, 1 some of it refused, 2 wrong words, 3 nothing done.");
  expect(vuoto("demo")).toMatchObject({ status: 2, err: expect.stringContaining("demo takes no --account and no --data") });
  const command = `"${process.execPath}" "${path.join(root, "bin/vuoto.mjs")}" --account "${account()}" --data "${path.join(folder, "data")}"`;
  const shell = (words: string) => spawnSync("bash", ["-c", words], { encoding: "utf8", cwd: folder });
  expect(shell(`${command} survey | head -1`)).toMatchObject({ status: 0, stderr: "" });
  const full = shell(`${command} survey > /dev/full`);
  expect(full.status).toBe(3);
  expect(full.stderr.trim().split("\n")).toEqual(["What Vuoto says could not be written: ENOSPC."]);
});

test("a depot is named by its title, its folder or its id, from wherever the command is given", () => {
  makeRandomAccount(account(), 12, 12);
  const [a, b, c] = fs.readdirSync(path.join(account(), "Bureau"));
  fs.mkdirSync(path.join(folder, "disk"));
  expect(vuoto("depot", "add", "disk", "Shelf").status).toBe(0);
  const depots = JSON.parse(vuoto("--json", "depot", "list").out) as { id: string }[];
  for (const [depot, item] of [
    ["Shelf", a],
    ["./disk", b],
    [depots[0]!.id, c],
  ])
    expect(vuoto("archive", depot!, item!, "--parcel", item!)).toMatchObject({ status: 0 });
  const away = spawnSync(
    process.execPath,
    [path.join(root, "bin/vuoto.mjs"), "--account", account(), "--data", path.join(folder, "data"), "depot", "remove", "~/disk"],
    { encoding: "utf8", env: { ...process.env, HOME: folder } },
  );
  expect(away, away.stderr).toMatchObject({ status: 0 });
});

test("an account that cannot be used is said", () => {
  expect(vuoto("survey")).toMatchObject({ status: 3, err: expect.stringContaining("neither a desktop nor a downloads folder") });
  fs.rmSync(account(), { recursive: true });
  expect(vuoto("survey")).toMatchObject({ status: 3, err: expect.stringContaining("does not exist or is not a folder") });
  fs.writeFileSync(account(), "a file");
  expect(vuoto("survey")).toMatchObject({ status: 3, err: expect.stringContaining("does not exist or is not a folder") });
});

test("where it cannot be told whose a connection is nothing is served, and commands work", () => {
  makeRandomAccount(account(), 7, 3);
  // A system on which the tables of connections cannot be read.
  const blind = path.join(folder, "blind.mjs");
  fs.writeFileSync(
    blind,
    `import fs from "node:fs";
     const read = fs.readFileSync;
     fs.readFileSync = (file, ...more) => {
       if (/^\\/proc\\/net\\/tcp6?$/.test(String(file))) throw Object.assign(new Error("EACCES"), { code: "EACCES" });
       return read(file, ...more);
     };`,
  );
  const run = (...words: string[]) =>
    spawnSync(
      process.execPath,
      [path.join(root, "bin/vuoto.mjs"), "--account", account(), "--data", path.join(folder, "data"), ...words],
      { encoding: "utf8", timeout: 60_000, env: { ...process.env, NODE_OPTIONS: `--import=${blind}` } },
    );
  const started = run("start");
  expect([started.status, started.stdout]).toEqual([3, ""]);
  expect(started.stderr).toContain("This computer does not say which user a connection comes from.");
  expect(run("survey").status).toBe(0);
});

test("some refused is status 1, all refused is status 3", () => {
  makeRandomAccount(account(), 5, 12);
  const names = fs.readdirSync(path.join(account(), "Bureau")).filter((name) => name.endsWith(".txt"));
  fs.writeFileSync(path.join(account(), "Bureau", `.~lock.${names[0]}#`), "");
  expect(vuoto("let-go", names[0]!)).toMatchObject({ status: 3, out: expect.stringContaining("Nothing was done.") });
  expect(vuoto("let-go", names[0]!, names[1]!)).toMatchObject({
    status: 1,
    out: expect.stringContaining("is in use: its lock file"),
  });
});

test("a depot whose folder is gone is said, and the originals stay", () => {
  makeRandomAccount(account(), 6, 10);
  fs.mkdirSync(path.join(folder, "disk"));
  expect(vuoto("depot", "add", path.join(folder, "disk")).status).toBe(0);
  fs.rmdirSync(path.join(folder, "disk"));
  const [a] = fs.readdirSync(path.join(account(), "Bureau"));
  const sent = vuoto("archive", "disk", a!);
  expect(sent).toMatchObject({ status: 3, err: expect.stringContaining("cannot be reached") });
  expect(fs.existsSync(path.join(account(), "Bureau", a!))).toBe(true);
  expect(vuoto("depot", "list").out).toContain("not there");
});
