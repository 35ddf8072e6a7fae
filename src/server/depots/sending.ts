import { createHash } from "node:crypto";
import type { ParcelThingJson } from "@/contract/parcel";
import { type RawJson, rawToJson } from "@/contract/raw-json";
import { bagName, payloadName, readManifest, tagManifestFile } from "@/core/depots/bagit";
import { folderOf, joinRaw, nameOf, type Raw, rawFromText } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import {
  type Carriage,
  type CarriageName,
  ofOneThing,
  type PackedFile,
  type ParcelPlace,
  type ProvenFile,
} from "../disk/carrier";
import { sameState } from "../disk/disk";
import { diskProblem } from "../disk/disk-problem";
import { useOf } from "../disk/in-use";
import { type FileTold, type Pace, type SeenEntry, stateWhereverItLies } from "../disk/tree";
import type { Engine } from "../engine";
import type { CarrierLink } from "../jobs/carriers";
import type { Item } from "../survey/items";
import { expectOwn } from "./add";
import { addressOf } from "./address";
import { depotTitle, type Parcel } from "./depots";
import { Following } from "./follow";
import { withStore } from "./kinds/kinds";
import { keptState, ParcelFiles, stateIn } from "./parcel-files";
import { changeSending, type SendingRow, sendingRow } from "./sending-row";
import { readWhole } from "./store";

/** So much is given to a thread at once. */
const batch = { files: 2000, bytes: 2_000_000_000 };
/** What was told of files is written down after so many, and at the end of each batch. */
const markEvery = 100;
/** So often one file may be given back otherwise than it was sent. */
const mostTries = 3;
/** So often one thing is followed that is moved while it is sent. */
const mostMoves = 100;
/** A file that was read back longer ago is read back again before its original goes; milliseconds. */
const longestProof = 86_400_000;
/** No tag file is larger, and no tag manifest. */
const mostTagBytes = 1 << 28;
const mostTagManifest = 1 << 20;

export interface SendingTools {
  /** Moves the bytes. */
  link: CarrierLink;
  pace: Pace;
  /** Tries work again where what stands in its way may pass. */
  steady: <T>(work: () => Promise<T>) => Promise<T>;
  /** The parcel is a step further. */
  moved: () => void;
}

/**
 * Sends one parcel to its depot, from wherever it stands: packed as a BagIt bag (RFC 8493) below a name that nobody else gives,
 * each file read once for content and checksum; sealed; given its last name; then all of it read back over new connections and
 * compared, byte for byte with the originals where these are as they were. What is done is written down file by file, so that it goes on from there after whatever cut it short.
 */
export class Sending {
  private readonly files: ParcelFiles;
  private readonly following: Following;
  /** The originals of what was packed in this process, by their paths in the parcel: with these it is compared. */
  private sources = new Map<string, SeenEntry>();

  constructor(
    private readonly engine: Engine,
    private readonly parcel: Parcel,
    private readonly tools: SendingTools,
  ) {
    this.files = new ParcelFiles(engine.db, parcel.id);
    this.following = new Following(engine, parcel.id, (name, input) => this.carry(name, input), tools.pace.signal);
  }

  private get row(): SendingRow {
    const row = sendingRow(this.engine.db, this.parcel.id);
    if (!row) throw new Problem("cancelled", { name: `Sending “${this.parcel.title}”` });
    return row;
  }

  private change(change: Parameters<typeof changeSending>[2]): void {
    changeSending(this.engine.db, this.parcel.id, change);
  }

  /** Where it lies now: looked up each time, as a drive may be elsewhere meanwhile. */
  private place(): ParcelPlace {
    const { depot, stage, part, bag } = this.row;
    return {
      depot: addressOf(this.engine, depot, depotTitle(this.engine, depot)),
      folder: stage === "named" && bag ? bag : part,
    };
  }

  private carry<N extends CarriageName>(
    name: N,
    input: Carriage<N>["input"],
    told?: (file: FileTold) => void,
  ): Promise<Carriage<N>["answer"]> {
    const { link, pace } = this.tools;
    return link.carry(name, input, { step: (n) => pace.step(n), breath: () => pace.breath(), signal: pace.signal, told });
  }

