declare const rawBrand: unique symbol;

/**
 * A file name or path as bytes: one character for each byte, code units 0 to 255. Linux names are bytes, not text; as
 * byte strings they compare, join and serve as keys exactly. Converted only at the edges: to Buffer in server/disk,
 * to BLOB in server/db, to shown text by {@link shownName}.
 */
export type Raw = string & { readonly [rawBrand]: true };

const encoder = new TextEncoder();
const strict = new TextDecoder("utf-8", { fatal: true, ignoreBOM: true });

/** The bytes of a text in UTF-8. */
export function rawFromText(text: string): Raw {
  return rawFromBytes(encoder.encode(text));
}

export function rawFromBytes(bytes: Uint8Array): Raw {
  const most = 8192;
  if (bytes.length <= most) return String.fromCharCode.apply(null, bytes as unknown as number[]) as Raw;
  let raw = "";
  for (let at = 0; at < bytes.length; at += most) raw += rawFromBytes(bytes.subarray(at, at + most));
  return raw as Raw;
}

export function bytesOfRaw(raw: Raw): Uint8Array {
  const bytes = new Uint8Array(raw.length);
  for (let at = 0; at < raw.length; at++) bytes[at] = raw.charCodeAt(at);
  return bytes;
}

/** The text of a name, or undefined where its bytes are not valid UTF-8. */
export function textOfRaw(raw: Raw): string | undefined {
  try {
    return strict.decode(bytesOfRaw(raw));
  } catch {
    return undefined;
  }
}

const hex = (byte: number) => `\\x${byte.toString(16).padStart(2, "0")}`;
const named: Record<string, string> = { "\n": "\\n", "\r": "\\r", "\t": "\\t" };

/**
 * A name as it is shown: control characters, line breaks and direction overrides as escapes, bytes that are no text
 * as \xNN. Never used to find a file.
 */
export function shownName(raw: Raw): string {
  const text = textOfRaw(raw);
  if (text === undefined) return raw.replace(/[^\x20-\x7e]/g, (c) => hex(c.charCodeAt(0)));
  return text.replace(/[\u0000-\u001f\u007f-\u009f\u2028\u2029\u202a-\u202e\u2066-\u2069]/g, (c) => {
    const code = c.charCodeAt(0);
    return named[c] ?? (code < 256 ? hex(code) : `\\u${code.toString(16)}`);
  });
}

/** Whether a byte string can be the name of one entry: not empty, not . or .., without / and NUL, at most 255 bytes. */
export function isName(raw: Raw): boolean {
  return raw.length > 0 && raw.length <= 255 && raw !== "." && raw !== ".." && !raw.includes("/") && !raw.includes("\0");
}

export function joinRaw(folder: Raw, ...names: (Raw | string)[]): Raw {
  return [folder === "/" ? "" : folder, ...names].join("/") as Raw;
}

export function nameOf(path: Raw): Raw {
  return path.slice(path.lastIndexOf("/") + 1) as Raw;
}

export function folderOf(path: Raw): Raw {
  const at = path.lastIndexOf("/");
  return (at <= 0 ? "/" : path.slice(0, at)) as Raw;
}

const slash = "/".charCodeAt(0);

/** Whether a path is a folder itself or lies anywhere below it. Both absolute and without `.` or `..` parts. */
export function isWithin(folder: Raw, path: Raw): boolean {
  return (
    folder === "/" || (path.startsWith(folder) && (path.length === folder.length || path.charCodeAt(folder.length) === slash))
  );
}

/** An absolute path without empty, `.` and `..` parts; `..` is taken by name, so links are not followed. */
export function normalRaw(path: Raw): Raw {
  const parts: string[] = [];
  for (const part of path.split("/")) {
    if (part === "" || part === ".") continue;
    if (part === "..") parts.pop();
    else parts.push(part);
  }
  return `/${parts.join("/")}` as Raw;
}

/** The ending of a name after its last dot, in lower case; empty for names that only begin with a dot. */
export function endingOf(name: string): string {
  const at = name.lastIndexOf(".");
  return at > 0 && at < name.length - 1 ? name.slice(at + 1).toLowerCase() : "";
}
