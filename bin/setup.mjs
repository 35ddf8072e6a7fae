// Makes a bare clone ready: packages, the bundled command and worker, the built application and, for tests, a browser.
// Needs no package itself. Quick when there is nothing to do.
import { spawn, spawnSync } from "node:child_process";
import { createHash } from "node:crypto";
import fs from "node:fs";
import os from "node:os";
import path from "node:path";
import { fileURLToPath } from "node:url";

export const root = path.dirname(path.dirname(fileURLToPath(import.meta.url)));
const say = (text) => process.stderr.write(`vuoto: ${text}\n`);

function fail(text) {
  say(text);
  process.exit(2);
}

function run(command, args, env = {}) {
  const done = spawnSync(command, args, {
    cwd: root,
    stdio: ["ignore", 2, 2],
    env: { ...process.env, NEXT_TELEMETRY_DISABLED: "1", ...env },
  });
  if (done.error) fail(`${command} could not be started: ${done.error.message}`);
  if (done.status !== 0) fail(`“${[command, ...args].join(" ")}” failed; its words are above.`);
}

const has = (command) => spawnSync("sh", ["-c", `command -v ${command}`], { stdio: "ignore" }).status === 0;

/** Of what is in files; or with `stat`, which is quick, of when they were written and how large they are. */
function hashOf(files, stat = false) {
  const hash = createHash("sha256");
  for (const file of files) {
    const place = path.join(root, file);
    hash.update(`${file}\0`);
    if (stat) {
      const { size, mtimeMs } = fs.statSync(place);
      hash.update(`${size} ${mtimeMs}\0`);
    } else hash.update(fs.readFileSync(place)).update("\0");
  }
  return hash.digest("hex");
}

function filesIn(folder) {
  return fs
    .readdirSync(path.join(root, folder), { recursive: true, withFileTypes: true })
    .filter((e) => e.isFile() && !/\.test\.tsx?$/.test(e.name))
    .map((e) => path.relative(root, path.join(e.parentPath, e.name)))
    .sort();
}

const stampFile = path.join(root, ".setup.json");
const readStamps = () => {
  try {
    return JSON.parse(fs.readFileSync(stampFile, "utf8"));
  } catch {
    return {};
  }
};
const writeStamp = (name, value) => fs.writeFileSync(stampFile, JSON.stringify({ ...readStamps(), [name]: value }, null, 1));

/** Does what is made from files where it is not there yet, or they are other ones than it was made from. */
async function make(name, files, isThere, work) {
  const seen = hashOf(files, true);
  const stands = () => readStamps()[name]?.seen === seen && isThere();
  if (stands()) return;
  const done = await alone();
  try {
    if (stands()) return;
    const { [name]: made } = readStamps();
    const content = hashOf(files);
    // Stamps were once the content's alone.
    if ((made?.content ?? made) !== content || !isThere()) await work();
    writeStamp(name, { seen, content });
  } finally {
    done();
  }
}

/**
 * Waits while another start makes something here: two at once would spoil each other's work. Answers how to let the next one.
 * The lock is the kernel's, held for as long as this process lives; without flock (util-linux) nobody waits.
 */
async function alone() {
  if (!has("flock")) return () => {};
  const holder = spawn("flock", [".setup.lock", "sh", "-c", "echo held; exec cat"], {
    cwd: root,
    stdio: ["pipe", "pipe", "ignore"],
  });
  const waiting = setTimeout(() => say("waiting for another start, which makes it ready"), 1000);
  // Where it cannot be taken, as in a folder that may not be written, what is made there says why.
  await new Promise((next) => holder.stdout.once("data", next).once("close", next));
  clearTimeout(waiting);
  return () => holder.stdin.end();
}

export async function ensurePackages() {
  const [major, minor] = process.versions.node.split(".").map(Number);
  if (major < 20 || (major === 20 && minor < 19)) fail(`Node.js 20.19 or newer is needed; this is ${process.versions.node}.`);
  if (process.platform !== "linux") fail("Vuoto works on Linux; this is another system.");
  const isThere = () => fs.existsSync(path.join(root, "node_modules/next"));
  await make("packages", ["package-lock.json"], isThere, () => {
    if (!has("npm")) fail("npm is needed to install the packages.");
    for (const tool of ["g++", "make", "python3"])
      if (!has(tool)) say(`${tool} is not there; it is needed should no ready database driver fit this computer.`);
    const driver = compiledDriver();
    const words = ["ci", "--no-audit", "--no-fund", "--loglevel=error"];
    if (fs.existsSync(driver.kept)) {
      say("installing packages; the database driver was compiled before");
      run("npm", [...words, "--ignore-scripts"]);
      fs.mkdirSync(path.dirname(driver.built), { recursive: true });
      fs.copyFileSync(driver.kept, driver.built);
      // Kept from a system before this one, it may not load.
      if (loading(openDatabase).status !== 0) {
        fs.rmSync(driver.kept, { force: true });
        run("npm", ["rebuild", "better-sqlite3"], { JOBS: "max" });
      }
    } else {
      say("installing packages (about three minutes the first time)");
      // Every core compiles what is compiled here.
      run("npm", words, { JOBS: "max" });
    }
    checkLibraries();
    keepDriver(driver);
  });
}