  private inDepot<T>(work: Parameters<typeof withStore<T>>[2]): Promise<T> {
    return withStore(this.place().depot, this.engine.disk, work, this.tools.pace.signal);
  }

  /**
   * Brings it there, until all of it was read back and stands.
   *
   * @throws Problem "parcel-empty" where nothing of it can be packed, "depot-keeps-not" where it is given back otherwise
   */
  async arrive(): Promise<void> {
    const { steady } = this.tools;
    await steady(() => this.inDepot((store) => store.reach()));
    expectOwn(this.engine, this.place().depot);
    if (this.row.stage !== "named" && !(await steady(() => this.wasNamed()))) {
      await this.pack();
      await this.seal();
      await steady(() => this.commit());
      this.tools.moved();
    }
    // What was read back long ago, before it was paused, says little of how it lies there now.
    this.files.doubt(this.engine.now() - longestProof);
    do await this.prove();
    while (!(await steady(() => this.stands())));
  }

  /** Sends whatever of it does not lie in the depot yet. */
  private async pack(): Promise<void> {
    const { steady } = this.tools;
    this.change({ stage: "sending" });
    const there = await steady(() => this.carry("inventory", { parcel: this.place() }));
    // What the depot no longer has, or has in part.
    const lies = ({ path, bytes }: { path: string; bytes: number }) => there.get(path) === bytes;
    this.files.wait(
      await this.files.collect(this.breath, (file) => (file.state !== "waiting" && !lies(file) ? file.path : undefined)),
    );
    const { folders, sources } = await this.look();
    this.expectSome();
    const wanted = new Set([...(await this.files.collect(this.breath, ({ path }) => path)), ...folders, "data"]);
    const stale = [...there.keys()].filter((path) => !wanted.has(path));
    await steady(() => this.carry("unpack", { parcel: this.place(), entries: stale }));
    const missing = ["", "data", ...folders].filter((folder) => there.get(folder) !== -1);
    const unmade = new Map<string, Problem>();
    await this.telling("written", unmade, (told) =>
      steady(() => this.carry("fold", { parcel: this.place(), folders: missing }, told)),
    );
    await this.leaveOutAt(unmade);
    await this.sendWaiting(sources);
    await this.lookOnceMore();
  }

  private readonly breath = () => this.tools.pace.breath();

  private expectSome(): void {
    if (this.files.things().length === 0) throw new Problem("parcel-empty", { name: this.parcel.title });
  }

  /** Looks at each thing as it lies there now: what of it is to be sent, and to where in the parcel. */
  private async look(): Promise<{ folders: string[]; sources: Map<string, SeenEntry> }> {
    const { files } = this;
    files.forgetLeftOut();
    const before = new Map(files.things().map((thing) => [thing.item, thing.payload]));
    const items = await this.following.collected();
    for (const item of before.keys()) if (!items.has(item)) files.drop(item);
    const taken = new Set([...before.values()].map((payload) => payload.normalize("NFC").toLowerCase()));
    const folders: string[] = [];
    const sources = new Map<string, SeenEntry>();
    this.sources = sources;
    for (const item of items.values()) {
      await this.tools.pace.step(0);
      const payload = before.get(item.id) ?? payloadName(item.name, taken);
      try {
        folders.push(...(await this.following.at(item, (there) => this.lookAt(there, payload, sources))));
      } catch (error) {
        files.leaveOut(item.id, payload, ofThing(error, item.label));
      }
    }
    return { folders, sources };
  }

