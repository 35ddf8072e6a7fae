import { type Raw, shownName } from "../names/raw";

/** A thing that came back in sight under another name than it had. */
export interface Renamed {
  from: Raw;
  to: Raw;
}

const mostNamed = 3;
/** How {@link renamedWords} begins. */
const begins = "; “";

/** What is added to what was done, where names had to change; empty where none had to. */
export function renamedWords(renamed: readonly Renamed[]): string {
  if (renamed.length === 0) return "";
  const named = renamed.slice(0, mostNamed).map(({ from, to }) => `“${shownName(from)}” is called “${shownName(to)}” now`);
  const more = renamed.length > mostNamed ? `, and ${renamed.length - mostNamed} more` : "";
  return `; ${named.join(", ")}${more}, as ${renamed.length === 1 ? "its name was" : "their names were"} taken`;
}

/** What was done without the names that had to change. */
export const withoutRenamed = (words: string): string => words.slice(0, (words.indexOf(begins) + 1 || words.length + 1) - 1);
