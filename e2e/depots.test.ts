import { type ChildProcess, execFileSync, fork } from "node:child_process";
import fs from "node:fs";
import path from "node:path";
import type { Page } from "@playwright/test";
import type { CloudSettings } from "../src/standins/cloud/cloud";
import { readCloudFile, writeCloudFile } from "../src/standins/cloud/cloud-file";
import { violations } from "./axe";
import { enter, expect, startVuoto, test } from "./vuoto";

const heading = (page: Page) => page.getByRole("heading", { level: 1 });
const foot = (page: Page) => page.getByRole("contentinfo");
const parcel = (page: Page, title: string) => page.getByRole("region", { name: `parcel ${title}` });
const depot = (page: Page, title: string) => page.getByRole("region", { name: `depot ${title}` });

const count = 40;

function lay(account: string) {
  for (const folder of ["Desktop/station log/2024", "Documents"]) fs.mkdirSync(path.join(account, folder), { recursive: true });
  const write = (name: string, content: string | Buffer) => {
    const file = path.join(account, "Desktop", name);
    fs.writeFileSync(file, content);
    fs.utimesSync(file, 1.7e9, 1.7e9);
  };
  for (let n = 0; n < count; n++) write(`nest ${n}.csv`, `nest,${n}\n`.repeat(200 + n));
  for (let n = 0; n < 6; n++) write(`station log/2024/day ${n}.txt`, `day ${n}\n`.repeat(500));
  write("calls.wav", Buffer.alloc(2_000_000, "kittiwake"));
}

const clouds = new Set<Cloud>();
test.afterEach(async () => {
  for (const cloud of clouds) await cloud.kill();
  clouds.clear();
});

/** The stand-in as a process of its own, as the demo starts it. */
class Cloud {
  private child: ChildProcess | undefined;
  url = "";

  constructor(
    readonly kept: string,
    private readonly file: string,
  ) {}

  set(change: Partial<CloudSettings>): void {
    const { port, settings } = readCloudFile(this.file);
    writeCloudFile(this.file, { port, settings: { ...settings, ...change } });
  }

  /** Also once more, at the same address and over the same folder. */
  async start(): Promise<void> {
    const child = fork(path.resolve("dist/cloud.mjs"), [this.kept, this.file], { stdio: "ignore" });
    this.child = child;
    clouds.add(this);
    this.url = await new Promise((ready) => child.once("message", (said) => ready((said as { url: string }).url)));
  }

  async kill(): Promise<void> {
    const { child } = this;
    if (!child || child.exitCode !== null || child.signalCode !== null) return;
    const ended = new Promise((done) => child.once("exit", done));
    child.kill("SIGKILL");
    await ended;
  }
}

