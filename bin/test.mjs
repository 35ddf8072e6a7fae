// npm test: set-up, checks, unit tests, then what a person does, in a real browser. Prints how many passed.
import { spawnSync } from "node:child_process";
import fs from "node:fs";
import os from "node:os";
import path from "node:path";
import { ensureApplication, ensureBrowser, ensureBundles, ensurePackages, root } from "./setup.mjs";

const began = Date.now();
await ensurePackages();
await ensureBundles();
await ensureApplication();
ensureBrowser();

const bin = (name) => path.join(root, "node_modules/.bin", name);
const out = fs.mkdtempSync(path.join(os.tmpdir(), "vuoto-test-"));
let failed = 0;
function step(words, command, args) {
  process.stdout.write(`\n— ${words}\n`);
  const done = spawnSync(command, args, {
    cwd: root,
    stdio: ["ignore", "inherit", "inherit"],
    env: { ...process.env, VUOTO_ROOT: root, NEXT_TELEMETRY_DISABLED: "1" },
  });
  if (done.status !== 0) failed++;
  return done.status === 0;
}

step("format and lint", bin("biome"), ["check", "--error-on-warnings", "."]);
step("who imports whom", process.execPath, ["bin/rooms.mjs"]);
step("what nobody uses", bin("knip"), ["--no-progress"]);
step("types", bin("tsc"), ["--noEmit"]);
step("unit tests", bin("vitest"), ["run", "--reporter=default", "--reporter=json", `--outputFile.json=${out}/unit.json`]);
process.env.PLAYWRIGHT_JSON_OUTPUT_NAME = `${out}/e2e.json`;
step("in the browser", bin("playwright"), ["test", "--reporter=list,json"]);

const count = { passed: 0, failed: 0, skipped: 0 };
const read = (name) => {
  try {
    return JSON.parse(fs.readFileSync(path.join(out, name), "utf8"));
  } catch {
    failed++;
    return undefined;
  }
};
const unit = read("unit.json");
if (unit) {
  count.passed += unit.numPassedTests;
  count.failed += unit.numFailedTests;
  count.skipped += unit.numPendingTests;
}
const e2e = read("e2e.json");
if (e2e) {
  count.passed += e2e.stats.expected + e2e.stats.flaky;
  count.failed += e2e.stats.unexpected;
  count.skipped += e2e.stats.skipped;
}
fs.rmSync(out, { recursive: true });
process.stdout.write(`\n${Math.round((Date.now() - began) / 1000)} seconds\n`);
process.stdout.write(`${count.passed} passed, ${count.failed} failed, ${count.skipped} skipped\n`);
if (failed > 0 || count.failed > 0 || count.passed === 0) process.exit(1);
