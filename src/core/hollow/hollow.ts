import { z } from "zod";
import { raw } from "../ledger/shapes";
import { type Raw, rawFromText } from "../names/raw";

/** Whether a name is marked hidden, by the usual agreement: with a dot in front. */
export const isHiddenName = (name: Raw): boolean => name.startsWith(".");

/** What a hollow is remembered by. */
export const hollow = z.object({
  /** Where it lay when it was made, or was put in order last. */
  folder: raw,
  /** Where on the screen; null where that is not known. */
  x: z.number().nullable(),
  y: z.number().nullable(),
  note: z.string(),
  /** It is marked hidden, and lies at no spot; else it is drawn as nothing at one. */
  hidden: z.literal(true).optional(),
  /** Milliseconds since 1970. */
  at: z.number(),
  /** What the person saw in its place. */
  seen: z.enum(["nothing", "a box", "a label"]).nullable(),
});
export type Hollow = z.infer<typeof hollow>;

export const metadataFile = rawFromText(".directory");
export const pictureFile = rawFromText(".clear.png");

/** The folder's own metadata (Desktop Entry Specification, Type=Directory): its picture, and by what it is known again. */
export const metadataText = (id: string): Raw =>
  rawFromText(`[Desktop Entry]\nType=Directory\nIcon=./.clear.png\nX-Vuoto-Hollow=${id}\n`);

/** The id that a folder's metadata names; undefined where it is no hollow's. */
export const hollowIn = (metadata: Raw): string | undefined => /^X-Vuoto-Hollow=([0-9a-f-]{36})\s*$/m.exec(metadata)?.[1];

/** 64 by 64 pixels of nothing, as PNG. */
export const clearPicture = atob(
  "iVBORw0KGgoAAAANSUhEUgAAAEAAAABACAMAAACdt4HsAAAAA1BMVEVMaXFNx9g6AAAAAXRSTlMAQObYZgAAAAlwSFlzAAAD6AAAA+gBtXtSawAAABtJREFUWMPtwYEAAAAAw6D5U9/gBFUBAAAAfAMQQAABGbMxdgAAAABJRU5ErkJggg==",
) as Raw;
