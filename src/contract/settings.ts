import { z } from "zod";
import { trial } from "./items";

/** The launchers that can stand among the account's programs: one that opens Vuoto, and one for gathering. */
export const launchers = ["open", "gather"] as const;

/** Puts a launcher among the account's programs, or takes it away. */
export const launcherInput = z.object({ which: z.enum(launchers), away: z.boolean().optional(), ...trial });
export type LauncherInput = z.infer<typeof launcherInput>;

/** A file's path, whole. */
export const backupInput = z.object({ file: z.string().startsWith("/").max(4096) });
export type BackupInput = z.infer<typeof backupInput>;

export interface BackupAnswer {
  file: string;
  rows: number;
}