  /** The same of one thing: its files are added to `sources`; answers the folders that it needs. */
  private async lookAt(item: Item, payload: string, sources: Map<string, SeenEntry>): Promise<string[]> {
    const { engine, files } = this;
    const now = engine.disk.identity(item.path);
    if (!now) throw new Problem("vanished", { name: item.label });
    const use = useOf(engine.disk, item.path, await engine.inUse.now(), now);
    if (use) throw new Problem("in-use", { name: item.label, detail: use });
    if (!sameState(now, item.identity)) throw new Problem("changed", { name: item.label });
    const { tree, state } = await this.carry("scan", { path: item.path });
    if (tree[0]) engine.disk.follow(tree[0].ino, tree[0].ctimeNs);
    const { breath } = this;
    const paths = await pathsOf(tree, `data/${payload}`, breath);
    const pathOf = (entry: { rel: Raw }) => paths.get(entry.rel)!;
    const anywhere = stateWhereverItLies(tree);
    await breath();
    const entries: ParcelThingJson["entries"] = [];
    const own: { path: string; bytes: number; seen: string }[] = [];
    const folders: string[] = [];
    for (const entry of tree) {
      entries.push(entryJson(entry, pathOf));
      if (entry.type === "folder") folders.push(pathOf(entry));
      if (entry.type === "file") {
        own.push({ path: pathOf(entry), bytes: entry.bytes, seen: seenState(entry) });
        sources.set(pathOf(entry), entry);
      }
      const pause = breath();
      if (pause) await pause;
    }
    const kept = keptState(state, anywhere, tree[0]?.ctimeNs ?? "");
    await files.await({ item: item.id, payload, name: item.name, folder: item.folder, state: kept, entries }, own, breath);
    return folders;
  }

  /**
   * Sends the files that wait, in some order; a thing of which one cannot be read does not go along. One that was moved meanwhile is
   * followed.
   */
  private async sendWaiting(sources: Map<string, SeenEntry>): Promise<void> {
    const failed = new Map<string, Problem>();
    const tries = new Map<string, number>();
    const due = () =>
      this.files.collect(this.breath, (file): PackedFile | undefined => {
        const entry = sources.get(file.path);
        const isDue = file.state === "waiting" && entry !== undefined && seenState(entry) === file.seen && !failed.has(file.path);
        return isDue ? { entry, path: file.path } : undefined;
      });
    for (;;) {
      await this.tools.steady(async () => {
        for (const files of batches(await due(), ({ entry }) => entry.bytes))
          await this.telling("written", failed, (told) => this.carry("pack", { parcel: this.place(), files }, told));
      });
      if (!(await this.follow(failed, sources, tries))) break;
    }
    await this.leaveOutAt(failed);
  }

  /** Looks anew at what failed as it was moved, a few times each; answers whether there was any. */
  private async follow(
    failed: Map<string, Problem>,
    sources: Map<string, SeenEntry>,
    tries: Map<string, number>,
  ): Promise<boolean> {
    if (failed.size === 0) return false;
    const items = await this.following.collected();
    const byThing = failedByThing(failed);
    let followed = false;
    for (const { item, payload, state } of this.files.things()) {
      const own = byThing.get(payload) ?? [];
      const there = items.get(item);
      const times = tries.get(item) ?? 0;
      if (!there || state === null || times >= mostMoves) continue;
      if (own.length === 0 || own.some(([, { code }]) => code !== "vanished" && code !== "changed")) continue;
      tries.set(item, times + 1);
      try {
        const { tree } = await this.following.at(there, ({ path }) => this.carry("scan", { path }));
        if (stateWhereverItLies(tree) !== stateIn(state).anywhere) continue;
        await this.following.at(there, (now) => this.lookAt(now, payload, sources));
      } catch (error) {
        const problem = ofThing(error, there.label);
        for (const [path] of own) failed.set(path, problem);
        continue;
      }
      for (const [path] of own) failed.delete(path);
      followed = true;
    }
    return followed;
  }

  /** Things of which something could not be written there do not go along. */
  private async leaveOutAt(failed: ReadonlyMap<string, Problem>): Promise<void> {
    const byThing = failedByThing(failed);
    for (const { item, payload } of this.files.things()) {
      const [, problem] = byThing.get(payload)?.[0] ?? [];
      if (problem) await this.takeOut(item, problem);
    }
  }

  /** A carriage that tells of files: what it tells is written down, also where it fails in the middle. */
  private async telling(
    state: "written" | "proven",
    failed: Map<string, Problem>,
    work: (told: (file: FileTold) => void) => Promise<unknown>,
  ): Promise<void> {
    let sums: [string, string][] = [];
    const write = () => {
      if (sums.length === 0) return;
      this.files.mark(state, sums, this.engine.now());
      sums = [];
      this.tools.moved();
    };
    try {
      await work((file) => {
        if ("problem" in file) failed.set(file.path, new Problem(file.problem.code, file.problem.facts));
        else if (this.isMerelyRenamed(file)) sums.push([file.path, file.sha256]);
        else failed.set(file.path, new Problem("changed", { detail: "while it was copied" }));
        if (sums.length >= markEvery) write();
      });
    } finally {
      write();
    }
  }

