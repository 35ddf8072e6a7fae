// npm test: set-up, then checks and unit tests side by side, then what a person does, in a real browser. Prints how long each
// file took, and how many passed. Words after it: only tests whose file has one of them in its path, and no checks.
import { spawn, spawnSync } from "node:child_process";
import fs from "node:fs";
import os from "node:os";
import path from "node:path";
import { ensureApplication, ensureBrowser, ensureBundles, ensurePackages, root } from "./setup.mjs";

const began = Date.now();
const since = (at) => Math.round((Date.now() - at) / 1000);
const words = process.argv.slice(2);
await ensurePackages();
const installed = since(began);
await ensureBundles();
await ensureApplication();
ensureBrowser();
const ready = since(began);

const bin = (name) => path.join(root, "node_modules/.bin", name);
fs.mkdirSync(path.join(root, "node_modules/.cache"), { recursive: true });
const out = fs.mkdtempSync(path.join(root, "node_modules/.cache/vuoto-test-"));
const temporary = fs.mkdtempSync(path.join(os.tmpdir(), "vuoto-test-"));
// Some tests work as another user.
fs.chmodSync(temporary, 0o1777);
const env = { ...process.env, VUOTO_ROOT: root, NEXT_TELEMETRY_DISABLED: "1", TMPDIR: temporary };

/**
 * What runs a command with the temporary folder in memory, where this computer lets it: tests sync files some hundred thousand
 * times, and need not wait for a disk. It is mounted for that command alone; nothing else sees it.
 */
function inMemory() {
  const script =
    'mount -t tmpfs -o mode=1777 tmpfs "$0" && touch "$0/x" && setfattr -n user.a -v a "$0/x" && rm "$0/x" && exec "$@"';
  const wrapped = ["--mount", "--propagation", "private", "sh", "-c", script, temporary];
  return spawnSync("unshare", [...wrapped, "true"], { stdio: "ignore" }).status === 0 ? ["unshare", ...wrapped] : [];
}
const apart = inMemory();

/** What did not end well, by its name. */
const failed = [];
/** Runs a command; what it says comes at once, or all together once it has ended. */
function run(name, command, args, { together = false, more = {} } = {}) {
  const at = Date.now();
  const [first, ...rest] = [...apart, command, ...args];
  const child = spawn(first, rest, {
    cwd: root,
    stdio: ["ignore", together ? "pipe" : "inherit", together ? "pipe" : "inherit"],
    env: { ...env, ...more },
  });
  const said = [];
  child.stdout?.on("data", (part) => said.push(part));
  child.stderr?.on("data", (part) => said.push(part));
  if (!together) process.stdout.write(`\n— ${name}\n`);
  return new Promise((done) =>
    child.once("close", (status) => {
      if (together) process.stdout.write(`\n— ${name}: ${since(at)} s\n${Buffer.concat(said)}`);
      if (status !== 0) failed.push(name);
      done();
    }),
  );
}

async function checks() {
  await run("format and lint", bin("biome"), ["check", "--error-on-warnings", "."], { together: true });
  await run("who imports whom", process.execPath, ["bin/rooms.mjs"], { together: true });
  await run("licences", process.execPath, ["bin/licences.mjs", "--check"], { together: true });
  await run("what nobody uses", bin("knip"), ["--no-progress"], { together: true });
  await run("types", bin("tsc"), ["--noEmit"], { together: true });
}

const unitWords = ["run", ...words, "--reporter=default", "--reporter=json", `--outputFile.json=${out}/unit.json`];
const unitTests = () => run("unit tests", bin("vitest"), [...unitWords, ...(words.length > 0 ? ["--passWithNoTests"] : [])]);
const inBrowser = () =>
  run("in the browser", bin("playwright"), ["test", ...words, "--reporter=list,json", "--pass-with-no-tests"], {
    more: { PLAYWRIGHT_JSON_OUTPUT_NAME: `${out}/e2e.json` },
  });

await Promise.all([words.length === 0 ? checks() : undefined, unitTests()]);
const half = since(began);
await inBrowser();

const count = { passed: 0, failed: 0, skipped: 0 };
const seconds = new Map();
const read = (name) => {
  try {
    return JSON.parse(fs.readFileSync(path.join(out, name), "utf8"));
  } catch {
    failed.push(`the results in ${name}`);
    return undefined;
  }
};
const unit = read("unit.json");
if (unit) {
  count.passed += unit.numPassedTests;
  count.failed += unit.numFailedTests;
  count.skipped += unit.numPendingTests;
  for (const { name, startTime, endTime } of unit.testResults)
    seconds.set(path.relative(root, name), (endTime - startTime) / 1000);
}
const e2e = read("e2e.json");
if (e2e) {
  count.passed += e2e.stats.expected + e2e.stats.flaky;
  count.failed += e2e.stats.unexpected;
  count.skipped += e2e.stats.skipped;
  const took = ({ specs = [], suites = [] }) =>
    [
      ...specs.flatMap(({ tests }) => tests.flatMap(({ results }) => results.map(({ duration }) => duration))),
      ...suites.map(took),
    ].reduce((sum, ms) => sum + ms, 0);
  for (const suite of e2e.suites) seconds.set(`e2e/${suite.file}`, took(suite) / 1000);
}
fs.rmSync(out, { recursive: true });
fs.rmSync(temporary, { recursive: true, force: true });

const longest = 60;
process.stdout.write("\n— seconds by file, the longest\n");
for (const [name, took] of [...seconds].sort(([, a], [, b]) => b - a).slice(0, 15))
  process.stdout.write(`${took.toFixed(0).padStart(5)}  ${name}${took > longest ? "  (over a minute: worth a look)" : ""}\n`);
process.stdout.write(
  `\n${since(began)} seconds: ${installed} to install, ${ready - installed} to build, ${half - ready} checks and unit tests, ${since(began) - half} in the browser\n`,
);
process.stdout.write(`${count.passed} passed, ${count.failed} failed, ${count.skipped} skipped\n`);
if (failed.length > 0) process.stdout.write(`failed: ${failed.join("; ")}\n`);
if (failed.length > 0 || count.failed > 0 || count.passed === 0) process.exit(1);
