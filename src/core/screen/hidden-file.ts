import type { Raw } from "../names/raw";

/**
 * The file `.hidden` of a folder, as file programs read it: a name a line. Lines that somebody else wrote stay as they are, in
 * their bytes, their order and their ends of line.
 */
export interface HiddenFile {
  lines: Raw[];
  /** How its lines end. */
  end: "\n" | "\r\n";
}

export function readHiddenFile(content: Raw | undefined): HiddenFile {
  const text: string = content ?? "";
  const end = text.includes("\r\n") ? "\r\n" : "\n";
  const lines = text.split("\n").map((line) => (end === "\r\n" ? line.replace(/\r$/, "") : line) as Raw);
  if (lines.at(-1) === "") lines.pop();
  return { lines, end };
}

/** The file with some lines taken out and others added at its end; undefined where nothing is left in it. */
export function changedHiddenFile(
  content: Raw | undefined,
  { remove, add }: { remove: ReadonlySet<Raw>; add: readonly Raw[] },
): Raw | undefined {
  const { lines, end } = readHiddenFile(content);
  const kept = lines.filter((line) => !remove.has(line));
  const there = new Set(kept);
  const more = add.filter((name) => !there.has(name));
  if (more.length === 0 && kept.length === lines.length) return content;
  const all = [...kept, ...more];
  return all.length === 0 ? undefined : (`${all.join(end)}${end}` as Raw);
}

/** Whether a name can stand on a line. */
export const canBeListed = (name: Raw): boolean => !/[\r\n]/.test(name);
