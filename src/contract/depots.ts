import { z } from "zod";
import type { DepotKind, DepotState, ParcelState } from "./depot-states";
import { folderRef } from "./folders";
import { homeRef } from "./homes";
import { itemRef, type ReportJson, trial } from "./items";
import type { Shown } from "./looks";

/** A depot or parcel by its id, its title or its place. */
const named = z.string().min(1).max(4096);

const title = z.string().trim().min(1).max(120);

/** The SHA-256 of a certificate, in hex, with or without colons. */
const fingerprint = z
  .string()
  .transform((text) => text.replace(/[:\s]/g, "").toLowerCase())
  .pipe(z.string().regex(/^[0-9a-f]{64}$/));

const signIn = {
  user: z.string().max(500).optional(),
  password: z.string().max(5000).optional(),
  /** How long the sign-in is kept: until it is changed, in a file that only the person can read, or until Vuoto ends. */
  keep: z.enum(["changed", "end"]).optional(),
  /** A certificate that the person accepts though nobody vouches for it. */
  accept: fingerprint.optional(),
};

export const addDepotInput = z.object({
  /** A folder, a drive's mount point, or the address of a cloud. */
  location: folderRef,
  title: title.optional(),
  ...signIn,
  /** A drive that has the mark of a depot on the list, and is another file system: whether it takes its place. */
  replace: z.boolean().optional(),
  ...trial,
});
export type AddDepotInput = z.input<typeof addDepotInput>;

export const changeSignInInput = z.object({ depot: named, ...signIn });
export type ChangeSignInInput = z.output<typeof changeSignInInput>;

export const depotInput = z.object({ depot: named });
export type DepotInput = z.infer<typeof depotInput>;

export const removeDepotInput = z.object({ depot: named, ...trial });
export type RemoveDepotInput = z.infer<typeof removeDepotInput>;

export const checksInput = z.object({
  depot: named,
  on: z.boolean(),
  /** Of a cloud: so many bytes a month at most. */
  bytesAMonth: z.number().int().min(1).optional(),
  ...trial,
});
export type ChecksInput = z.infer<typeof checksInput>;

export const sendInput = z.object({
  parcel: named,
  /** Where to; not needed for one that is on its way. */
  depot: named.optional(),
  /** Whether to wait until it has arrived. */
  wait: z.boolean().optional(),
  ...trial,
});
export type SendInput = z.infer<typeof sendInput>;

export const parcelInput = z.object({ parcel: named });
export type ParcelInput = z.infer<typeof parcelInput>;

export const renameParcelInput = z.object({ parcel: named, title, ...trial });
export type RenameParcelInput = z.infer<typeof renameParcelInput>;

/** Things that go from one parcel into another, or with no parcel named out of all. */
export const moveThingsInput = z.object({
  items: z.array(itemRef).min(1).max(100_000),
  parcel: title.optional(),
  ...trial,
});
export type MoveThingsInput = z.infer<typeof moveThingsInput>;

export const parcelRestoreInput = z.object({
  parcel: named,
  /** Files and folders of it, by their paths in it as they are shown; without any, all of it. */
  names: z.array(z.string().min(1)).min(1).max(100_000).optional(),
  /** A folder that is not there yet, for all of it; without it each thing goes back to where it lay. */
  into: folderRef.optional(),
  /** What can be run, or runs others, comes along as it is: asked, and answered. */
  programs: z.boolean().optional(),
  ...trial,
});
export type ParcelRestoreInput = z.infer<typeof parcelRestoreInput>;

export const parcelDeleteInput = z.object({
  parcel: named,
  /** The answer's `seen`: a parcel that is another by now, or of which more would be lost than was shown, is not deleted. */
  seen: z.string().optional(),
  /** Copies in clouds are read back before, too. */
  network: z.boolean().optional(),
  ...trial,
});
export type ParcelDeleteInput = z.infer<typeof parcelDeleteInput>;

export const browseInput = z.object({ parcel: named, folder: z.string().max(8192).optional() });
export type BrowseInput = z.infer<typeof browseInput>;

/** A file of a parcel that is looked at, by its path there. */
export const parcelLookInput = z.object({ parcel: named, path: z.string().min(1).max(8192), wait: z.boolean().optional() });
export type ParcelLookInput = z.infer<typeof parcelLookInput>;

export const findInput = z.object({ words: z.string().trim().min(1).max(200) });
export type FindInput = z.infer<typeof findInput>;

/** A proposal that is taken up: its things go into a parcel, but for some. */
export const proposeInput = z.object({
  proposal: z.string().min(1).max(200),
  except: z.array(itemRef).max(100_000).optional(),
  title: title.optional(),
  ...trial,
});
export type ProposeInput = z.infer<typeof proposeInput>;

