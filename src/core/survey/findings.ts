import type { Kind } from "./kinds";

/** What findings are made from: an item and what is known of it. */
export interface FoundItem {
  id: string;
  kind: Kind;
  label: string;
  /** "on the desktop" */
  where: string;
  folder: boolean;
  bytes: number;
  mtimeMs: number;
  /** When it came to the worktop, and when it was last opened, where that is known; milliseconds since 1970. */
  arrivedMs?: number;
  openedMs?: number;
  sha256?: string;
  /** Where a shortcut leads that leads nowhere. */
  dead?: string;
  /** How many entries a folder holds. */
  entries?: number;
  /** It stays, waits, or is collected, as the person said: nothing else is done with it in passing. */
  decided?: boolean;
  /** Why it is taken to be in use, in words. */
  inUse?: string;
  /** Of an archive that was compared with a folder: how many entries it has, where they lie, and which do not. */
  unpacked?: Unpacked;
  /** Of a folder: how many of its files lie elsewhere too, of how many, with their bytes and one of them by name. */
  inside?: { same: number; of: number; bytes: number; name: string; other: string };
  /** Whether an identical copy lies in a protected place; undefined where that is not known. */
  elsewhere?: boolean;
}

export interface Unpacked {
  /** The folder, as shown. */
  place: string;
  entries: number;
  /** Entries that are missing or differ there. */
  missing: string[];
}

/** Strongest proof first. */
export const findingKinds = [
  "dead shortcut",
  "twins",
  "spent archive",
  "empty",
  "half download",
  "twins inside",
  "in use",
  "stale",
  "large",
  "nowhere else",
] as const;
export type FindingKind = (typeof findingKinds)[number];

/** Kinds whose things can be let go on the strength of the proof. */
export const settlingKinds = ["dead shortcut", "twins", "spent archive", "empty", "half download"] as const;
export type SettlingKind = (typeof settlingKinds)[number];
export const settles = (kind: FindingKind): kind is SettlingKind => (settlingKinds as readonly string[]).includes(kind);

/** One thing a finding is about, how it is known, and what stays for it. */
export interface Found {
  id: string;
  /** In words, for this one. */
  proof: string;
  /** Of a twin: the item that stays, or the place of the copy that does. */
  stays?: { id: string } | { place: string };
}

/** A computed statement about items, with its proof. */
export interface Finding {
  kind: FindingKind;
  each: Found[];
  /** How it is known, in words. */
  proof: string;
  wins: { items: number; bytes: number };
}

/** A file in a home that is identical with some item; `place` identifies it to the caller. */
export interface FiledTwin {
  sha256: string;
  label: string;
  place: string;
}

const day = 86_400_000;
/** Untouched for longer than this is stale, in days; half a year is two rounds of the seasons' work. */
export const staleDays = 180;
/** A half download that has not changed for this long is not coming any more. */
const restsMs = 10 * 60_000;
const largeBytes = 1_000_000;
const mostLarge = 12;

const sum = (items: FoundItem[]) => items.reduce((total, item) => total + item.bytes, 0);

/**
 * The findings about some items, those first that win most; what can be settled before what is only said. `now` in
 * milliseconds since 1970. Of twins the copy in a home stays, else one that the person decided about, else the one that was
 * there first. Things in use, and what was decided about, are in no finding that would let them go.
 */
export function findingsOf(items: FoundItem[], filed: FiledTwin[], now: number): Finding[] {
  const resting = items.filter((item) => item.inUse === undefined);
  const open = resting.filter((item) => item.decided !== true);
  const findings: Finding[] = [];
  const byId = new Map(items.map((item) => [item.id, item]));
  const add = (kind: FindingKind, proof: string, each: Found[]) => {
    if (each.length === 0) return;
    const about = each.map(({ id }) => byId.get(id)!);
    const bytes = kind === "twins inside" ? about.reduce((total, item) => total + (item.inside?.bytes ?? 0), 0) : sum(about);
    findings.push({ kind, each, proof, wins: { items: each.length, bytes } });
  };

  add(
    "dead shortcut",
    "what they lead to was looked for and is not there",
    open.flatMap(({ id, dead }) => (dead === undefined ? [] : [{ id, proof: `${dead} was looked for and is not there` }])),
  );
  add("twins", "the same to the last byte; one of each stays, the one in a home if there is one", twins(resting, filed));
  add(
    "spent archive",
    "every entry was unpacked and compared: all of it lies there already, byte for byte",
    open.flatMap(({ id, unpacked }) =>
      unpacked && unpacked.missing.length === 0
        ? [{ id, proof: `all ${unpacked.entries} entries lie in ${unpacked.place}, byte for byte` }]
        : [],
    ),
  );
  add(
    "empty",
    "there is nothing in them",
    open.flatMap((item) => {
      if (item.folder && item.entries === 0) return [{ id: item.id, proof: "a folder without an entry" }];
      const file = !item.folder && item.bytes === 0 && item.kind !== "shortcut" && item.kind !== "temporary";
      return file && item.kind !== "half download" ? [{ id: item.id, proof: "a file of no bytes" }] : [];
    }),
  );
  add(
    "half download",
    "they have not grown for a while, and no program has them open",
    open.flatMap(({ id, kind, label, mtimeMs }) => {
      if (kind !== "half download" || now - mtimeMs < restsMs) return [];
      const whole = items.find((other) => other.id !== id && label.startsWith(`${other.label}.`));
      const rests = `not grown for ${daysWords((now - mtimeMs) / day)}`;
      return [{ id, proof: whole ? `${rests}; ${whole.label} lies beside it, whole` : rests }];
    }),
  );
  add(
    "twins inside",
    "they hold files that lie elsewhere too, the same byte for byte; look into them",
    items.flatMap(({ id, inside }) => (inside ? [{ id, proof: insideWords(inside) }] : [])),
  );
  add(
    "in use",
    "they are left alone by every act until they rest",
    items.flatMap(({ id, inUse }) => (inUse === undefined ? [] : [{ id, proof: inUse }])),
  );
  add("stale", `neither changed, opened nor brought here in the last ${staleDays} days`, stale(resting, now));
  add("large", "these few hold half of all bytes", large(resting));
  add(
    "nowhere else",
    "no file with the same content lies in a place that you said is backed up",
    items.flatMap(({ id, elsewhere }) =>
      elsewhere === false ? [{ id, proof: "no copy of it was found in a place that is backed up" }] : [],
    ),
  );
  return findings.sort(
    (a, b) => Number(settles(b.kind)) - Number(settles(a.kind)) || b.wins.items - a.wins.items || b.wins.bytes - a.wins.bytes,
  );
}

