import { z } from "zod";
import { trial } from "./items";

/** The launchers that can stand among the account's programs: one that opens Vuoto, and one for gathering. */
export const launchers = ["open", "gather"] as const;

/** Puts a launcher among the account's programs, or takes it away. */
export const launcherInput = z.object({ which: z.enum(launchers), away: z.boolean().optional(), ...trial });
export type LauncherInput = z.infer<typeof launcherInput>;
