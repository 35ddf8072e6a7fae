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
  expect(vuoto("quiet", "status").out).toContain("The level is bare.");
  expect(vuoto("quiet", "toggle").status).toBe(0);
  expect(vuoto("trash", "list").out.trim().split("\n").length).toBeGreaterThanOrEqual(5);

  expect(vuoto("ledger").out.trim().split("\n").length).toBeGreaterThan(7);
  expect(vuoto("undo", "all").status).toBe(0);
  expect(changed(before)).toEqual([]);
  expect(vuoto("undo")).toMatchObject({ status: 3, err: expect.stringContaining("There is nothing to undo.") });
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
    [["wait", a!, "--until", "someday"], 2, /is no date/],
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
  // A failed archive leaves the thing collected in a parcel that is not sent: take that back too.
  vuoto("undo", "all");
  expect(changed(before)).toEqual([]);
});

test("an account that cannot be used is said", () => {
  expect(vuoto("survey")).toMatchObject({ status: 3, err: expect.stringContaining("neither a desktop nor a downloads folder") });
  fs.rmSync(account(), { recursive: true });
  expect(vuoto("survey")).toMatchObject({ status: 3, err: expect.stringContaining("does not exist or is not a folder") });
  fs.writeFileSync(account(), "a file");
  expect(vuoto("survey")).toMatchObject({ status: 3, err: expect.stringContaining("does not exist or is not a folder") });
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
