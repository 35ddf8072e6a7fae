import { z } from "zod";
import { kinds } from "../survey/kinds";

/** How much is shown, since when, and which items are out of sight. */
const shown = z.object({
  level: z.enum(["everything", "some kinds", "what stays", "bare"]),
  /** With "some kinds": these are out of sight; with "what stays", these too. */
  kinds: z.array(z.enum(kinds)),
  /** Things that were taken out of sight one by one, whatever the level. */
  apart: z.array(z.string()),
  /** Things that were brought back in sight one by one, in spite of the level. */
  despite: z.array(z.string()),
  /** What arrives meanwhile goes out of sight too. */
  along: z.boolean(),
  /** Milliseconds since 1970; 0 while everything is shown. */
  since: z.number(),
  /** When everything comes back in sight by itself, likewise; null where it does not. */
  until: z.number().nullable(),
  hidden: z.array(z.string()),
});
export type Shown = z.infer<typeof shown>;
export type QuietLevel = Shown["level"];

const pixels = z.int().min(1).max(100_000);
const box = z.object({ width: pixels, height: pixels });

/** How large the screen is on which the desktop is drawn, in pixels, and what one icon takes; its label is centred below it. */
const size = z.object({ width: pixels, height: pixels, icon: box, label: box });
export type ScreenSize = z.infer<typeof size>;

/** The screens there are: drawn by Vuoto for the sample account; things moved away and back; names listed; told by a command. */
export const screenNames = ["simulated", "tucked away", "listed", "told"] as const;
export type ScreenName = (typeof screenNames)[number];

/** The parts of what a screen is like. Each is changed by itself, by one step. */
export const screenParts = { shown, size };
export type ScreenPart = keyof typeof screenParts;
export type ScreenState = { [P in ScreenPart]: z.infer<(typeof screenParts)[P]> };

/** The form in which the state is kept. */
export const screenVersion = 2;

export const firstScreen: ScreenState = {
  shown: { level: "everything", kinds: [], apart: [], despite: [], along: false, since: 0, until: null, hidden: [] },
  size: { width: 1920, height: 1080, icon: { width: 64, height: 74 }, label: { width: 96, height: 30 } },
};

/** The sizes in which icons are drawn, in pixels. */
export const iconSizes = [32, 48, 64, 96] as const;

/** What an icon of a size takes, with the frame and the label that go with it. */
export function iconBoxes(icon: number): Pick<ScreenSize, "icon" | "label"> {
  return { icon: { width: icon, height: icon + 10 }, label: { width: Math.max(96, icon + 32), height: 30 } };
}
