import { z } from "zod";
import { trial } from "./items";

/** A folder's path as text, or its bytes in base64. */
const folder = z.union([z.string().min(1).max(4096), z.object({ path: z.base64().max(8192) })]);
export type FolderRef = z.infer<typeof folder>;

export const addDepotInput = z.object({
  folder,
  title: z.string().trim().min(1).max(120).optional(),
  ...trial,
});
export type AddDepotInput = z.infer<typeof addDepotInput>;

/** A depot or parcel by its id or its title. */
const named = z.string().min(1).max(200);

export const removeDepotInput = z.object({ depot: named, ...trial });
export type RemoveDepotInput = z.infer<typeof removeDepotInput>;

export const sendInput = z.object({ parcel: named, depot: named, ...trial });
export type SendInput = z.infer<typeof sendInput>;

export const checkInput = z.object({ parcel: named });
export type CheckInput = z.infer<typeof checkInput>;

export const parcelRestoreInput = z.object({
  parcel: named,
  /** A folder that is not there yet, for all of it; without it each thing goes back to where it lay. */
  into: folder.optional(),
  /** What can be run, or runs others, comes along as it is: asked, and answered. */
  programs: z.boolean().optional(),
  ...trial,
});
export type ParcelRestoreInput = z.infer<typeof parcelRestoreInput>;

export const checkAnswer = z.object({
  parcel: z.string(),
  whole: z.boolean(),
  files: z.number(),
  bytes: z.number(),
  damaged: z.array(z.string()),
  missing: z.array(z.string()),
});
export type CheckAnswer = z.infer<typeof checkAnswer>;
