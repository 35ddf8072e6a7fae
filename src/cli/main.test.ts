import { execFile, spawnSync } from "node:child_process";
import { once } from "node:events";
import fs from "node:fs";
import net from "node:net";
import path from "node:path";
import { promisify } from "node:util";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { surveyAnswer } from "@/contract/survey";
import { makeRandomAccount } from "../../fixtures/accounts";
import { changedSince, readTree } from "../../fixtures/compare-trees";
import { makePlace, type Place } from "../../fixtures/engine";
import { said } from "../../fixtures/said";
import { type Served, serveAccount } from "../../fixtures/served";
import { main } from "./main";

let place: Place;
let served: Served | undefined;
const account = () => place.root;
const serve = async () => {
  served = await serveAccount(place);
};

beforeEach(() => {
  place = makePlace(() => {});
});
afterEach(async () => {
  vi.restoreAllMocks();
  vi.unstubAllEnvs();
  await served?.close();
  served = undefined;
  place.remove();
});

const vuoto = (...words: string[]) => said(main, "--account", account(), "--data", place.data, ...words);
const changed = (before: ReturnType<typeof readTree>) => changedSince(before, account());

test("the whole job by command, undone, leaves no difference", async () => {
  makeRandomAccount(account(), 99, 40);
  await serve();
  const before = readTree(account());
  const names = fs.readdirSync(path.join(account(), "Bureau"));
  const [a, b, c, d, e, f] = names;

  const survey = await vuoto("--json", "survey");
  expect(survey.status, survey.err).toBe(0);
  const answer = surveyAnswer.parse(JSON.parse(survey.out));
  expect(answer.worktops.map((w) => w.figures.items)).toEqual([names.length, 15]);
  expect((await vuoto("survey", "downloads")).out).toMatch(/15 things on the downloads/);

  expect(await vuoto("put", "New / Deep", a!, path.join(account(), "Bureau", b!))).toMatchObject({
    status: 0,
    out: expect.stringContaining("Put 2 things into"),
  });
  expect(fs.readdirSync(path.join(account(), "Papers/New/Deep")).sort()).toEqual([a, b].sort());
  const home = fs.readdirSync(path.join(account(), "Papers"))[0]!;
  expect((await vuoto("sweep", `Papers / ${home}`)).status).toBe(0);
  const left = [c, d, e, f].filter((name) => fs.existsSync(path.join(account(), "Bureau", name!))) as string[];
  for (const [n, words] of [["stay"], ["wait", "--until", "2031-05-06"], ["let-go"]].entries())
    if (left[n]) expect(await vuoto(...words, left[n]!), left[n]).toMatchObject({ status: 0 });
  fs.mkdirSync(path.join(place.folder, "disk"));
  expect((await vuoto("depot", "add", path.join(place.folder, "disk"), "Disk")).status).toBe(0);
  const rest = fs.readdirSync(path.join(account(), "Bureau")).slice(0, 4);
  expect((await vuoto("archive", "Disk", ...rest, "--parcel", "Season")).out).toContain("Archived 4 things to Disk");
  const sums = spawnSync("sha256sum", ["-c", "--quiet", "manifest-sha256.txt"], {
    cwd: path.join(place.folder, "disk/Season"),
    encoding: "utf8",
  });
  expect(sums).toMatchObject({ status: 0, stdout: "" });
  expect(await vuoto("parcel", "check", "Season")).toMatchObject({ status: 0, out: expect.stringContaining("is whole") });
  expect((await vuoto("parcel", "list")).out).toContain("sent to Disk");

  expect((await vuoto("quiet", "on")).status).toBe(0);
  expect(fs.readdirSync(path.join(account(), "Bureau"))).toEqual([".out-of-sight"]);
  expect((await vuoto("quiet", "status")).out).toContain("Only the wallpaper is to be in sight.");
  expect((await vuoto("quiet", "toggle")).status).toBe(0);
  expect((await vuoto("trash", "list")).out.trim().split("\n").length).toBeGreaterThanOrEqual(5);

  expect((await vuoto("ledger")).out.trim().split("\n").length).toBeGreaterThan(7);
  expect((await vuoto("undo", "all")).status).toBe(0);
  expect(changed(before)).toEqual([]);
  expect(await vuoto("undo")).toMatchObject({ status: 3, err: expect.stringContaining("There is nothing to undo.") });
});

