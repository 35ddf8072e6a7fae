import { spawnSync } from "node:child_process";
import fs from "node:fs";
import path from "node:path";
import { type Browser, chromium, type Page } from "@playwright/test";
import { Chance } from "@/demo/chance";
import { makeSample } from "@/demo/make-sample";
import { serve } from "./busy";
import { browserWords, folder, root, rows } from "./measure";

const verdicts = 200;
/** Milliseconds between two verdicts, as in a quick sitting; the first twenty come as fast as they are shown. */
const thinking = (chance: Chance) => 350 + 500 * chance.next();
const hasty = 20;

/** Forms that the sample has none of, by tools of the system; what is not there is left out. */
function addForms(desktop: string): void {
  const font = path.join(root, "node_modules/@fontsource-variable/schibsted-grotesk/files");
  const [file] = fs.readdirSync(font).filter((name) => name.endsWith(".woff2"));
  fs.copyFileSync(path.join(font, file!), path.join(desktop, "schibsted.woff2"));
  fs.writeFileSync(
    path.join(desktop, "nests.geojson"),
    JSON.stringify({
      type: "Feature",
      geometry: {
        type: "LineString",
        coordinates: [
          [-9, 61],
          [-9.01, 61.02],
          [-9.03, 61.01],
        ],
      },
    }),
  );
  const inside = (command: string, ...words: string[]) => spawnSync(command, words, { cwd: desktop });
  inside("tar", "-czf", "drafts.tar.gz", "kittiwake paper");
  inside("tar", "-cJf", "posters.tar.xz", "open day");
  inside("tar", "-cf", "dumps.tar", "logger-lee-harbour");
  fs.writeFileSync(path.join(desktop, "station.json"), JSON.stringify({ name: "Skarn", gauges: [1, 2, 3] }, null, 1));
  fs.writeFileSync(path.join(desktop, "gauge.ini"), "[gauge]\nport = 4\n# lee side\n");
  fs.writeFileSync(path.join(desktop, "season.tsv"), "week\tnests\n14\t210\n15\t233\n");
  fs.copyFileSync(path.join(desktop, "open day/poster-1.svg"), path.join(desktop, "poster.svg"));
}

interface Shown {
  /** From a verdict's key, or the pointer's press, to the next look drawn; milliseconds. */
  drawn: number[];
  /** From the same to its being written down. */
  durable: number[];
}

/** Gives verdicts on everything that comes up, in the page itself, and measures each. */
const sit = (page: Page, how: "keys" | "pointer", waits: number[]): Promise<Shown> =>
  page.evaluate(
    async ({ how, waits }) => {
      const durable: number[] = [];
      const given: number[] = [];
      const drawn: number[] = [];
      const real = window.fetch;
      window.fetch = async (...asked) => {
        const answer = await real(...asked);
        if (String(asked[0]).endsWith("/api/sitting/give"))
          for (const _ of (JSON.parse(String(asked[1]?.body)) as { verdicts: unknown[] }).verdicts)
            durable.push(performance.now());
        return answer;
      };
      const frame = () => new Promise(requestAnimationFrame);
      const look = () => document.querySelector("[data-look]");
      /** Its content is there, and every picture in it is decoded. */
      const isDrawn = () => {
        const at = look();
        return at !== null && at.childElementCount > 0 && [...at.querySelectorAll("img")].every((image) => image.complete);
      };
      const names: Record<string, string> = { s: "stay", w: "wait", a: "archive", l: "let go", p: "put away" };
      const order = "slwalslwsp";
      for (const [n, wait] of waits.entries()) {
        const before = look()?.getAttribute("data-look");
        if (!before) break;
        // Without a home to go to a key would ask for one.
        const key = order[n % order.length] === "p" && !document.querySelector("main ol button") ? "s" : order[n % order.length]!;
        const at = performance.now();
        if (how === "keys") window.dispatchEvent(new KeyboardEvent("keydown", { key, bubbles: true }));
        else {
          const button = [...document.querySelectorAll("button")].find(
            (one) => one.querySelector("b")?.textContent === names[key],
          );
          button?.click();
        }
        const until = at + 5000;
        const isOther = () => (look()?.getAttribute("data-look") ?? before) !== before;
        while (!(isOther() && isDrawn()) && performance.now() < until && !document.querySelector("[role=dialog]")) await frame();
        // The end, or a question: no next look to wait for.
        if (isOther()) {
          given.push(at);
          drawn.push(performance.now() - at);
        }
        while (document.querySelector("[role=dialog]")) {
          document.dispatchEvent(new KeyboardEvent("keydown", { key: "Escape", bubbles: true }));
          await frame();
        }
        await new Promise((next) => setTimeout(next, wait));
      }
      const patience = performance.now() + 10_000;
      while (durable.length < given.length && performance.now() < patience) await new Promise((next) => setTimeout(next, 20));
      return { drawn, durable: given.map((key, n) => durable[n]! - key) };
    },
    { how, waits },
  );

const percentile = (list: number[], share: number) => list.toSorted((a, b) => a - b)[Math.ceil(list.length * share) - 1]!;

async function oneSitting(browser: Browser, how: "keys" | "pointer"): Promise<void> {
  const account = path.join(folder, `sitting-${how}`, "account");
  await makeSample(path.dirname(account), `${account}-data`, Date.now());
  addForms(path.join(account, "Desktop"));
  const vuoto = await serve(account);
  try {
    await vuoto.ask("survey/refresh", {});
    const context = await browser.newContext({ viewport: { width: 1280, height: 800 } });
    const [name, value] = vuoto.cookie.split("=") as [string, string];
    await context.addCookies([{ name, value, url: vuoto.base }]);
    const page = await context.newPage();
    await page.goto(`${vuoto.base}/sitting`);
    await page.locator("[data-look]").waitFor();
    const types = new Set(
      fs
        .readdirSync(path.join(account, "Desktop"), { withFileTypes: true })
        .map((entry) => (entry.isDirectory() ? "/" : entry.isSymbolicLink() ? "->" : path.extname(entry.name).toLowerCase())),
    );
    const chance = new Chance(4);
    const waits = Array.from({ length: verdicts }, (_, n) => (n < hasty ? 90 : thinking(chance)));
    const { drawn, durable } = await sit(page, how, waits);
    console.log(`a sitting by ${how}: ${drawn.length} verdicts over ${types.size} types of file`);
    const of = `${how}, p95 of ${drawn.length} over ${types.size} types`;
    rows.push(
      {
        figure: `P4 the next look drawn, from a verdict's ${of} (${percentile(drawn, 0.5).toFixed(0)} in the middle)`,
        ours: [percentile(drawn, 0.95)],
        atMost: 100,
        aim: 50,
      },
      {
        figure: `P15 that verdict durable, ${of} (${percentile(durable, 0.5).toFixed(0)} in the middle)`,
        ours: [percentile(durable, 0.95)],
        atMost: 150,
        aim: 50,
      },
    );
    await context.close();
  } finally {
    await vuoto.stop();
  }
}

/** Two hundred things of every form in a real browser: by keyboard alone, and again by pointer. */
export async function aSitting(): Promise<void> {
  const browser = await chromium.launch(browserWords);
  try {
    await oneSitting(browser, "keys");
    await oneSitting(browser, "pointer");
  } finally {
    await browser.close();
  }
}
