import type { QuietLevel, Shown } from "../screen/state";
import { type Kind, kinds } from "../survey/kinds";

/** What decides whether an icon is shown. */
export interface Icon {
  id: string;
  kind: Kind;
  /** The person left it on purpose. */
  stays: boolean;
  arrivedAt: number;
}

/** How much is to be in sight. */
export type HowMuch = Pick<Shown, "level" | "kinds" | "apart" | "despite">;

/** The levels, from the most that is shown to the least. */
export const quietLevels: readonly QuietLevel[] = ["everything", "some kinds", "what stays", "bare"];

/** Groups of kinds as a person thinks of them: drives, shortcuts, folders, and files, which are all the others. */
export const kindGroups = {
  drive: ["drive"],
  shortcut: ["shortcut"],
  folder: ["folder"],
  file: kinds.filter((kind) => kind !== "drive" && kind !== "shortcut" && kind !== "folder"),
} as const satisfies Record<string, readonly Kind[]>;
export type KindGroup = keyof typeof kindGroups;

/** The icons that are out of sight: by the level, and one by one. */
export function hiddenBy({ level, kinds: hide, apart, despite }: HowMuch, icons: readonly Icon[]): string[] {
  const byLevel: Record<QuietLevel, (icon: Icon) => boolean> = {
    everything: () => false,
    "some kinds": ({ kind }) => hide.includes(kind),
    // With kinds, where an occasion began over these: it shows no more than there was.
    "what stays": ({ stays, kind }) => !stays || hide.includes(kind),
    bare: () => true,
  };
  const [away, kept] = [new Set(apart), new Set(despite)];
  return icons.filter((icon) => away.has(icon.id) || (byLevel[level](icon) && !kept.has(icon.id))).map((icon) => icon.id);
}

/** What arrived after it became quiet, is in sight, and would not be if it had been there before. */
export function arrivedSince(shown: Shown, icons: readonly Icon[]): Icon[] {
  if (shown.level === "everything") return [];
  const [hidden, wanted] = [new Set(shown.hidden), new Set(hiddenBy(shown, icons))];
  return icons.filter((icon) => icon.arrivedAt > shown.since && wanted.has(icon.id) && !hidden.has(icon.id));
}

/** Whether the time came to bring everything back. Where the clock says that it is before it began, nothing is. */
export const isOver = ({ until, since }: Pick<Shown, "until" | "since">, now: number): boolean =>
  until !== null && until <= now && !isInDoubt({ since }, now);

/** A clock that was set back says nothing about when to end: what is out of sight stays so, and that is said. */
export const isInDoubt = ({ since }: Pick<Shown, "since">, now: number): boolean => since > now + 60_000;