  /** What was read under another time of change of state than it was seen in: whether that was given by our own rename. */
  private isMerelyRenamed({ path, ctimeNs }: { path: string; ctimeNs?: string }): boolean {
    const seen = this.sources.get(path);
    return ctimeNs === undefined || (seen !== undefined && this.engine.disk.merelyRenamed(seen.ino, seen.ctimeNs, ctimeNs));
  }

  /** A thing does not go along after all: what of it lies in the parcel is taken out again. */
  private async takeOut(item: string, problem: Problem): Promise<void> {
    const payload = this.files.things().find((thing) => thing.item === item)?.payload;
    if (payload === undefined) return;
    await this.tools.steady(() => this.carry("unpack", { parcel: this.place(), entries: [`data/${payload}`] }));
    this.files.leaveOut(item, payload, problem);
  }

  /** Things that changed while they were read are left out: what was sent of them may be of two states. */
  private async lookOnceMore(): Promise<void> {
    const items = await this.following.collected();
    for (const { item, payload, state } of this.files.things()) {
      if (state === null) continue;
      const name = items.get(item)?.label ?? payload;
      try {
        const there = items.get(item);
        if (!there) throw new Problem("vanished", { name });
        if (!(await this.following.isAsPacked(there, state)))
          throw new Problem("changed", { name, detail: "while it was copied" });
      } catch (error) {
        await this.takeOut(item, ofThing(error, name));
      }
    }
    this.expectSome();
  }

  /** Writes what the bag says of itself, and reads it back; what is given back otherwise is written again. */
  private async seal(): Promise<void> {
    const { steady } = this.tools;
    const { id, title } = this.parcel;
    const asked = { record: this.engine.db.name, id, title, at: this.row.at };
    const texts = await this.engine.workers.run("tagFiles", asked, { signal: this.tools.pace.signal });
    let due = texts;
    for (let tries = 1; due.length > 0; tries++) {
      if (tries > mostTries) throw this.keepsNot(due[0]!.path, "written more than once");
      await steady(() => this.carry("seal", { parcel: this.place(), texts: due }));
      const wrong = await steady(() => this.differing(this.place().folder, due));
      due = texts.filter(({ path }) => wrong.has(path));
    }
    this.change({ tags: texts.at(-1)!.sha256, stage: this.row.stage === "named" ? "named" : "sealed" });
  }

  /** Which of some files are not there as they were written. */
  private async differing(folder: Raw, files: ProvenFile[]): Promise<Set<string>> {
    const wrong = new Set<string>();
    const named = files.map(({ path, bytes, sha256 }) => ({ path, bytes, sha256 }));
    await this.carry("prove", { parcel: { ...this.place(), folder }, files: named }, (file) => {
      if ("problem" in file) wrong.add(file.path);
    });
    return wrong;
  }

  private keepsNot(name: string, detail: string): Problem {
    return new Problem("depot-keeps-not", { place: depotTitle(this.engine, this.row.depot), name, detail });
  }

  /** Whether a folder in the depot holds this parcel: its tag manifest is the one of that checksum, and the files it names too. */
  private async isTheOne(folder: Raw, tags: string | null): Promise<boolean> {
    const there = await this.inDepot((store) => store.list(folder));
    const bytesOf = new Map(there.map(({ name, bytes }) => [name, Math.min(mostTagBytes, bytes < 0 ? mostTagBytes : bytes)]));
    const tagManifest = rawFromText(tagManifestFile);
    if (!bytesOf.has(tagManifest)) return false;
    const text = await this.inDepot((store) => readWhole(store, joinRaw(folder, tagManifest), mostTagManifest)).catch(
      unlessVanished,
    );
    if (!text || sumOfText(text) !== tags) return false;
    const files = [...readManifest(text.toString("utf8")).sums].map(
      ([path, sha256]): ProvenFile => ({ path, bytes: bytesOf.get(rawFromText(path)) ?? 0, sha256 }),
    );
    return (await this.differing(folder, files)).size === 0;
  }

