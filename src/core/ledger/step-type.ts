import type { z } from "zod";
import { isBlankName } from "../hollow/blanks";
import { folderOf, type Raw, shownName } from "../names/raw";
import type { Words } from "../words/words";
import type { Identity } from "./shapes";

/**
 * What a step is for. `thing`: it changes where a thing of the person lies, or what lies there; `parcel`: it sends things; `screen`: it
 * changes what another program shows; `preparation`: it makes ready for, or tidies up after, others; `record`: it changes Vuoto's record alone, and is written with
 * its entry, so what was not committed needs no taking back.
 */
export type Role = "thing" | "parcel" | "screen" | "preparation" | "record";

/** How a sentence names places and things. */
export interface Saying {
  /** The account's folder. */
  root: Raw;
  words: Words;
  /** A thing's title by its id. */
  titleOf(item: string): string;
}

/**
 * What steps have to do with, for the question whether an older entry can be undone. `makes`: items, records and paths
 * that they change; `uses`: the folders they rely on; `leaves`: the paths they took something from, which undo needs free;
 * `fills`: those they put something at.
 */
export class Touch {
  readonly makes = new Set<string>();
  readonly uses = new Set<string>();
  readonly leaves = new Set<Raw>();
  readonly fills = new Set<Raw>();

  /** It changes a record, or another thing that has a key. */
  record(key: string): void {
    this.makes.add(key);
  }

  item(id: string | undefined): void {
    if (id) this.makes.add(`item:${id}`);
  }

  /** It takes what lies at a path. */
  leave(path: Raw): void {
    this.change(path);
    this.leaves.add(path);
  }

  /** It puts something at a path. */
  fill(path: Raw): void {
    this.change(path);
    this.fills.add(path);
  }

  /** It relies on the folders that lead to a path. */
  use(path: Raw): void {
    for (let folder = folderOf(path); folder !== "/"; folder = folderOf(folder)) this.uses.add(`path:${folder}`);
  }

  private change(path: Raw): void {
    this.makes.add(`path:${path}`);
    this.use(path);
  }
}

/** A type of step: all that is known of it without doing it. src/server/ledger/steps does, undoes and settles it. */
export interface StepType<S> {
  schema: z.ZodType<S>;
  role: Role;
  /** The name of what it concerns, as shown. */
  subject(step: S): string;
  /** What it does, in words: one line for the ledger and for a trial. */
  sentence(step: S, saying: Saying): string;
  touches(step: S, touch: Touch): void;
  /** What it takes away from where it lies: it must not be being written. */
  takes?(step: S): { from: Raw; identity: Identity } | undefined;
  /** A folder that the person named for the act: within bounds from the act's first step on. */
  widens?(step: S): Raw | undefined;
  /** An earlier step of the same plan makes what it rests on: a trial cannot check it. */
  restsOnEarlier?(step: S): boolean;
}

/** A path below the account as a person reads it: "Station / Tides". `root` is the account's folder. */
export function shownPlace(folder: Raw, root: Raw): string {
  if (folder === root) return "the account's folder";
  const rel = folder.startsWith(`${root}/`) ? folder.slice(root.length + 1) : folder.slice(1);
  const parts = rel.split("/").map((part) => (isBlankName(part as Raw) ? "(a blank name)" : shownName(part as Raw)));
  return (folder.startsWith(`${root}/`) ? "" : "/ ") + parts.join(" / ");
}

/** What a step concerns that changes Vuoto's record alone. */
export const ofRecord = () => "Vuoto's record";
