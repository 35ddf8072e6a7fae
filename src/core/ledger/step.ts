import type { Raw } from "../names/raw";

/** What a directory entry is. */
export type EntryType = "file" | "folder" | "link" | "special";

/** What tells one file from another and one state of it from the next. `device` is left out: it holds for one boot only. */
export interface Identity {
  type: EntryType;
  ino: string;
  bytes: number;
  /** Nanoseconds since 1970, decimal, as it may pass 2^53. */
  mtimeNs: string;
}

/** One entry of a tree to be copied: `rel` is empty for the thing itself, else its path below it. */
export interface TreeEntry {
  rel: Raw;
  type: "file" | "folder" | "link";
  mode: number;
  mtimeNs: string;
  bytes: number;
  /** For a file: where its content is read from, and the SHA-256 the copy must have. */
  source?: Raw;
  sha256?: string;
  /** For a link: where it leads. */
  target?: Raw;
  xattrs?: [name: Raw, value: Raw][];
  /** For a file that has two names in the tree: the first one, of which it becomes a second name again. */
  sameAs?: Raw;
}

export interface Point {
  /** Pixels of the screen from its left and upper edge to the icon's box. */
  x: number;
  y: number;
}

export type QuietLevel = "everything" | "some kinds" | "what stays" | "bare";

/** What the screen shows: the level, since when, and which items are out of sight. */
export interface Shown {
  level: QuietLevel;
  since: number;
  hidden: string[];
}

export type Json = null | boolean | number | string | Json[] | { [key: string]: Json };

/** A thing that goes into a parcel. `payload` is its name inside the parcel's payload. */
export interface ParcelThing {
  item: string;
  from: Raw;
  payload: string;
  identity: Identity;
  position: Point | null;
}

/**
 * Why a thing may be let go: proven again at the moment it is. `other`: the file that stays, whose SHA-256 must be the same;
 * `folder`: where an archive lies unpacked.
 */
export type Proof =
  | { kind: "twins"; other: Raw; sha256: string }
  | { kind: "spent archive"; folder: Raw }
  | { kind: "dead shortcut" }
  | { kind: "empty" }
  | { kind: "half download" };

/** A small file, whole: its bytes, its rights and its attributes. Without a mode that is the usual one, and not compared. */
export interface SmallFile {
  content: Raw;
  mode?: number;
  xattrs?: [name: Raw, value: Raw][];
}

export type MoveStep = { type: "move"; item?: string; from: Raw; to: Raw; identity: Identity };
export type CopyStep = { type: "copy"; item?: string; to: Raw; tree: TreeEntry[] };
export type TrashStep = {
  type: "trash";
  item?: string;
  from: Raw;
  /** The trash folder (holding `files` and `info`), and the name in it. */
  trash: Raw;
  name: Raw;
  /** The whole info file. */
  info: string;
  identity: Identity;
  /** Only once this step of the same act, a sending, has proven the copy. */
  sentBy?: number;
  /** Only while this still holds. */
  proof?: Proof;
};
export type RestoreStep = { type: "restore"; item?: string; trash: Raw; name: Raw; info: string; to: Raw; identity: Identity };
/**
 * `shared`: a folder that later acts rely on without being asked, such as the trash; undone only once it is empty. `named`: one
 * that the person named for this act, which may work in it wherever it lies.
 */
export type MakeFolderStep = { type: "make-folder"; folder: Raw; mode?: number; shared?: true; named?: true };
export type RemoveEmptyFolderStep = { type: "remove-empty-folder"; folder: Raw; mode: number; mtimeNs: string };
export type WriteStep = { type: "write"; file: Raw; before: SmallFile | null; after: SmallFile | null };
export type PlaceStep = { type: "place"; item: string; from: Point | null; to: Point | null };
export type ShowStep = { type: "show"; from: Shown; to: Shown };
/** `shared`: a record that later acts rely on without being asked, such as a parcel; it stays when the act is undone. */
export type SetStep = { type: "set"; key: string; from: Json; to: Json; shared?: true };
export type SendStep = {
  type: "send";
  parcel: string;
  depotId: string;
  depot: Raw;
  bag: Raw;
  title: string;
  madeAt: string;
  things: ParcelThing[];
};

/**
 * Destroys a thing that lies in the trash. `copy`: what of it a depot holds, from which an undo fetches it back. `state`: that of
 * all in it when it was counted.
 */
export type EraseStep = {
  type: "erase";
  item?: string;
  trash: Raw;
  name: Raw;
  info: string;
  identity: Identity;
  copy?: TreeEntry[];
  state?: string;
};

/**
 * One change, as data. A step can be checked, done, undone and, after a crash, settled; src/server/ledger/steps holds
 * one file for each type. What only concerns Vuoto's own record (place, show, set) is written with the entry itself.
 */
export type Step =
  | MoveStep
  | CopyStep
  | TrashStep
  | RestoreStep
  | MakeFolderStep
  | RemoveEmptyFolderStep
  | WriteStep
  | PlaceStep
  | ShowStep
  | SetStep
  | SendStep
  | EraseStep;

export type StepState = "planned" | "done" | "undone" | "refused";
export type EntryState = "running" | "done" | "undone";

/** The acts, by the name under which the ledger keeps them. */
export type ActName =
  | "put"
  | "sweep"
  | "stay"
  | "wait"
  | "archive"
  | "let-go"
  | "settle"
  | "protect"
  | "leave-out"
  | "restore"
  | "empty"
  | "add-home"
  | "home-moved"
  | "gather"
  | "split"
  | "set-out"
  | "retitle"
  | "launcher"
  | "remove-home"
  | "add-depot"
  | "remove-depot"
  | "send"
  | "parcel-restore"
  | "quiet"
  | "undo"
  | "redo";

/** A plan: what an act would do. Not performed, it is the act's trial. */
export interface Plan {
  act: ActName;
  /** What happened, for the steps that were done: "Put tide.pdf into Station / Tides". */
  words: (done: Step[]) => string;
  steps: Step[];
  /** Things that cannot take part, and why; said, and not part of the steps. */
  left: { name: string; item?: string; code: string; why: string }[];
  /** A sitting that several acts belong to. */
  sitting?: string;
  /** The verdict that it does, as it was given in a sitting. */
  given?: string;
}