test("the whole job with a cloud: signed in, too full, failing, killed in the middle; read back, let go, brought back", async ({
  page,
}) => {
  const vuoto = await startVuoto(lay);
  const kept = path.join(vuoto.folder, "cloud");
  const cloud = new Cloud(kept, path.join(vuoto.folder, "cloud.json"));
  cloud.set({ latency: 15 });
  await cloud.start();
  try {
    const before = vuoto.tree();
    await enter(page, vuoto.enter);
    await page.goto(`${vuoto.base}/depots`);
    await expect(heading(page)).toHaveText("No parcel is on its way.");

    // A wrong password is said, and nothing is kept; the right one is tried, and is.
    await page.getByRole("button", { name: "add a depot" }).click();
    await page.getByLabel("A folder, a drive, or the address of a cloud").fill(cloud.url);
    await page.getByLabel("Your user name there").fill("station");
    await page.getByLabel("The password").fill("wrong");
    await page.getByLabel("What you call it").fill("Station cloud");
    expect(await violations(page)).toEqual([]);
    await page.getByRole("button", { name: "Add it" }).click();
    await expect(page.getByText("does not accept the sign-in")).toBeVisible();
    await page.getByLabel("The password").fill("gannet");
    await page.getByRole("button", { name: "Add it" }).click();
    await expect(depot(page, "Station cloud")).toBeVisible();

    const items = fs.readdirSync(path.join(vuoto.account, "Desktop")).map((name) => ({
      path: btoa(path.join(vuoto.account, "Desktop", name)),
    }));
    await vuoto.ask("sitting/archive", { items, parcel: "Season 12" });
    await expect(heading(page)).toHaveText("One parcel is not sent yet.");

    // It fills up in the middle: said, and everything lies where it was.
    cloud.set({ quota: 1_200_000, fail: ["PUT=503/7", "*=cut/23"] });
    await page.getByRole("button", { name: "Send to Station cloud" }).click();
    await expect(parcel(page, "Season 12")).toContainText("There is no room left in Station cloud");
    expect(vuoto.changes(before)).toEqual([]);
    expect(await violations(page)).toEqual([]);

    // With room it goes on, under failures. Vuoto is killed in the middle, and then the cloud; both are started again.
    cloud.set({ quota: null, latency: 40 });
    await parcel(page, "Season 12").getByRole("button", { name: "go on" }).click();
    await expect(parcel(page, "Season 12")).toContainText("being sent");
    const sent = () => fs.readdirSync(kept, { recursive: true }).length;
    await expect.poll(sent, { intervals: [50] }).toBeGreaterThan(count / 4);
    await vuoto.kill();
    expect(vuoto.changes(before)).toEqual([]);
    await vuoto.again();
    await page.goto(`${vuoto.base}/depots`);
    await expect(parcel(page, "Season 12")).toContainText("Station cloud");
    await cloud.kill();
    await expect(parcel(page, "Season 12")).toContainText("it is tried again in");
    expect(vuoto.changes(before)).toEqual([]);
    await cloud.start();
    await parcel(page, "Season 12").getByRole("button", { name: "try now" }).click();
    await expect(heading(page)).toHaveText("One parcel arrived, whole.", { timeout: 200_000 });
    await expect(foot(page)).toContainText(`Archived ${count + 2} things to Station cloud in the parcel “Season 12”`);
    expect(fs.readdirSync(path.join(vuoto.account, "Desktop"))).toEqual([]);
    expect(fs.readdirSync(kept)).toEqual(["Season 12"]);
    for (const manifest of ["manifest-sha256.txt", "tagmanifest-sha256.txt"])
      execFileSync("sha256sum", ["-c", "--quiet", "--strict", manifest], { cwd: path.join(kept, "Season 12") });

    // The trash is emptied: from now on only the cloud has them.
    expect((await vuoto.command("trash", "empty", "--yes")).status).toBe(0);

    // Looked into, one file brought back, then everything.
    await page.reload();
    await page.getByRole("button", { name: "look into it" }).click();
    await page.getByRole("button", { name: "station log" }).click();
    await page.getByRole("button", { name: "2024" }).click();
    await page.getByLabel("mark day 3.txt").check();
    expect(await violations(page)).toEqual([]);
    await page.getByRole("button", { name: "Bring 1 marked one back" }).click();
    await expect(foot(page)).toContainText("Brought day 3.txt back from the parcel “Season 12”");
    await page.keyboard.press("Escape");
    await page.keyboard.press("z");
    await expect(foot(page)).toContainText("Undone: Brought day 3.txt back");
    await page.getByRole("button", { name: "bring everything back" }).click();
    await expect(foot(page)).toContainText(`Brought ${count + 2} things back from the parcel`);
    expect(vuoto.changes(before)).toEqual([]);

    // Found by a name while the cloud does not answer; checked when it does.
    cloud.set({ down: true });
    await page.getByLabel(/Find a file in all parcels/).fill("day 4");
    await page.getByRole("button", { name: "find", exact: true }).click();
    await expect(page.getByText("station log/2024/day 4.txt")).toBeVisible();
    cloud.set({ down: false });
    await expect(async () => {
      await page.reload();
      await page.getByRole("button", { name: "check it now" }).click({ timeout: 2000 });
      await expect(page.getByText(/It is whole: \d+ files/)).toBeVisible({ timeout: 10_000 });
    }).toPass({ timeout: 200_000 });
    expect(await violations(page)).toEqual([]);

    // Deleted for good, once that was asked.
    await parcel(page, "Season 12").getByRole("button", { name: "delete" }).click();
    await expect(page.getByText("This cannot be undone.")).toBeVisible();
    expect(await violations(page)).toEqual([]);
    await page.getByRole("button", { name: "Delete it for good" }).click();
    await expect(heading(page)).toHaveText("No parcel is on its way.");
    expect(fs.readdirSync(kept)).toEqual([]);
    expect(vuoto.changes(before)).toEqual([]);
  } finally {
    await vuoto.stop();
  }
});