/**
 * The database driver, whose compiling takes most of an install: kept by its version and what it was compiled for, so that the
 * next clone on this computer need not compile it again.
 */
function compiledDriver() {
  const { version } = JSON.parse(fs.readFileSync(path.join(root, "package-lock.json"), "utf8")).packages[
    "node_modules/better-sqlite3"
  ];
  const cache = process.env.XDG_CACHE_HOME || path.join(os.homedir(), ".cache");
  const { arch, versions } = process;
  return {
    built: path.join(root, "node_modules/better-sqlite3/build/Release/better_sqlite3.node"),
    kept: path.join(cache, "vuoto", `better-sqlite3-${version}-${versions.modules}-${arch}.node`),
  };
}

function keepDriver({ built, kept }) {
  try {
    if (fs.existsSync(kept)) return;
    fs.mkdirSync(path.dirname(kept), { recursive: true, mode: 0o700 });
    fs.copyFileSync(built, `${kept}.${process.pid}`);
    fs.renameSync(`${kept}.${process.pid}`, kept);
  } catch {
    // It is compiled again the next time.
  }
}

const loading = (code) => spawnSync(process.execPath, ["-e", code], { cwd: root, encoding: "utf8" });
const openDatabase = 'new (require("better-sqlite3"))(":memory:").exec("SELECT 1")';

/** What is compiled for one kind of system: loaded once after it was installed, so that what is wrong is said now. */
function checkLibraries() {
  const tries = [
    [
      "koffi",
      'require("koffi").load("libc.so.6").func("int getpid()")()',
      "It needs the GNU C library, libc.so.6; another one, such as musl, will not do.",
    ],
    [
      "better-sqlite3",
      openDatabase,
      "npm rebuild better-sqlite3 compiles it for this computer; that needs g++, make and python3.",
    ],
    ["sharp", 'require("sharp")', "It has no part for this kind of processor or C library."],
  ];
  for (const [name, code, remedy] of tries) {
    const done = loading(code);
    if (done.status === 0) continue;
    const why = /^\w*Error: (.+)$/m.exec(done.stderr ?? "")?.[1] ?? `it ended with ${done.status ?? done.signal}`;
    fail(`${name} cannot be loaded on this computer: ${why}\n       ${remedy}`);
  }
}

/** Bundles programs into dist/, packages left outside. */
export async function bundle(entryPoints, options = {}) {
  const { build } = await import("esbuild");
  await build({
    absWorkingDir: root,
    entryPoints,
    outdir: "dist",
    outExtension: { ".js": ".mjs" },
    bundle: true,
    format: "esm",
    platform: "node",
    target: "node20",
    packages: "external",
    // Bundled, as every command reads it: of Zod alone what is used, in one file and not a hundred.
    alias: { zod: path.join(root, "node_modules/zod/index.js") },
    logLevel: "warning",
    ...options,
  });
}

/** The command and the worker, bundled: the application, the command line and the tests start these same files. */
export async function ensureBundles() {
  const sources = filesIn("src").filter((f) => !f.startsWith("src/ui") && !f.startsWith("src/app"));
  const isThere = () => fs.existsSync(path.join(root, "dist/checksum.mjs"));
  await make("bundles", [...sources, "package-lock.json", "bin/setup.mjs"], isThere, () => {
    fs.rmSync(path.join(root, "dist/chunks"), { recursive: true, force: true });
    return bundle(
      {
        cli: "src/cli/main.ts",
        serve: "src/server/serve.ts",
        worker: "src/server/jobs/worker.ts",
        carrier: "src/server/jobs/carrier-thread.ts",
        checksum: "src/server/jobs/checksum-thread.ts",
        look: "src/server/looks/look-process.ts",
        recorder: "src/standins/recorder.ts",
        cloud: "src/standins/cloud/main.ts",
      },
      // What a command does not need is not read.
      { sourcemap: true, splitting: true, chunkNames: "chunks/[name]-[hash]" },
    );
  });
}

export async function ensureApplication() {
  const files = [...filesIn("src"), "package-lock.json", "next.config.ts", "postcss.config.mjs", "tsconfig.json"];
  const isThere = () => fs.existsSync(path.join(root, ".next/BUILD_ID"));
  await make("application", files, isThere, () => {
    say("building the application");
    run(process.execPath, ["node_modules/next/dist/bin/next", "build"]);
  });
}

/** A Chromium for the tests: the one that is there, else Debian's without a window, which takes a third less time. */
export function ensureBrowser() {
  if (has("chromium-headless-shell") || has("chromium")) return;
  if (!has("apt-get") || process.getuid() !== 0)
    fail("Chromium is needed for the tests; install it, or run this as root on Debian.");
  say("installing Chromium for the tests");
  run("apt-get", ["update", "-qq"]);
  run("apt-get", ["install", "-y", "-qq", "--no-install-recommends", "chromium-headless-shell"], {
    DEBIAN_FRONTEND: "noninteractive",
  });
}

if (process.argv[1] === fileURLToPath(import.meta.url)) {
  if (process.argv.includes("--force")) fs.rmSync(stampFile, { force: true });
  await ensurePackages();
  await ensureBundles();
  await ensureApplication();
}
