import { nameOf, type Raw, rawFromText } from "../names/raw";

/** What by its path leads to a thing on the desktop: links, shortcuts among the programs and on the worktops, and marks in file dialogs. */
export interface Pointers {
  links: number;
  shortcuts: number;
  marks: number;
}

/** The path that a `file:` URI names; undefined where it is none (RFC 8089). */
export function pathOfUri(uri: string): Raw | undefined {
  const path = /^file:\/\/(?:localhost)?(\/[^?#]*)/.exec(uri)?.[1];
  if (path === undefined) return undefined;
  // Escapes are bytes, not text.
  return path.replace(/%([0-9a-fA-F]{2})/g, (_, hex: string) => String.fromCharCode(Number.parseInt(hex, 16))) as Raw;
}

/** Whether a path is, or lies in, one of these things of a folder. */
export function leadsInto(path: Raw, folder: Raw, names: ReadonlySet<Raw>): boolean {
  if (!path.startsWith(`${folder}/`)) return false;
  const rest = path.slice(folder.length + 1);
  const end = rest.indexOf("/");
  return names.has((end < 0 ? rest : rest.slice(0, end)) as Raw);
}

/** Whether a text names a thing of a folder, by its path or its URI. `content` in bytes. */
export function namesOneOf(content: Raw, folder: Raw, names: ReadonlySet<Raw>): boolean {
  for (const [uri] of content.matchAll(/file:\/\/[^\s"'<>]+/g)) {
    const path = pathOfUri(uri);
    if (path !== undefined && leadsInto(path, folder, names)) return true;
  }
  for (let at = content.indexOf(`${folder}/`); at >= 0; at = content.indexOf(`${folder}/`, at + 1)) {
    const rest = content.slice(at + folder.length + 1, at + folder.length + 257);
    // A name may hold blanks and quotes: the longest one that stands there.
    for (let end = rest.search(/[/\n\r]|$/); end > 0; end--) if (names.has(rest.slice(0, end) as Raw)) return true;
  }
  return false;
}

/** The addresses in a list of marks: a line each, URI first; or XBEL, `href="…"`. */
export function marksIn(content: Raw): string[] {
  if (/<xbel\b/.test(content))
    return [...content.matchAll(/<bookmark\b[^>]*\bhref="([^"]*)"/g)].map(([, uri]) => unescaped(uri!));
  return content.split(/\r?\n/).map((line) => line.split(" ", 1)[0]!);
}

const entities: Record<string, string> = { amp: "&", lt: "<", gt: ">", quot: '"', apos: "'" };
const unescaped = (text: string) => text.replace(/&(amp|lt|gt|quot|apos);/g, (_, name: string) => entities[name]!);

/** Where lists of marks lie, from the account's folder on: a line a mark, and XBEL. */
export const markFiles: readonly Raw[] = [".config/gtk-3.0/bookmarks", ".local/share/user-places.xbel"].map(rawFromText);

export const isDesktopEntry = (path: Raw): boolean => nameOf(path).endsWith(".desktop");