test("several parcels: fitted together, sent where each has room, a cloud read over within a bound a month", async ({
  page,
  open,
}) => {
  const vuoto = await open(lay);
  const kept = path.join(vuoto.folder, "cloud");
  const cloud = new Cloud(kept, path.join(vuoto.folder, "cloud.json"));
  // Room for the sounds, or for the nests.
  cloud.set({ quota: 2_100_000 });
  await cloud.start();
  const before = vuoto.tree();
  fs.mkdirSync(path.join(vuoto.folder, "disk"));
  await vuoto.ask("depots/add", { location: path.join(vuoto.folder, "disk"), title: "Disk" });
  await vuoto.ask("depots/add", { location: cloud.url, title: "Station cloud", user: "station", password: "gannet" });
  const named = (names: string[]) => names.map((name) => ({ path: btoa(path.join(vuoto.account, "Desktop", name)) }));
  const nests = Array.from({ length: count }, (_, n) => `nest ${n}.csv`);
  await vuoto.ask("sitting/archive", { items: named(nests), parcel: "Nests" });
  await vuoto.ask("sitting/archive", { items: named(["calls.wav"]), parcel: "Calls" });
  await page.goto(vuoto.base);
  await page.goto(`${vuoto.base}/depots`);
  await expect(heading(page)).toHaveText("2 parcels are not sent yet.");
  // Too little room is said before one goes; what a cloud has is asked anew once that was a while ago.
  const tooLittle = page.getByRole("option", { name: "Station cloud, too little room", includeHidden: true });
  await expect(tooLittle).toHaveCount(0);
  cloud.set({ quota: 1000 });
  await vuoto.pass(30_000);
  await page.reload();
  await expect(tooLittle).toHaveCount(2);
  await parcel(page, "Nests").getByRole("combobox").selectOption("Station cloud, too little room");
  await expect(parcel(page, "Nests")).toContainText("Station cloud has too little room for it");
  cloud.set({ quota: 2_100_000 });
  await vuoto.pass(30_000);
  await page.reload();
  await expect(tooLittle).toHaveCount(0);

  await page.getByRole("button", { name: "see where all of them have room" }).click();
  const dialog = page.getByRole("dialog", { name: "Where they have room" });
  await expect(dialog.getByRole("listitem")).toHaveCount(2);
  expect(await violations(page)).toEqual([]);
  const said = await dialog.getByRole("listitem").allInnerTexts();
  const placeOf = (title: string) => /to (Disk|Station cloud)/.exec(said.find((line) => line.includes(title))!)![1]!;
  await dialog.getByRole("button", { name: "Send these 2" }).click();
  await expect(heading(page)).toHaveText("2 parcels arrived, whole.");
  for (const title of ["Nests", "Calls"]) {
    const at = path.join(placeOf(title) === "Disk" ? path.join(vuoto.folder, "disk") : kept, title);
    execFileSync("sha256sum", ["-c", "--quiet", "--strict", "manifest-sha256.txt"], { cwd: at });
    await expect(parcel(page, title)).toContainText(placeOf(title));
  }

  await depot(page, "Station cloud").getByRole("button", { name: "check it by itself, in turn" }).click();
  await page.getByLabel("Gigabytes a month at most").fill("none");
  await expect(page.getByRole("button", { name: "Check it in turn" })).toBeDisabled();
  expect(await violations(page)).toEqual([]);
  await page.getByLabel("Gigabytes a month at most").fill("0,3");
  await page.keyboard.press("Enter");
  await expect(depot(page, "Station cloud")).toContainText("reads 300.0 MB a month at most");
  await vuoto.ask("ledger/undo", { entry: "all" });
  expect(vuoto.changes(before)).toEqual([]);
});