/** Empty files are not called twins. At least one of every twin always stays. */
function twins(items: FoundItem[], filed: FiledTwin[]): Found[] {
  const inHome = new Map(filed.map((file) => [file.sha256, file]));
  const bySum = new Map<string, FoundItem[]>();
  for (const item of items) {
    if (item.sha256 === undefined || item.bytes === 0) continue;
    bySum.set(item.sha256, [...(bySum.get(item.sha256) ?? []), item]);
  }
  const found: Found[] = [];
  for (const [sha256, same] of bySum) {
    const home = inHome.get(sha256);
    if (home) {
      for (const item of same)
        if (!item.decided)
          found.push({ id: item.id, proof: `the same, byte for byte, as ${home.label}`, stays: { place: home.place } });
    } else if (same.length > 1) {
      const [first, ...rest] = same.toSorted(
        (a, b) =>
          Number(b.decided ?? false) - Number(a.decided ?? false) ||
          a.mtimeMs - b.mtimeMs ||
          a.label.length - b.label.length ||
          (a.id < b.id ? -1 : 1),
      );
      const why = first!.decided ? "which stays as you said" : "which was there first";
      for (const item of rest)
        if (!item.decided)
          found.push({
            id: item.id,
            proof: `the same, byte for byte, as ${first!.label} ${first!.where}, ${why}`,
            stays: { id: first!.id },
          });
    }
  }
  return found;
}

function insideWords({ same, of, name, other }: NonNullable<FoundItem["inside"]>): string {
  const which = same === of ? (of === 1 ? "its one file lies" : `all ${of} files in it lie`) : `${same} of ${of} files in it lie`;
  return `${same === 1 && of > 1 ? `1 of ${of} files in it lies` : which} elsewhere too: ${name} is the same as ${other}`;
}

/** By the best of what is known of opening, change and arrival; says how sure that is. */
function stale(items: FoundItem[], now: number): Found[] {
  return items.flatMap(({ id, kind, mtimeMs, arrivedMs, openedMs }) => {
    if (kind === "shortcut" || kind === "web link") return [];
    const touched = Math.max(mtimeMs, arrivedMs ?? 0, openedMs ?? 0);
    const days = (now - touched) / day;
    if (days < staleDays) return [];
    const sure =
      openedMs !== undefined && openedMs > mtimeMs ? "last opened" : "last changed; when it was opened is not recorded";
    return [{ id, proof: `untouched for ${daysWords(days)}: ${sure}` }];
  });
}

/** The fewest things that together hold half of all bytes, where these are few and there is something to win. */
function large(items: FoundItem[]): Found[] {
  const total = sum(items);
  const falling = items.filter((item) => item.bytes >= largeBytes).sort((a, b) => b.bytes - a.bytes);
  let held = 0;
  const few: Found[] = [];
  for (const item of falling) {
    if (held * 2 >= total || few.length === mostLarge) break;
    held += item.bytes;
    few.push({ id: item.id, proof: `${Math.round((100 * item.bytes) / total)} % of all bytes` });
  }
  return held * 2 >= total ? few : [];
}

function daysWords(days: number): string {
  if (days < 2) return days < 1 / 24 ? `${Math.round(days * 24 * 60)} minutes` : `${Math.round(days * 24)} hours`;
  if (days < 60) return `${Math.floor(days)} days`;
  return days < 730 ? `${Math.floor(days / 30.44)} months` : `${Math.floor(days / 365.25)} years`;
}
