import type { QuietLevel, Shown } from "../ledger/../screen/state";
import type { Kind } from "../survey/kinds";

/** What decides whether an icon is shown. */
export interface Icon {
  id: string;
  kind: Kind;
  /** The person left it on purpose. */
  stays: boolean;
  arrivedAt: number;
}

/** The levels that a person can choose now, from the most to the least. */
export const quietLevels: QuietLevel[] = ["everything", "what stays", "bare"];

/** The icons that are out of sight at a level. */
export function hiddenAt(level: QuietLevel, icons: Icon[], kinds: Kind[] = ["drive", "shortcut"]): string[] {
  switch (level) {
    case "everything":
      return [];
    case "some kinds":
      return icons.filter((icon) => kinds.includes(icon.kind)).map((icon) => icon.id);
    case "what stays":
      return icons.filter((icon) => !icon.stays).map((icon) => icon.id);
    case "bare":
      return icons.map((icon) => icon.id);
    default:
      return level satisfies never;
  }
}

/** What arrived after it became quiet, and is in sight. */
export function arrivedSince(shown: Shown, icons: Icon[]): Icon[] {
  if (shown.level === "everything") return [];
  const hidden = new Set(shown.hidden);
  return icons.filter((icon) => icon.arrivedAt > shown.since && !hidden.has(icon.id));
}