/** What lies in a home, or in it and unchanged since a day, goes into a parcel. */
export const fromHomeInput = z.object({
  home: homeRef,
  /** Milliseconds since 1970. */
  before: z.number().optional(),
  parcel: title.optional(),
  ...trial,
});
export type FromHomeInput = z.infer<typeof fromHomeInput>;

export const plugInput = z.object({ drive: z.string().min(1), in: z.boolean() });
export type PlugInput = z.infer<typeof plugInput>;

export interface CheckAnswer {
  parcel: string;
  whole: boolean;
  files: number;
  bytes: number;
  /** Paths in the bag. `elsewhere`: where the same content still lies, for a file of which that is known. */
  damaged: string[];
  missing: string[];
  elsewhere: { path: string; place: string }[];
}

export interface DepotJson {
  id: string;
  title: string;
  kind: DepotKind;
  location: string;
  state: DepotState;
  free: number | null;
  total: number | null;
  parcels: number;
}

export interface ParcelJson {
  id: string;
  title: string;
  /** Its depot's title. */
  depot: string | null;
  state: ParcelState;
  things: number;
  files: number | null;
  bytes: number | null;
  /** When all of it was last read and found whole: ISO 8601. */
  provenAt: string | null;
}

/** A parcel with what is in it. */
export interface ParcelAnswer extends ParcelJson {
  /** Its folder in the depot, once it was sent. */
  bag: string | null;
  contents: { name: string; folder: string; bytes: number; files: number | null }[];
  /** Why it stands still, where it does. */
  problem: string | null;
}

/** What lies in a folder of a parcel; the path of each is what it is restored by. */
export interface BrowseAnswer {
  parcel: string;
  /** Whether it is told from what was sent, as its depot is away. */
  fromRecord: boolean;
  /** Whether its files lie on this computer or a drive of it, and can be looked at there. */
  local: boolean;
  folder: string;
  entries: {
    name: string;
    path: string;
    type: "file" | "folder" | "link";
    bytes: number;
    files: number;
    modifiedAt: string | null;
    from: string | null;
  }[];
  more: number;
}

export interface FindAnswer {
  found: { parcel: string; title: string; depot: string; near: boolean; path: string; bytes: number }[];
  more: number;
}

/** What deleting a parcel takes away for good. */
export interface DeleteAnswer extends ReportJson {
  /** All that is shown here, file by file: given back when it is to be done. */
  seen: string;
  files: number;
  bytes: number;
  /** Files of which no copy is known, or a damaged one, and their bytes. */
  nowhereElse: { files: number; bytes: number };
  /** Files whose originals lie in the trash, and nowhere else that is known. */
  inTrash: { files: number; bytes: number };
  /** Files of which one may lie elsewhere, and why that is not known. */
  notKnown: { files: number; bytes: number; why: string[] };
  /** Files with copies in clouds alone, which were whole when they were last read. */
  far: { files: number; bytes: number };
}

/** What could go to a depot. */
export interface ProposalJson {
  id: string;
  title: string;
  kind: "project" | "year" | "untouched";
  things: { id: string; name: string; path: string; bytes: number }[];
  bytes: number;
}

/** How the parcels that are collected would fit into what is free. */
export interface FitAnswer {
  parcels: {
    id: string;
    title: string;
    bytes: number;
    /** The depot that it goes to, and its id; null where none has room for all of it. */
    depot: string | null;
    depotId: string | null;
    /** Then how it can be cut between its things, and what has no room at all. */
    parts: { depot: string; things: number; bytes: number; items: string[] }[];
    tooLarge: { name: string; bytes: number }[];
  }[];
}

export interface DepotsAnswers {
  "depots/list": DepotJson[];
  "depots/parcels": ParcelJson[];
  "depots/add": ReportJson;
  "depots/sign-in": { words: string };
  "depots/remove": ReportJson;
  "depots/checks": ReportJson;
  "depots/check-all": CheckAnswer[];
  "depots/send": ReportJson;
  "depots/pause": { words: string };
  "depots/cancel": { words: string };
  "depots/rename": ReportJson;
  "depots/move": ReportJson;
  "depots/from-home": ReportJson;
  "depots/check": CheckAnswer;
  "depots/show": ParcelAnswer;
  "depots/browse": BrowseAnswer;
  "depots/look": Shown;
  "depots/find": FindAnswer;
  "depots/restore": ReportJson;
  "depots/delete": DeleteAnswer;
  "depots/proposals": ProposalJson[];
  "depots/propose": ReportJson;
  "depots/fit": FitAnswer;
  "depots/plug": { words: string };
}
