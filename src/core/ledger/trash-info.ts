import { type Raw, rawFromText } from "../names/raw";

/**
 * The info file of a trashed thing (freedesktop.org Trash specification 1.0): Path with the bytes escaped as in RFC 2396,
 * and DeletionDate in local time, YYYY-MM-DDThh:mm:ss.
 */
export function trashInfo(path: Raw, deletionDate: string): string {
  return `[Trash Info]\nPath=${escapePath(path)}\nDeletionDate=${deletionDate}\n`;
}

export function escapePath(path: Raw): string {
  return path.replace(/[^A-Za-z0-9/_.~-]/g, (c) => `%${c.charCodeAt(0).toString(16).toUpperCase().padStart(2, "0")}`);
}

/** Reads an info file, of whatever program; undefined where it names no path. Keys it does not know are passed over. */
export function readTrashInfo(text: string): { path: Raw; deletionDate?: string } | undefined {
  const lines = text.split(/\r?\n/);
  if (lines[0]?.trim() !== "[Trash Info]") return undefined;
  const value = (key: string) => lines.find((line) => line.startsWith(`${key}=`))?.slice(key.length + 1);
  const path = value("Path");
  if (!path) return undefined;
  const bytes = path.replace(/%([0-9A-Fa-f]{2})/g, (_, hex: string) => String.fromCharCode(Number.parseInt(hex, 16)));
  // What is not escaped may be UTF-8, read as characters above a byte.
  const raw = /[^\u0000-\u00ff]/.test(bytes) ? rawFromText(bytes) : (bytes as Raw);
  return { path: raw, deletionDate: value("DeletionDate") };
}

/** A moment as DeletionDate wants it: local time of the given offset. `offsetMinutes` as Date.getTimezoneOffset gives it. */
export function deletionDate(at: number, offsetMinutes: number): string {
  return new Date(at - offsetMinutes * 60_000).toISOString().slice(0, 19);
}