  /** Whether it was given its last name, and that was not heard of any more. */
  private async wasNamed(): Promise<boolean> {
    const { stage, bag, tags } = this.row;
    const { part } = this.row;
    if (stage !== "sealed" || !bag || !(await this.isTheOne(bag, tags))) return false;
    // Some copy where they were asked to move.
    await this.inDepot((store) => store.remove(part));
    this.change({ stage: "named" });
    return true;
  }

  /** Gives the parcel its last name, which no other has. */
  private async commit(): Promise<void> {
    if (await this.wasNamed()) return;
    for (let tries = 1; ; tries++) {
      const names = await this.inDepot((store) => store.list("" as Raw));
      const taken = new Set(names.map(({ name }) => name));
      const bag = bagName(this.parcel.title, (name) => taken.has(name));
      this.change({ bag });
      try {
        await this.carry("commit", { parcel: this.place(), bag });
        break;
      } catch (error) {
        // Another computer has just given it.
        if (!(error instanceof Problem && error.code === "name-taken") || tries === mostTries) throw error;
      }
    }
    // What has its name now must be this parcel, and no other that took it at that moment: nothing is written into that.
    for (let tries = 1; !(await this.wasNamed()); tries++) {
      if (tries < mostTries) continue;
      const place = depotTitle(this.engine, this.row.depot);
      throw new Problem("depot-failing", { place, detail: "what has the parcel's name there is not what was sent" });
    }
  }

