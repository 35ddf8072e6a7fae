import PQueue from "p-queue";
import { isWithin, joinRaw, type Raw, rawFromBytes, rawFromText, shownName } from "@/core/names/raw";
import { asProblem, Problem, unlessProblem } from "@/core/problem";
import { fromAccount } from "./account";
import { prepared } from "./db/prepared";
import { isDamaged, type LastCheck, lastCheck } from "./depots/checks";
import { type DepotNow, depotMeant, depotNow, depotTitle, type Parcel, parcels } from "./depots/depots";
import { placeOnDisk } from "./depots/kinds/kinds";
import type { Disk } from "./disk/disk";
import { hashFromDevice, type Pace } from "./disk/tree";
import type { Engine } from "./engine";
import { sharedMemory } from "./shared";
import { itemById } from "./survey/items";
import { nearestPlace, protectedPlaces } from "./survey/protection";

/** What a file holds: its length in bytes, and its SHA-256. */
export interface Content {
  bytes: number;
  sha256: string;
}

/** A copy that lies behind a network: reading it takes its time. */
export interface FarCopy extends Content {
  parcel: string;
  depot: string;
  /** In the bag. */
  path: string;
}

/**
 * Where content lies besides, and how well that is known. "here": on this computer, read there now or unchanged since it was
 * read. "depot": in a parcel that is in reach, whole when all of it was last read (`at`), or read just now. "unsure": one may
 * lie there, and why that is not known. "nowhere": none is known, or the one that is known is damaged, and how.
 */
export type Whereabouts =
  | { known: "here" }
  | { known: "depot"; at: number; far?: FarCopy }
  | { known: "unsure"; why: string; far?: FarCopy }
  | { known: "nowhere"; why?: string };

interface Options {
  pace: Pace;
  /** Not in this parcel. */
  except?: string;
  /** Something is about to be destroyed: every copy that is to count is read whole, those in clouds aside. */
  whole?: boolean;
}

/** A parcel in which copies are looked for, as it is now. */
interface Held {
  parcel: Parcel;
  depot?: DepotNow;
  check?: LastCheck;
}

const lines = sharedMemory<Engine, PQueue>("destroying");

/** Destroys one thing after the other: of two that rest on one another's copy the second finds none any more. */
export function destroying<T>(engine: Engine, work: () => Promise<T>): Promise<T> {
  const line = lines.get(engine) ?? new PQueue({ concurrency: 1 });
  lines.set(engine, line);
  return line.add(work);
}

/** Whether a file that was read is still in the state in which it was: by inode, length and both times. */
interface Reading {
  state: string;
  sha256: string;
}
const readings = sharedMemory<Engine, Map<Raw, Reading>>("readings of copies");
const mostReadings = 200_000;

/**
 * The one place that answers where else content lies: on a worktop or in a home, read or unchanged since it was read; or in a
 * parcel, as far as its last whole check tells. Asked for many contents one after the other.
 */
export class Elsewhere {
  private readonly answers = new Map<string, Whereabouts>();
  private readonly held = new Map<string, Promise<Held | undefined>>();
  private readonly depots = new Map<string, Promise<DepotNow | undefined>>();
  private readonly all: ReadonlyMap<string, Parcel>;
  private readonly places: ReturnType<typeof protectedPlaces>;
  private packedSizes: ReadonlySet<number> | undefined;

  constructor(
    private readonly engine: Engine,
    private readonly options: Options,
  ) {
    this.all = new Map(parcels(engine).flatMap((parcel) => (parcel.state === "sent" ? [[parcel.id, parcel] as const] : [])));
    this.places = protectedPlaces(engine);
  }

  /** Whether anything of that length is known at all: else it need not be read to say that it lies nowhere else. */
  mayLie(bytes: number): boolean {
    const { db } = this.engine;
    this.packedSizes ??= new Set(prepared<[], number>(db, "SELECT DISTINCT bytes FROM parcel_file").pluck().all());
    if (this.packedSizes.has(bytes)) return true;
    const any = prepared<[number, number], number>(
      db,
      `SELECT 1 FROM filed_at WHERE bytes = ?
       UNION ALL SELECT 1 FROM item WHERE bytes = ? AND type = 'file' AND worktop IS NOT NULL AND seen = 1 LIMIT 1`,
    );
    return any.pluck().get(bytes, bytes) !== undefined;
  }

  async of(content: Content): Promise<Whereabouts> {
    const known = this.answers.get(content.sha256);
    if (known) return known;
    const answer = await this.look(content);
    this.answers.set(content.sha256, answer);
    return answer;
  }

  private async look(content: Content): Promise<Whereabouts> {
    const here = await this.here(content);
    if (here === true) return { known: "here" };
    const inParcel = await this.inParcels(content);
    if (inParcel.known === "depot") return inParcel;
    return here ? { known: "unsure", why: here } : inParcel;
  }

