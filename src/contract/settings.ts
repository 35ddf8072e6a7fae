import { z } from "zod";
import { iconSizes, type ScreenName, screenNames } from "@/core/screen/state";
import { commandNames, type Keys } from "@/core/settings/keys";
import type { SessionLine } from "./guard";
import { type ReportJson, trial } from "./items";

/** What can stand among the account's programs: what opens Vuoto, gathers, is for quiet; and what starts Vuoto at log-in. */
export const launchers = ["open", "gather", "quiet", "at log-in"] as const;

/** Puts a launcher among the account's programs, or takes it away. */
/** Whether one is there as Vuoto makes it, was changed by somebody, or is another program's under that name. */
export type LauncherState = "none" | "as made" | "changed" | "another's";

export const launcherInput = z.object({ which: z.enum(launchers), away: z.boolean().optional(), ...trial });
export type LauncherInput = z.infer<typeof launcherInput>;

/** A file that is not there yet, as its path was typed: from the root on, or from the account's folder on. */
export const backupInput = z.object({ file: z.string().trim().min(1).max(4096) });
export type BackupInput = z.infer<typeof backupInput>;

export interface BackupAnswer {
  file: string;
  rows: number;
}

/** Gives a command another key, or without one the key it had at first; without a command that is done with all. */
export const keyInput = z.object({ command: z.enum(commandNames).optional(), key: z.string().max(16).optional(), ...trial });
export type KeyInput = z.infer<typeof keyInput>;

/** How large the screen is, in pixels, and its icons: for one that cannot be asked. */
export const screenInput = z.object({
  width: z.int().min(320).max(20_000),
  height: z.int().min(240).max(20_000),
  icon: z.literal(iconSizes),
  ...trial,
});
export type ScreenInput = z.infer<typeof screenInput>;

export const useScreenInput = z.object({ name: z.enum(screenNames), ...trial });
export type UseScreenInput = z.infer<typeof useScreenInput>;

/** A screen that can be chosen: how it takes things out of sight, what else is to be known, and how many it could not. */
interface ScreenChoice {
  name: ScreenName;
  /** How icons go out of sight on it, to read. */
  title: string;
  sentence: string;
  caution?: string;
  cannot: number;
  /** Why it cannot be chosen now. */
  unfit?: string;
  /** How many links, shortcuts and marks lead to things by the place that they have now, in a sentence. */
  pointers?: string;
  byCommandAlone: boolean;
  /** The commands by which it is told, each as a shell would take it. */
  commands?: { does: string; line: string }[];
}

/** What can be set, and how it is. */
export interface SettingsView {
  keys: Keys;
  sessions: SessionLine[];
  screen: {
    name: ScreenName;
    /** Whether anything moves on it, in a sentence. */
    sentence: string;
    width: number;
    height: number;
    icon: number;
    /** The screens that can be chosen. */
    choice: ScreenChoice[];
  };
  launchers: { which: (typeof launchers)[number]; name: string; state: LauncherState }[];
  /** The folder in which Vuoto's record lies, the copies of each day in it, and what one of them takes. */
  record: { folder: string; size: string; copies: { day: string; size: string }[] };
  pictures: { size: string; most: string };
  /** The places that Vuoto may write to, and why; the trash of disks that are not there is left out. */
  writes: { place: string; why: string }[];
}

/** What is done, or would be, so that all is in sight and nothing of Vuoto's is left among the programs. */
export interface LeaveAnswer {
  reports: ReportJson[];
  /** Occasions that stay on the list, and begin by themselves while Vuoto runs; in ISO 8601. */
  begins: { title: string; at: string }[];
}

export interface SettingsAnswers {
  "settings/view": SettingsView;
  "settings/key": ReportJson;
  "settings/screen": ReportJson;
  "settings/use-screen": ReportJson;
  "settings/launcher": ReportJson;
  "settings/backup": BackupAnswer;
  "settings/forget-pictures": { forgotten: number };
  "settings/leave": LeaveAnswer;
}