  /** Reads every file back that was not yet; what is given back otherwise is sent again, and read back again. */
  private async prove(): Promise<void> {
    for (;;) {
      const failed = new Map<string, Problem>();
      const due = () =>
        this.files.collect(this.breath, (file): ProvenFile | undefined => {
          if (file.state !== "written" || failed.has(file.path)) return undefined;
          const entry = this.sources.get(file.path);
          const original = entry && seenState(entry) === file.seen ? entry : undefined;
          return { path: file.path, bytes: file.bytes, sha256: file.sha256!, original };
        });
      await this.tools.steady(async () => {
        for (const files of batches(await due(), ({ bytes }) => bytes))
          await this.telling("proven", failed, (told) => this.carry("prove", { parcel: this.place(), files }, told));
      });
      this.files.wait(failed.keys(), true);
      const waiting = await this.files.collect(this.breath, (file) => (file.state === "waiting" ? file : undefined));
      const worst = waiting.find(({ tries }) => tries >= mostTries);
      if (worst) {
        const { facts } = failed.get(worst.path) ?? new Problem("depot-keeps-not");
        throw this.keepsNot(worst.path.replace(/^data\//, ""), facts.detail ?? "it is not there");
      }
      if (waiting.length === 0) return;
      await this.mend(new Set(waiting.map(({ item }) => item)));
    }
  }

  /** Sends files of things once more, into the parcel that has its name; a thing that is another now goes out of it. */
  private async mend(things: ReadonlySet<string>): Promise<void> {
    const items = await this.following.collected();
    const { sources } = this;
    let resealed = false;
    for (const { item, payload, state } of this.files.things()) {
      if (!things.has(item)) continue;
      const name = items.get(item)?.label ?? payload;
      try {
        const there = items.get(item);
        // What lies in the depot may be the only copy now: it is not taken away.
        if (!there || !this.engine.disk.identity(there.path))
          throw this.keepsNot(name, "and its original is no longer there to send it again");
        if (state === null || !(await this.following.at(there, (now) => this.following.isAsPacked(now, state))))
          throw new Problem("changed", { name, detail: "before it had arrived" });
        const scanned = await this.following.at(there, ({ path }) => this.carry("scan", { path }));
        const paths = await pathsOf(scanned.tree, `data/${payload}`, this.breath);
        for (const entry of scanned.tree) if (entry.type === "file") sources.set(paths.get(entry.rel)!, entry);
        const folders = scanned.tree.flatMap(({ type, rel }) => (type === "folder" ? [paths.get(rel)!] : []));
        await this.tools.steady(() => this.carry("fold", { parcel: this.place(), folders: ["", "data", ...folders] }));
      } catch (error) {
        await this.takeOut(item, ofThing(error, name));
        resealed = true;
      }
    }
    const count = this.files.things().length;
    await this.sendWaiting(sources);
    // A file that could not be sent as it was seen, though its thing looks the same.
    const left = await this.files.collect(this.breath, ({ item, state }) =>
      state === "waiting" && things.has(item) ? item : undefined,
    );
    for (const item of new Set(left)) await this.takeOut(item, new Problem("changed", { name: items.get(item)?.label }));
    resealed ||= this.files.things().length !== count;
    this.expectSome();
    if (resealed) await this.seal();
  }

  /** Whether all of it lies there under its last name; what does not is to be sent again. */
  private async stands(): Promise<boolean> {
    const there = await this.carry("inventory", { parcel: this.place() });
    const missing = await this.files.collect(this.breath, ({ path, bytes }) => {
      const lies = there.get(path);
      // Some do not say how long a file is.
      return lies === undefined || (lies !== -1 && lies !== bytes) ? path : undefined;
    });
    if (missing.length > 0) {
      this.files.wait(missing, true);
      return false;
    }
    if (await this.isTheOne(this.place().folder, this.row.tags)) return true;
    await this.seal();
    return false;
  }
}

/** A problem that concerns one thing, which then does not go along; any other is thrown. */
function ofThing(thrown: unknown, name: string): Problem {
  const problem = diskProblem(thrown, { name });
  if (!(problem instanceof Problem) || !ofOneThing.includes(problem.code)) throw thrown;
  return problem;
}

const unlessVanished = (error: unknown): undefined => {
  if (error instanceof Problem && (error.code === "vanished" || error.code === "file-too-large")) return undefined;
  throw error;
};

const sumOfText = (text: string | Buffer) => createHash("sha256").update(text).digest("hex");

const seenState = ({ ino, bytes, mtimeNs, ctimeNs }: SeenEntry) => `${ino}:${bytes}:${mtimeNs}:${ctimeNs}`;

/** In parts of a bounded number of files and bytes. */
function batches<F>(files: readonly F[], bytesOf: (file: F) => number): F[][] {
  const parts: F[][] = [];
  let bytes = Number.POSITIVE_INFINITY;
  for (const file of files) {
    if (parts.at(-1)?.length === batch.files || bytes + bytesOf(file) > batch.bytes) {
      parts.push([]);
      bytes = 0;
    }
    parts.at(-1)!.push(file);
    bytes += bytesOf(file);
  }
  return parts;
}

/** What the bag's list keeps of an entry of a thing, which its payload alone does not say; checksums aside. */
const entryJson = (entry: SeenEntry, pathOf: (entry: SeenEntry) => string): ParcelThingJson["entries"][number] => ({
  rel: rawToJson(entry.rel),
  type: entry.type,
  mode: entry.mode,
  mtimeNs: entry.mtimeNs,
  bytes: entry.bytes,
  xattrs: entry.xattrs?.map(([key, value]): [RawJson, RawJson] => [rawToJson(key), rawToJson(value)]),
  target: entry.type === "link" ? rawToJson(entry.target!) : undefined,
  payload: entry.type === "file" ? pathOf(entry) : undefined,
});

/** Where each entry of a thing goes in the payload: under safe names, unique in each folder. */
async function pathsOf(tree: readonly SeenEntry[], target: string, breath: Pace["breath"]): Promise<Map<Raw, string>> {
  const paths = new Map<Raw, string>([["" as Raw, target]]);
  const taken = new Map<Raw, Set<string>>();
  for (const { rel } of tree) {
    if (rel === "") continue;
    const parent = (rel.includes("/") ? folderOf(rel) : "") as Raw;
    const names = taken.get(parent) ?? new Set<string>();
    taken.set(parent, names);
    paths.set(rel, `${paths.get(parent)!}/${payloadName(nameOf(rel), names)}`);
    const pause = breath();
    if (pause) await pause;
  }
  return paths;
}

/** What failed, by the thing's name in the parcel: "data/NAME/…". */
function failedByThing(failed: ReadonlyMap<string, Problem>): Map<string, [path: string, problem: Problem][]> {
  const byThing = new Map<string, [string, Problem][]>();
  for (const one of failed) {
    const payload = one[0].split("/")[1]!;
    const of = byThing.get(payload);
    if (of) of.push(one);
    else byThing.set(payload, [one]);
  }
  return byThing;
}