  /** On this computer: true, or what of it does not count and why. */
  private async here({ bytes, sha256 }: Content): Promise<true | string | undefined> {
    const rows = prepared<[number, string, number, string], FiledRow>(
      this.engine.db,
      `SELECT folder, name, ino, mtime_ns AS mtimeNs, sha256 FROM filed_at WHERE bytes = ? AND (sha256 IS NULL OR sha256 = ?)
       UNION SELECT folder, name, ino, mtime_ns, sha256 FROM item
       WHERE bytes = ? AND (sha256 IS NULL OR sha256 = ?) AND type = 'file' AND worktop IS NOT NULL AND seen = 1`,
    ).all(bytes, sha256, bytes, sha256);
    let why: string | undefined;
    // What was summed before is the likeliest.
    for (const row of rows.sort((a, b) => Number(b.sha256 !== null) - Number(a.sha256 !== null))) {
      const folder = rawFromBytes(row.folder);
      const path = joinRaw(folder, rawFromBytes(row.name));
      if (!(await this.holds(path, row, { bytes, sha256 }))) continue;
      const place = nearestPlace(this.places, folder);
      if (place?.protection !== "synchronised") return true;
      why = `in ${fromAccount(this.engine.account, shownName(place.folder))}, which is only synchronised: what is deleted elsewhere goes there too`;
    }
    return why;
  }

  private async holds(path: Raw, row: FiledRow, { bytes, sha256 }: Content): Promise<boolean> {
    try {
      const now = this.engine.disk.identity(path);
      if (now?.type !== "file" || now.bytes !== bytes) return false;
      const isKnown = row.sha256 !== null && row.ino === now.ino && row.mtimeNs === now.mtimeNs;
      if (isKnown && !this.options.whole) return row.sha256 === sha256;
      return (await readOnDisk(this.engine, path, bytes, this.options.pace)) === sha256;
    } catch (error) {
      // What cannot be looked at is no copy; a cancel is none of that.
      if (error instanceof Problem && error.code !== "cancelled") return false;
      throw error;
    }
  }

  private async inParcels(content: Content): Promise<Whereabouts> {
    const rows = prepared<[string], { parcel: string; path: string }>(
      this.engine.db,
      "SELECT parcel, path FROM parcel_file WHERE sha256 = ? AND state <> 'waiting'",
    ).all(content.sha256);
    const found: Whereabouts[] = [];
    for (const { parcel, path } of rows) {
      const held = parcel === this.options.except ? undefined : await this.heldIn(parcel);
      if (!held) continue;
      const here = await this.inParcel(held, path, content);
      if (here.known === "depot" && !here.far) return here;
      found.push(here);
    }
    const best = (["depot", "unsure", "nowhere"] as const).flatMap((known) => found.find((one) => one.known === known) ?? []);
    return best[0] ?? { known: "nowhere" };
  }

  /** A copy in a parcel: how it is known to lie there. */
  private async inParcel({ parcel, depot, check }: Held, path: string, content: Content): Promise<Whereabouts> {
    const words = this.engine.words();
    const where = `in the parcel “${parcel.title}” in ${depot?.title ?? depotTitle(this.engine, parcel.depot)}`;
    if (check && isDamaged(check, path))
      return { known: "nowhere", why: `its copy ${where} was found damaged ${words.ago(check.at)}` };
    const read = check ? `last read ${words.ago(check.at)}` : "never read over";
    if (!depot || depot.problem)
      return { known: "unsure", why: `${where}, ${read}${depot ? ", which is not in reach now" : ""}` };
    const place = placeOnDisk(depot.address, joinRaw(parcel.bag as Raw, rawFromText(path)));
    if (place === undefined) {
      const far: FarCopy = { ...content, parcel: parcel.id, depot: depot.id, path };
      return check ? { known: "depot", at: check.at, far } : { known: "unsure", why: `${where}, ${read}`, far };
    }
    const problem = await this.wrongWith(place, content, this.options.whole || !check);
    if (problem) return { known: "nowhere", why: `its copy ${where} ${problem}` };
    return { known: "depot", at: check?.at ?? this.engine.now() };
  }

  /** What is wrong with a file of a depot on this computer; `read`: all of it is. */
  private async wrongWith(place: Raw, { bytes, sha256 }: Content, read: boolean): Promise<string | undefined> {
    const { engine } = this;
    try {
      const now = engine.disk.identity(place);
      if (!now) return "is missing";
      if (now.type !== "file" || now.bytes !== bytes) return "is damaged";
      if (read && (await readOnDisk(engine, place, bytes, this.options.pace)) !== sha256) return "is damaged";
      return undefined;
    } catch (error) {
      if (error instanceof Problem && error.code !== "cancelled") return "cannot be read";
      throw error;
    }
  }

  private heldIn(id: string): Promise<Held | undefined> {
    const known = this.held.get(id) ?? this.askHeld(id);
    this.held.set(id, known);
    return known;
  }

  private async askHeld(id: string): Promise<Held | undefined> {
    const parcel = this.all.get(id);
    if (!parcel?.bag || !parcel.depot) return undefined;
    const asked = this.depots.get(parcel.depot) ?? askDepot(this.engine, parcel.depot);
    this.depots.set(parcel.depot, asked);
    return { parcel, depot: await asked, check: lastCheck(this.engine.db, id) };
  }
}

