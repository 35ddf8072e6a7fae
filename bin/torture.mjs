// npm run torture: the long rounds, and one table of all of them. Real processes are killed at every call and at random
// moments; then the faults, walks and other servers of the unit tests in their long form. Words go to the kills.
import { spawnSync } from "node:child_process";
import fs from "node:fs";
import path from "node:path";
import { bundle, ensureBundles, ensurePackages, root } from "./setup.mjs";

const longForms = [
  "src/server/ledger/ledger.test.ts",
  "src/server/ledger/faults.test.ts",
  "src/server/ledger/things.test.ts",
  "src/server/depots/sending.test.ts",
  "src/server/depots/killed.test.ts",
  "src/server/quiet/sight.test.ts",
  "src/server/depots/other-servers.test.ts",
  "fixtures/random-acts.test.ts",
  "fixtures/pairs.test.ts",
];

await ensurePackages();
await ensureBundles();
await bundle({ torture: "torture/torture.ts", "torture-child": "torture/child.ts" });
fs.mkdirSync(path.join(root, "node_modules/.cache"), { recursive: true });
const out = fs.mkdtempSync(path.join(root, "node_modules/.cache/vuoto-torture-"));
const [kills, units] = [path.join(out, "kills.json"), path.join(out, "units.json")];
const env = { ...process.env, VUOTO_ROOT: root, VUOTO_TORTURE: "1", VUOTO_TORTURE_TABLE: kills };
const run = (command, args) => spawnSync(command, args, { cwd: root, stdio: "inherit", env }).status === 0;

const held = [
  run(process.execPath, [path.join(root, "dist/torture.mjs"), ...process.argv.slice(2)]),
  run(path.join(root, "node_modules/.bin/vitest"), [
    "run",
    ...longForms,
    "--reporter=default",
    "--reporter=json",
    `--outputFile.json=${units}`,
  ]),
];

const rows = [];
if (fs.existsSync(kills)) rows.push(...JSON.parse(fs.readFileSync(kills, "utf8")));
if (fs.existsSync(units))
  for (const { name, startTime, endTime, assertionResults } of JSON.parse(fs.readFileSync(units, "utf8")).testResults) {
    const count = (status) => assertionResults.filter((one) => one.status === status).length;
    rows.push({
      round: path.relative(root, name),
      rounds: count("passed") + count("failed"),
      faults: count("failed"),
      skipped: count("pending") + count("skipped"),
      seconds: Math.round((endTime - startTime) / 1000),
    });
  }
fs.rmSync(out, { recursive: true });
console.table(rows);
process.exit(held.every(Boolean) && rows.length > 0 ? 0 : 1);
