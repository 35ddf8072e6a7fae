import { z } from "zod";
import type { FrameView } from "./views";

/**
 * A folder, by its path's bytes in base64, or as it was typed: from the root on, from the account's folder on with a tilde or
 * without one.
 */
export const folderRef = z.union([z.string().trim().min(1).max(4096), z.object({ path: z.base64().max(8192) })]);
export type FolderRef = z.infer<typeof folderRef>;

/** Looks into a folder, to choose it or one in it; without one, into the account's. */
export const foldersInput = z.object({ folder: folderRef.optional() });
export type FoldersInput = z.infer<typeof foldersInput>;

export interface FolderLine {
  /** Its bytes in base64. */
  path: string;
  name: string;
}

export interface FoldersAnswer extends FolderLine {
  /** The folder that it lies in. */
  above?: FolderLine;
  /** What lies in it, by name; folders with a dot in front of their name are left out. */
  folders: FolderLine[];
  /** How many more there are than are listed. */
  more: number;
  /** Where to begin: the account's folder, and each drive that is plugged in, with what is free on it. */
  starts: (FolderLine & { free?: string })[];
}

export interface FrameAnswers {
  "frame/frame": FrameView;
  "frame/folders": FoldersAnswer;
  "jobs/cancel": { cancelled: boolean };
}