test("homes by command: made, filled under new titles, refined, gathered and set out, undone without a difference", async () => {
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

  expect((await vuoto("suggested")).out).toMatch(/Desktop \/ Science +3 things +shortcuts for science/);
  expect((await vuoto("make-home", "Stones / Hard", "Desktop / Daily")).out).toContain("Made 2 homes");
  expect(lying("Desktop")).toContain("Daily");
  expect(
    (await vuoto("--dry-run", "put", "Documents / Stones / Hard", "quartz (2).bin", "slate.bin", "--title", "stone {number}"))
      .out,
  ).toContain("slate.bin from Desktop to Documents / Stones / Hard as stone 2.bin");
  await vuoto("put", "Documents / Stones", "quartz (2).bin", "slate.bin", "--title", "{date} {short}");
  expect(lying("Documents/Stones")).toEqual(["2023-11-14 quartz.bin", "2023-11-14 slate.bin", "Hard"]);
  // Stones is an area now, with a home in it.
  expect((await vuoto("finer")).out).toContain("2023-11-14 slate.bin");
  await vuoto("put", "Documents / Stones / Hard", path.join(account(), "Documents/Stones/2023-11-14 slate.bin"));
  expect(lying("Documents/Stones/Hard")).toEqual(["2023-11-14 slate.bin"]);
  expect((await vuoto("retitle", "{short}", "Copy of a letter.txt")).out).toContain("Called Copy of a letter.txt letter.txt");
  expect(await vuoto("retitle", "{size}", "letter.txt")).toMatchObject({
    status: 3,
    err: expect.stringContaining("is no pattern"),
  });
  expect(await vuoto("sweep", "--title", "{short}")).toMatchObject({
    status: 2,
    err: expect.stringContaining("goes with one home"),
  });
  expect((await vuoto("gather", "--except", "*.txt")).status).toBe(0);
  expect(lying("Desktop")).toEqual(["Gathered", "letter.txt"]);
  expect((await vuoto("gatherings")).out).toContain("Gathered");
  expect((await vuoto("set-out")).status).toBe(0);
  expect(lying("Desktop")).toEqual(["Daily", ...shortcuts, "high-water-may.csv", "letter.txt", "marble.bin"].sort());
  expect((await vuoto("launcher")).status).toBe(0);
  const launcher = path.join(account(), ".local/share/applications/vuoto-gather.desktop");
  const exec = /^Exec=(.*)$/m.exec(fs.readFileSync(launcher, "utf8"))![1]!;
  // What the launcher runs is the command itself.
  await promisify(execFile)("sh", ["-c", exec], { cwd: place.folder });
  expect(lying("Desktop")).toEqual(["Gathered"]);

  expect((await vuoto("undo", "all")).status).toBe(0);
  expect(changed(before).filter((line) => !/^new: \.local(\/share(\/applications)?)?$/.test(line))).toEqual([]);
});

test("a trial changes nothing, and says what it would do", async () => {
  makeRandomAccount(account(), 3, 10);
  const before = readTree(account());
  const [a] = fs.readdirSync(path.join(account(), "Bureau"));
  const trial = await vuoto("--dry-run", "let-go", a!);
  expect(trial.status).toBe(0);
  expect(trial.out).toContain(`${a} from Bureau to the trash`);
  expect(changed(before)).toEqual([]);
});

test("what is wrong is said in a sentence, with its exit status, and nothing is changed", async () => {
  makeRandomAccount(account(), 4, 10);
  await serve();
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
    const done = await vuoto(...words);
    expect(done.status, `${words.join(" ")}: ${done.out}${done.err}`).toBe(status);
    expect(done.out + done.err).toMatch(sentence);
    expect(done.err).not.toMatch(/\bat .*\.mjs:/);
  }
  const json = await vuoto("--json", "let-go", "not there");
  expect(JSON.parse(json.out)).toMatchObject({ code: "unknown-item", status: 404 });
  // Nothing was collected for the depot that there is not.
  expect((await vuoto("ledger")).out).toBe("Nothing has been done yet.\n");
  expect(changed(before)).toEqual([]);
});

