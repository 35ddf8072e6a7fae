import { z } from "zod";
import type { Raw } from "../names/raw";

/** Byte strings are stored as they are: one code unit a byte. */
export const raw = z.custom<Raw>((value) => typeof value === "string" && /^[\u0000-\u00ff]*$/.test(value));

/** What a directory entry is. */
export type EntryType = "file" | "folder" | "link" | "special";

/** What tells one file from another and one state of it from the next. `device` is left out: it holds for one boot only. */
export const identity = z.object({
  type: z.enum(["file", "folder", "link", "special"]),
  ino: z.string(),
  bytes: z.number(),
  /** Nanoseconds since 1970, decimal, as it may pass 2^53. */
  mtimeNs: z.string(),
});
export type Identity = z.infer<typeof identity>;

const xattrs = z.array(z.tuple([raw, raw]));

/** One entry of a tree to be copied: `rel` is empty for the thing itself, else its path below it. */
export const treeEntry = z.object({
  rel: raw,
  type: z.enum(["file", "folder", "link"]),
  mode: z.number(),
  mtimeNs: z.string(),
  bytes: z.number(),
  /** For a file: where it lies on this computer; or its path in a parcel, beginning with data/. */
  source: raw.optional(),
  payload: z.string().optional(),
  /** The SHA-256 that the copy must have. */
  sha256: z.string().optional(),
  /** For a link: where it leads. */
  target: raw.optional(),
  xattrs: xattrs.optional(),
  /** For a file that has two names in the tree: the first one, of which it becomes a second name again. */
  sameAs: raw.optional(),
});
export type TreeEntry = z.infer<typeof treeEntry>;

/**
 * A parcel's folder: its name in the depot of that id. `lay`: the folder that the depot was then, for one that is no longer in
 * the list. Without an id, as older versions kept it, that is all that is known.
 */
export const parcelRef = z.object({ depot: z.string().optional(), lay: raw, name: raw });
export type ParcelRef = z.infer<typeof parcelRef>;

/** Pixels of the screen from its left and upper edge to the icon's box. */
export const point = z.object({ x: z.number(), y: z.number() });
export type Point = z.infer<typeof point>;

export type Json = null | boolean | number | string | Json[] | { [key: string]: Json };

/** A small file, whole: its bytes, its rights and its attributes. Without a mode that is the usual one, and not compared. */
export const smallFile = z.object({ content: raw, mode: z.number().optional(), xattrs: xattrs.optional() });
export type SmallFile = z.infer<typeof smallFile>;
