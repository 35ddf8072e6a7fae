import { z } from "zod";
import { folderRef } from "./folders";
import { type ReportJson, trial } from "./items";

export const addDepotInput = z.object({
  folder: folderRef,
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
  into: folderRef.optional(),
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

/** Depots and parcels, as data. */
export interface DepotsAnswer {
  depots: { id: string; title: string; folder: string; there: boolean; free: number | null }[];
  parcels: {
    id: string;
    title: string;
    state: "collecting" | "sent";
    depot: string | null;
    things: number;
    files: number | null;
    bytes: number | null;
    sentAt: string | null;
  }[];
}

/** A parcel with what is in it. */
export interface ParcelAnswer {
  id: string;
  title: string;
  state: "collecting" | "sent";
  /** Its folder in the depot, once it was sent. */
  bag: string | null;
  things: { name: string; folder: string; bytes: number; files: number | null }[];
}

export interface DepotsAnswers {
  "depots/list": DepotsAnswer;
  "depots/add": ReportJson;
  "depots/remove": ReportJson;
  "depots/send": ReportJson;
  "depots/check": CheckAnswer;
  "depots/show": ParcelAnswer;
  "depots/restore": ReportJson;
}