test("a depot is named by its title, its folder or its id, from wherever the command is given", async () => {
  makeRandomAccount(account(), 12, 12);
  const [a, b, c] = fs.readdirSync(path.join(account(), "Bureau"));
  fs.mkdirSync(path.join(place.folder, "disk"));
  vi.stubEnv("VUOTO_ROOT", process.cwd());
  vi.spyOn(process, "cwd").mockReturnValue(place.folder);
  expect(await vuoto("depot", "add", "disk", "Shelf")).toMatchObject({ status: 0, err: "" });
  const depots = JSON.parse((await vuoto("--json", "depot", "list")).out) as { id: string }[];
  for (const [depot, item] of [
    ["Shelf", a],
    ["./disk", b],
    [depots[0]!.id, c],
  ])
    expect(await vuoto("archive", depot!, item!, "--parcel", item!)).toMatchObject({ status: 0 });
  vi.stubEnv("HOME", place.folder);
  const away = await vuoto("depot", "remove", "~/disk");
  expect(away, away.err).toMatchObject({ status: 0 });
});

test("an account that cannot be used is said", async () => {
  expect(await vuoto("survey")).toMatchObject({
    status: 3,
    err: expect.stringContaining("neither a desktop nor a downloads folder"),
  });
  fs.rmSync(account(), { recursive: true });
  expect(await vuoto("survey")).toMatchObject({ status: 3, err: expect.stringContaining("does not exist or is not a folder") });
  fs.writeFileSync(account(), "a file");
  expect(await vuoto("survey")).toMatchObject({ status: 3, err: expect.stringContaining("does not exist or is not a folder") });
});

test("where it cannot be told whose a connection is nothing is served, and commands work", async () => {
  makeRandomAccount(account(), 7, 3);
  // A system on which the tables of connections cannot be read.
  const read = fs.readFileSync;
  vi.spyOn(fs, "readFileSync").mockImplementation(((file: string, ...more: [BufferEncoding]) => {
    if (/^\/proc\/net\/tcp6?$/.test(String(file))) throw Object.assign(new Error("EACCES"), { code: "EACCES" });
    return read(file, ...more);
  }) as typeof fs.readFileSync);
  expect(await vuoto("start")).toMatchObject({
    status: 3,
    out: "",
    err: expect.stringContaining("This computer does not say which user a connection comes from."),
  });
  expect((await vuoto("survey")).status).toBe(0);
});

test("some refused is status 1, all refused is status 3", async () => {
  makeRandomAccount(account(), 5, 12);
  const names = fs.readdirSync(path.join(account(), "Bureau")).filter((name) => name.endsWith(".txt"));
  fs.writeFileSync(path.join(account(), "Bureau", `.~lock.${names[0]}#`), "");
  expect(await vuoto("let-go", names[0]!)).toMatchObject({ status: 3, out: expect.stringContaining("Nothing was done.") });
  expect(await vuoto("let-go", names[0]!, names[1]!)).toMatchObject({
    status: 1,
    out: expect.stringContaining("is in use: its lock file"),
  });
});

test("a depot whose folder is gone is said, and the originals stay", async () => {
  makeRandomAccount(account(), 6, 10);
  fs.mkdirSync(path.join(place.folder, "disk"));
  expect((await vuoto("depot", "add", path.join(place.folder, "disk"))).status).toBe(0);
  fs.rmdirSync(path.join(place.folder, "disk"));
  const [a] = fs.readdirSync(path.join(account(), "Bureau"));
  const sent = await vuoto("archive", "disk", a!);
  expect(sent).toMatchObject({ status: 3, err: expect.stringContaining("cannot be reached") });
  expect(fs.existsSync(path.join(account(), "Bureau", a!))).toBe(true);
  expect((await vuoto("depot", "list")).out).toContain("not there");
});

test("a second start says where the first one runs, and the port asked for must be free", async () => {
  makeRandomAccount(account(), 6, 3);
  await serve();
  const again = await vuoto("start");
  expect([again.status, again.out]).toEqual([0, expect.stringMatching(/already runs .+ lets one browser in/s)]);
  expect(again.out).toContain(served!.base);
  const other = net.createServer().listen(0, "127.0.0.1");
  await once(other, "listening");
  const { port } = other.address() as net.AddressInfo;
  const taken = await vuoto("--data", path.join(place.folder, "other"), "start", "--port", String(port));
  other.close();
  expect([taken.status, taken.err]).toEqual([3, expect.stringContaining("is in use by another program")]);
});

test("what every command takes is said, and what the demo does not take", async () => {
  makeRandomAccount(account(), 11, 3);
  expect((await vuoto("--help")).out).toContain("Exit status: 0 done, 1 some of it refused, 2 wrong words, 3 nothing done.");
  expect(await vuoto("demo")).toMatchObject({
    status: 2,
    err: expect.stringContaining("demo takes no --account and no --data"),
  });
});
