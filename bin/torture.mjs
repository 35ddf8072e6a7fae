// npm run torture: real processes killed at every call and at random moments; the long form of the fault tests.
import { spawnSync } from "node:child_process";
import path from "node:path";
import { ensureBundles, ensurePackages, root } from "./setup.mjs";

ensurePackages();
await ensureBundles();
const { build } = await import("esbuild");
await build({
  absWorkingDir: root,
  entryPoints: { torture: "torture/torture.ts", "torture-child": "torture/child.ts" },
  outdir: "dist",
  outExtension: { ".js": ".mjs" },
  bundle: true,
  format: "esm",
  platform: "node",
  target: "node20",
  packages: "external",
  logLevel: "warning",
});
const done = spawnSync(process.execPath, [path.join(root, "dist/torture.mjs"), ...process.argv.slice(2)], {
  cwd: root,
  stdio: "inherit",
  env: { ...process.env, VUOTO_ROOT: root },
});
process.exit(done.status ?? 1);
