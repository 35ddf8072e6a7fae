/**
 * Reads the main group of a desktop entry (Desktop Entry Specification 1.5): keys without locale, values with the escapes
 * \s \n \t \r \\ resolved. Undefined where the text is none.
 */
export function readDesktopEntry(text: string): Map<string, string> | undefined {
  const keys = new Map<string, string>();
  let inside = false;
  let found = false;
  for (const line of text.split(/\r?\n/)) {
    if (line.startsWith("[")) {
      inside = line.trim() === "[Desktop Entry]";
      found ||= inside;
      continue;
    }
    const match = inside && /^([A-Za-z0-9-]+)\s*=\s*(.*)$/.exec(line);
    if (match && !keys.has(match[1]!)) keys.set(match[1]!, unescapeValue(match[2]!));
  }
  return found ? keys : undefined;
}

const escapes: Record<string, string> = { s: " ", n: "\n", t: "\t", r: "\r", "\\": "\\" };

function unescapeValue(value: string): string {
  return value.replace(/\\(.)/g, (all, c: string) => escapes[c] ?? all);
}

/** A text of one line as a value of an entry. */
export const entryValue = (text: string): string => text.replaceAll("\\", "\\\\").replace(/^ /, "\\s");

/** The program of an Exec value: its first word, with quotes and their escapes taken off. Field codes are no program. */
export function programOf(exec: string): string | undefined {
  const quoted = /^\s*"((?:[^"\\]|\\.)*)"/.exec(exec);
  const word = quoted ? quoted[1]!.replace(/\\(["`$\\])/g, "$1") : /^\s*(\S+)/.exec(exec)?.[1];
  return word && !word.startsWith("%") ? word : undefined;
}

/** A word of an Exec value, quoted where it has to be; % begins a field code and is doubled, \\ is doubled as in every value. */
export function execWord(word: string): string {
  const literal = word.replaceAll("%", "%%");
  if (/^[A-Za-z0-9_\-./:=@+,%]+$/.test(literal)) return literal;
  return `"${literal.replace(/(["`$\\])/g, "\\$1")}"`.replaceAll("\\", "\\\\");
}

/** The address in a `.url` file, or undefined. */
export function addressOf(text: string): string | undefined {
  return /^URL\s*=\s*(\S+)\s*$/im.exec(text)?.[1];
}