interface FiledRow {
  folder: Buffer;
  name: Buffer;
  ino: string;
  mtimeNs: string;
  sha256: string | null;
}

async function askDepot(engine: Engine, id: string): Promise<DepotNow | undefined> {
  try {
    return await depotNow(depotMeant(engine, id));
  } catch (error) {
    if (asProblem(error).code === "unknown-depot") return undefined;
    throw error;
  }
}

/** SHA-256 of a file on this computer, as it lies on the device; read once while it is the same. @throws Problem */
async function readOnDisk(engine: Engine, path: Raw, bytes: number, pace: Pace): Promise<string | undefined> {
  const known = readings.get(engine) ?? new Map<Raw, Reading>();
  readings.set(engine, known);
  const before = stateAt(engine.disk, path);
  const last = known.get(path);
  if (last && last.state === before) return last.sha256;
  const sha256 = await hashFromDevice(engine.disk, path, bytes, pace);
  if (before === undefined || stateAt(engine.disk, path) !== before) return undefined;
  if (known.size >= mostReadings) known.clear();
  known.set(path, { state: before, sha256 });
  return sha256;
}

function stateAt(disk: Disk, path: Raw): string | undefined {
  const stat = disk.stat(path);
  return stat && `${stat.dev}:${stat.ino}:${stat.size}:${stat.mtimeNs}:${stat.ctimeNs}`;
}

/** Reads copies back over the network; answers the checksums of those that are whole. */
export async function readFar(engine: Engine, far: readonly FarCopy[], pace: Pace): Promise<Set<string>> {
  const whole = new Set<string>();
  const byParcel = new Map<string, FarCopy[]>();
  for (const copy of far) byParcel.set(copy.parcel, [...(byParcel.get(copy.parcel) ?? []), copy]);
  const all = new Map(parcels(engine).map((parcel) => [parcel.id, parcel]));
  const link = engine.carrier();
  try {
    for (const [id, copies] of byParcel) {
      const parcel = all.get(id);
      if (!parcel?.bag) continue;
      const { address } = depotMeant(engine, copies[0]!.depot);
      const files = copies.map(({ path, bytes, sha256 }) => ({ path, bytes, sha256 }));
      await link.carry(
        "prove",
        { parcel: { depot: address, folder: parcel.bag as Raw }, files },
        {
          step: (n) => pace.step(n),
          breath: () => pace.breath(),
          signal: pace.signal,
          told: (file) => void ("sha256" in file && whole.add(file.sha256)),
        },
      );
    }
  } finally {
    await link.end();
  }
  return whole;
}

/** Whether the thing of which a parcel holds a copy lies in the trash still; of a file, in the state in which it is known. */
export function originalInTrash({ db, account, disk }: Engine, item: string): boolean {
  const original = itemById(db, item);
  if (!original || ![account.trash, ...account.otherTrashes].some((trash) => isWithin(trash, original.path))) return false;
  const now = unlessProblem(() => disk.identity(original.path));
  const { type, ino, bytes, mtimeNs } = original.identity;
  if (now?.type !== type || now.ino !== ino) return false;
  return type !== "file" || (now.bytes === bytes && now.mtimeNs === mtimeNs);
}

/**
 * Where the content of a file of a parcel is known to lie besides, in words, for when it is damaged there: in another parcel, in a
 * home or on a worktop, or as its original in the trash.
 */
export function knownPlace(engine: Engine, parcel: string, path: string): string | undefined {
  const file = prepared<[string, string], { item: string; sha256: string | null }>(
    engine.db,
    "SELECT item, sha256 FROM parcel_file WHERE parcel = ? AND path = ?",
  ).get(parcel, path);
  if (!file) return undefined;
  const safe = file.sha256 === null ? undefined : knownCopy(engine, parcel, file.sha256);
  return safe ?? (originalInTrash(engine, file.item) ? "the trash" : undefined);
}

function knownCopy(engine: Engine, except: string, sha256: string): string | undefined {
  const { db, account } = engine;
  const sent = new Map(parcels(engine).flatMap((one) => (one.state === "sent" ? [[one.id, one.title] as const] : [])));
  const others = prepared<[string, string], { parcel: string; path: string }>(
    db,
    "SELECT parcel, path FROM parcel_file WHERE sha256 = ? AND parcel <> ? AND state <> 'waiting'",
  ).all(sha256, except);
  for (const other of others) {
    const check = lastCheck(db, other.parcel);
    const title = sent.get(other.parcel);
    if (title !== undefined && check && !isDamaged(check, other.path)) return `the parcel “${title}”`;
  }
  const there = prepared<[string, string], { folder: Buffer; name: Buffer }>(
    db,
    `SELECT folder, name FROM filed_at WHERE sha256 = ?
     UNION ALL SELECT folder, name FROM item WHERE sha256 = ? AND type = 'file' AND worktop IS NOT NULL AND seen = 1`,
  )
    .all(sha256, sha256)
    .map(({ folder, name }) => joinRaw(rawFromBytes(folder), rawFromBytes(name)))
    .find((at) => unlessProblem(() => engine.disk.identity(at))?.type === "file");
  return there && fromAccount(account, shownName(there));
}
