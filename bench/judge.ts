import { spawnSync } from "node:child_process";
import fs from "node:fs";
import os from "node:os";
import path from "node:path";
import { learn, rank, strangers, sure } from "@/core/homes/belongs";
import { rawFromText } from "@/core/names/raw";
import type { Kind } from "@/core/survey/kinds";
import { Chance } from "@/demo/chance";
import { makeSample } from "@/demo/make-sample";
import type { Engine } from "@/server/engine";
import { whatIsLearnedFrom } from "@/server/homes/belonging";
import { openEngine } from "@/server/opening";
import { itemById, itemsOn } from "@/server/survey/items";
import { protect } from "@/server/survey/protect";
import { findings } from "@/server/survey/survey";
import { judgePace } from "./pace";

/**
 * Judgements against other means than the code under test: kinds against file(1) on an ordinary system's files (J1), and
 * identical files, spent archives and what exists nowhere else against cmp, tar and unzip (J2), and homes against where the
 * files of a grown tree lie (J4), and the pace of made-up persons against what they take (J6). Prints every kind of miss, and
 * fails under its bound. Words: kinds, claims, suggestions or pace for one alone.
 */
const folder = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), "vuoto-judge-")));
let failed = false;
const verdict = (name: string, holds: boolean, words: string) => {
  if (!holds) failed = true;
  console.log(`${name} ${holds ? "holds" : "FAILS"}: ${words}`);
};
const run = (command: string, words: string[], cwd?: string) =>
  spawnSync(command, words, { encoding: "utf8", cwd, maxBuffer: 1 << 28 });

async function withEngine<T>(name: string, work: (engine: Engine) => Promise<T>): Promise<T> {
  const engine = await openEngine({ root: rawFromText(path.join(folder, name)), data: path.join(folder, `${name}-data`) });
  try {
    await engine.lookAgain("all");
    return await work(engine);
  } finally {
    await engine.close();
  }
}

