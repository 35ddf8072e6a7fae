// Bundles one of the long programs (bench, judge) and runs it with the words given.
import { spawnSync } from "node:child_process";
import path from "node:path";
import { bundle, ensureApplication, ensureBundles, ensurePackages, root } from "./setup.mjs";

const [entry, ...words] = process.argv.slice(2);
await ensurePackages();
await ensureBundles();
await ensureApplication();
const entries = {
  bench: { bench: "bench/bench.ts", "bench-walk": "bench/walk.ts", "bench-first": "bench/first.ts" },
  judge: { judge: "bench/judge.ts" },
};
await bundle(entries[entry]);
const done = spawnSync(process.execPath, [path.join(root, `dist/${entry}.mjs`), ...words], {
  cwd: root,
  stdio: "inherit",
  env: { ...process.env, VUOTO_ROOT: root },
});
process.exit(done.status ?? 1);
