#!/usr/bin/env node
// The command. Makes ready what it needs, then hands over to the bundled command line.
import { ensureApplication, ensureBundles, ensurePackages, root } from "./setup.mjs";

process.env.VUOTO_ROOT = root;
await ensurePackages();
await ensureBundles();
const words = process.argv.slice(2);
if (words.some((word) => ["start", "demo", "open"].includes(word)) && !words.includes("--no-window")) await ensureApplication();
const { main } = await import("../dist/cli.mjs");
process.exitCode = await main();