/** The kinds that what file(1) says can mean. A text's ending tells more than its bytes, so several may be right. */
function meant(mime: string, name: string): Kind[] | undefined {
  const ending = /\.([^.]+)$/.exec(name)?.[1]?.toLowerCase() ?? "";
  if (mime === "inode/x-empty")
    return ["other", "temporary", "half download", "text", "table", "data", "picture", "sound", "video", "archive", "installer"];
  if (/\.(tmp|temp|bak)$|~$/.test(name)) return ["temporary"];
  if (/^image\/svg/.test(mime)) return ["picture"];
  if (/^image\//.test(mime)) return ["picture", "screenshot"];
  if (/^video\//.test(mime)) return ["video"];
  if (/^audio\//.test(mime)) return ["sound"];
  if (/spreadsheet|ms-excel/.test(mime)) return ["table"];
  if (/presentation|powerpoint/.test(mime)) return ["talk"];
  if (/^application\/(pdf|msword|rtf|postscript|epub)|wordprocessing|opendocument\.text/.test(mime)) return ["text"];
  if (/debian\.binary|x-rpm|x-msi|executable|sharedlib|pie-exec|dosexec|x-object/.test(mime)) return ["installer", "data"];
  if (/^application\/(zip|gzip|x-tar|x-bzip2|x-xz|zstd|x-7z|x-rar|java-archive|x-archive)/.test(mime))
    return ["archive", "data", "other"];
  if (mime === "text/csv" || ending === "csv" || ending === "tsv") return ["table", "text"];
  if (ending === "desktop") return ["shortcut", "web link", "text"];
  if (/^application\/(json|xml|yaml)|\/xml$/.test(mime) || ["json", "xml", "yaml", "yml", "gpx"].includes(ending))
    return ["data", "text"];
  if (/^text\/|javascript|x-perl|x-shell|x-tcl|x-wine|x-setupscript/.test(mime)) return ["text", "other"];
  if (/octet-stream|x-sqlite|x-gettext|x-terminfo|x-mo|font|ms-fontobject|x-bytecode|x-dbf|x-ole|sfnt|opentype/.test(mime))
    return ["data", "text", "other"];
  return undefined;
}

/** J1: 98 % of 5,000 files of an ordinary system. */
async function kinds(): Promise<void> {
  const chance = new Chance(20261125);
  const all = run("sh", ["-c", "find /usr /etc /opt /var/lib -xdev -type f -size -20000k -readable 2>/dev/null"])
    .stdout.trim()
    .split("\n");
  const desktop = path.join(folder, "kinds/Desktop");
  fs.mkdirSync(desktop, { recursive: true });
  // No ending more than a twelfth of all, so that one well-known kind does not decide.
  const most = Math.ceil(5000 / 12);
  const byEnding = new Map<string, number>();
  const taken = new Map<string, string>();
  for (const place of shuffled(all, chance)) {
    if (taken.size === 5000) break;
    const name = path.basename(place);
    if (taken.has(name) || name.startsWith(".")) continue;
    const ending = path.extname(name);
    if ((byEnding.get(ending) ?? 0) >= most) continue;
    try {
      fs.copyFileSync(place, path.join(desktop, name));
    } catch {
      continue;
    }
    byEnding.set(ending, (byEnding.get(ending) ?? 0) + 1);
    taken.set(name, place);
  }
  fs.writeFileSync(path.join(folder, "names"), [...taken.keys()].join("\n"));
  const asked = (...more: string[]) =>
    new Map(
      run("file", [...more, "--mime-type", "--no-pad", "--separator", "\t", "-f", path.join(folder, "names")], desktop)
        .stdout.trim()
        .split("\n")
        .map((line) => {
          const [name, mime] = line.split("\t");
          return [name!, mime!.trim()] as const;
        }),
    );
  const said = asked();
  // A single file that is packed is what is in it.
  const inside = asked("--uncompress");
  await withEngine("kinds", async (engine) => {
    const misses = new Map<string, string[]>();
    let right = 0;
    let judged = 0;
    for (const item of itemsOn(engine.db, "desktop")) {
      const mime = said.get(item.label);
      if (!mime) continue;
      const held = /\/(?:x-)?(?:gzip|bzip2|xz|zstd)$/.test(mime) ? inside.get(item.label) : undefined;
      const may = [...(meant(mime, item.label) ?? []), ...(held ? (meant(held, item.label.replace(/\.[^.]+$/, "")) ?? []) : [])];
      judged++;
      if (may.includes(item.kind)) right++;
      else {
        const key = `${mime} → ${item.kind}`;
        misses.set(key, [...(misses.get(key) ?? []), item.label]);
      }
    }
    for (const [key, names] of [...misses].sort((a, b) => b[1].length - a[1].length))
      console.log(`  ${String(names.length).padStart(4)}  ${key}: ${names.slice(0, 3).join(", ")}`);
    verdict(
      "J1",
      judged >= 4500 && right / judged >= 0.98,
      `${right} of ${judged} kinds agree, ${((100 * right) / judged).toFixed(2)} %`,
    );
  });
}

function shuffled<T>(list: T[], chance: Chance): T[] {
  const out = [...list];
  for (let n = out.length - 1; n > 0; n--) {
    const other = chance.whole(0, n);
    [out[n], out[other]] = [out[other]!, out[n]!];
  }
  return out;
}

/** J2: no false claim, and none missed, on material in which nearly everything is nearly identical. */
async function claims(): Promise<void> {
  const root = path.join(folder, "claims");
  for (const sub of ["Desktop", "Downloads", "Documents/Kept", "Backup"]) fs.mkdirSync(path.join(root, sub), { recursive: true });
  const chance = new Chance(7);
  const content = (seed: number, size: number) => {
    const c = new Chance(seed);
    return Buffer.from(Array.from({ length: size }, () => c.whole(0, 255)));
  };
  const places = ["Desktop", "Downloads", "Documents/Kept", "Backup"];
  // Families of one size: exact copies, copies with one byte changed at the head, in the middle or at the tail.
  for (let family = 0; family < 120; family++) {
    const size = 1000 + family * 1700;
    const base = content(family, size);
    for (let n = 0; n < 5; n++) {
      const copy = Buffer.from(base);
      const change = chance.whole(0, 4);
      const at = [0, Math.floor(size / 2), size - 1, chance.whole(0, size - 1)][change];
      if (at !== undefined) copy[at] = copy[at]! ^ (1 << chance.whole(0, 7));
      fs.writeFileSync(path.join(root, chance.one(places), `f${family}-${n}.bin`), copy);
    }
  }
  // Archives: whole, with one byte changed, one file missing, one more, one renamed.
  for (let n = 0; n < 60; n++) {
    const dir = path.join(root, "Desktop", `pack-${n}`);
    for (let k = 0; k < 4; k++) {
      fs.mkdirSync(path.join(dir, `sub-${k % 2}`), { recursive: true });
      fs.writeFileSync(path.join(dir, `sub-${k % 2}`, `${k}.dat`), content(9000 + n * 4 + k, 500 + k * 90));
    }
    const ways: [string, string[]][] = [
      ["tar", ["-cf", `pack-${n}.tar`, `pack-${n}`]],
      ["tar", ["-czf", `pack-${n}.tar.gz`, "-C", `pack-${n}`, "."]],
      ["python3", ["-m", "zipfile", "-c", `pack-${n}.zip`, `pack-${n}`]],
    ];
    const [command, words] = ways[n % 3]!;
    run(command, words, path.join(root, "Desktop"));
    const file = path.join(dir, "sub-1", "1.dat");
    const change = n % 5;
    if (change === 1) {
      const bytes = fs.readFileSync(file);
      bytes[chance.whole(0, bytes.length - 1)]! ^= 1;
      fs.writeFileSync(file, bytes);
    } else if (change === 2) fs.unlinkSync(file);
    else if (change === 3) fs.appendFileSync(file, "x");
    else if (change === 4) fs.renameSync(file, `${file}x`);
  }
  await withEngine("claims", async (engine) => {
    await protect(engine, { folder: { path: btoa(path.join(root, "Backup")) }, protection: "backed up" });
    const labelled = async (kind: string) => (await findings(engine)).find((finding) => finding.kind === kind)?.each ?? [];
    const placeOf = (id: string) => itemById(engine.db, id)!.path as string;
    const same = (a: string, b: string) => run("cmp", ["-s", a, b]).status === 0;

    const twins = await labelled("twins");
    let falseTwins = 0;
    for (const { id, stays } of twins) {
      const other = stays && ("id" in stays ? placeOf(stays.id) : stays.place);
      if (!other || !same(placeOf(id), other)) falseTwins++;
    }
    // By cmp alone: every file on a worktop that has a copy in a home, and all but one of those that only have each other.
    const lying = run("sh", ["-c", "find Desktop Downloads -maxdepth 1 -name 'f*.bin'"], root).stdout.trim().split("\n");
    const kept = run("sh", ["-c", "find Documents -name 'f*.bin'"], root).stdout.trim().split("\n");
    const backup = run("sh", ["-c", "find Backup -name 'f*.bin'"], root).stdout.trim().split("\n");
    const family = (name: string) => /f\d+/.exec(path.basename(name))![0];
    const full = (name: string) => path.join(root, name);
    let expected = 0;
    const seen: string[] = [];
    for (const one of lying) {
      const home = kept.some((other) => family(other) === family(one) && same(full(one), full(other)));
      const before = seen.some((other) => family(other) === family(one) && same(full(one), full(other)));
      if (home || before) expected++;
      seen.push(one);
    }
    verdict(
      "J2",
      falseTwins === 0 && twins.length === expected,
      `identical: ${twins.length} said, ${falseTwins} false, ${expected} by cmp`,
    );

    const spent = await labelled("spent archive");
    const falseSpent = spent.filter(({ id }) => Number(/pack-(\d+)/.exec(placeOf(id))![1]) % 5 !== 0).length;
    verdict("J2", falseSpent === 0 && spent.length === 12, `spent archives: ${spent.length} said, ${falseSpent} false, 12 are`);

    const nowhere = new Set((await labelled("nowhere else")).map(({ id }) => placeOf(id)));
    const wrong = lying.filter((one) => {
      const there = backup.some((other) => family(other) === family(one) && same(full(one), full(other)));
      return nowhere.has(full(one)) === there;
    });
    verdict("J2", wrong.length === 0, `nowhere else: ${lying.length} files judged, ${wrong.length} wrong`);
  });
}

/** The folders of an ordinary system that a person might have grown: named files of several sorts, three and more together. */
const grown = ["perl/5.36.0", "cmake-3.25", "vim", "javascript", "fonts", "groff", "X11", "doc/git", "bash-completion"]
  .map((name) => `/usr/share/${name}`)
  .concat("/usr/lib/python3.11");

/**
 * J4: each file of a grown tree left out in turn. And the calibration, a tenth of all files left out at once: how many of
 * those called so sure are right, when one question in five is about a thing whose home does not exist.
 */
async function suggestions(): Promise<void> {
  const chance = new Chance(4);
  const sample = path.join(folder, "sample");
  await makeSample(sample, path.join(folder, "sample-data"), Date.now());
  const tree = path.join(folder, "grown");
  for (const worktop of ["Desktop", "Documents"]) fs.mkdirSync(path.join(tree, worktop), { recursive: true });
  for (const place of grown.filter((one) => fs.existsSync(one)))
    run("cp", ["-a", fs.realpathSync(place), path.join(tree, "Documents", path.basename(place))]);
  for (const [name, root] of [
    ["the sample", path.join(sample, "account")],
    ["a grown tree", tree],
  ] as const) {
    const { files, titles } = await withEngine(path.relative(folder, root), async (engine) => whatIsLearnedFrom(engine));
    const judged = shuffled(
      files.filter((file, _, all) => all.filter((other) => other.home === file.home).length >= 3),
      chance,
    );
    const folds = 10;
    let [first, three] = [0, 0];
    const all = learn(files, titles);
    for (const file of judged) {
      const fits = rank(file, all, { most: 3, least: 0, lyingIn: file.home });
      if (fits[0]?.home === file.home) first++;
      if (fits.some((fit) => fit.home === file.home)) three++;
    }
    // The calibration is asked where it saw nothing of what it is asked about.
    const said: { score: number; right: boolean; weight: number }[] = [];
    for (let fold = 0; fold < folds; fold++) {
      const out = new Set(judged.filter((_, n) => n % folds === fold));
      const learned = learn(
        files.filter((file) => !out.has(file)),
        titles,
      );
      for (const file of out) {
        const [best] = rank(file, learned, { most: 1, least: 0 });
        if (best) said.push({ score: best.score, right: best.home === file.home, weight: 1 });
      }
      // Strangers: of one home in ten all files are left out.
      const ids = [...titles.keys()].filter((_, n) => n % folds === fold);
      const gone = new Set(ids);
      const without = learn(
        files.filter((file) => !gone.has(file.home)),
        new Map([...titles].filter(([id]) => !gone.has(id))),
      );
      for (const file of judged.filter((one) => gone.has(one.home))) {
        const [best] = rank(file, without, { most: 1, least: 0 });
        if (best) said.push({ score: best.score, right: false, weight: strangers / (1 - strangers) });
      }
    }
    const share = (n: number) => `${((100 * n) / judged.length).toFixed(1)} %`;
    verdict(
      "J4",
      first / judged.length >= 0.75 && three / judged.length >= 0.9,
      `${name}: ${judged.length} files in ${titles.size} homes; the right one first ${share(first)}, among three ${share(three)}`,
    );
    const weigh = (list: typeof said) => list.reduce((sum, { weight }) => sum + weight, 0);
    const rightOf = (list: typeof said) => (100 * weigh(list.filter(({ right }) => right))) / weigh(list);
    for (let from = 0; from < 10; from++) {
      const those = said.filter(({ score }) => Math.min(9, Math.floor(score * 10)) === from);
      if (those.length > 0)
        console.log(
          `  called ${from * 10} to ${from * 10 + 10} % sure: ${String(Math.round(weigh(those))).padStart(5)}, right ${rightOf(those).toFixed(0)} %`,
        );
    }
    const proposed = said.filter(({ score }) => score >= sure);
    verdict(
      "J4",
      rightOf(proposed) >= 100 * sure,
      `${name}: ${Math.round(weigh(proposed))} of ${Math.round(weigh(said))} are called sure, ${rightOf(proposed).toFixed(1)} % of these rightly`,
    );
  }
}

/** J6: how long the rest of a sitting takes, after ten verdicts and more. */
function pace(): void {
  const { table, covered } = judgePace();
  const share = (part: number) => `${(part * 100).toFixed(0)} %`;
  console.table(
    table.map(({ estimator, after, within, error }) => ({
      estimator,
      "after verdicts": after,
      "within a quarter": share(within),
      "error in the middle": share(error),
    })),
  );
  const ours = table.find(({ estimator, after }) => estimator === "ours" && after === 10)!;
  verdict(
    "J6",
    ours.error <= 0.25,
    `the error in the middle, after ten verdicts, is ${share(ours.error)} of a thousand sittings`,
  );
  verdict("J6", covered >= 0.75, `what it takes lies in the span that is said in ${share(covered)} (meant: 80 %)`);
}

const only = process.argv[2];
if (!only || only === "kinds") await kinds();
if (!only || only === "claims") await claims();
if (!only || only === "suggestions") await suggestions();
if (!only || only === "pace") pace();
fs.rmSync(folder, { recursive: true, force: true });
process.exit(failed ? 1 : 0);
