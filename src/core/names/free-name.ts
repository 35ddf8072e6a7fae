import { type Raw, rawFromText, textOfRaw } from "./raw";

const limit = 255;

/**
 * A name that is not taken: the wanted one, else `stem (2).ending`, `stem (3).ending` and so on. Stays within 255
 * bytes by shortening the stem, never inside a character of valid UTF-8.
 */
export function freeName(wanted: Raw, taken: (name: Raw) => boolean): Raw {
  if (!taken(wanted)) return wanted;
  const { stem, ending } = splitEnding(wanted);
  for (let n = 2; ; n++) {
    const tail = ` (${n})${ending}`;
    const name = (cutBytes(stem, limit - tail.length) + tail) as Raw;
    if (!taken(name)) return name;
  }
}

/** A name without its ending, and the ending with its dot: at most 16 bytes, none of them a space; empty where there is none. */
export function splitEnding(name: Raw): { stem: Raw; ending: Raw } {
  const dot = name.lastIndexOf(".");
  const ending = dot > 0 && /^\.[^ ]{0,15}$/.test(name.slice(dot)) ? name.slice(dot) : "";
  return { stem: name.slice(0, name.length - ending.length) as Raw, ending: ending as Raw };
}

/** The first bytes of a name, at most `most`, cut between characters where the name is valid UTF-8. */
export function cutBytes(raw: Raw, most: number): Raw {
  if (raw.length <= most) return raw;
  const isText = textOfRaw(raw) !== undefined;
  let end = most;
  while (isText && end > 0 && (raw.charCodeAt(end) & 0xc0) === 0x80) end--;
  return raw.slice(0, end) as Raw;
}

/** A typed name made safe as the name of a new folder: no slashes, no control characters, no outer spaces or dots. */
export function folderNameFromText(text: string): Raw | undefined {
  const clean = text
    .normalize("NFC")
    .replace(/[\u0000-\u001f\u007f/]/g, " ")
    .replace(/\s+/g, " ")
    .trim()
    .replace(/^[.\s]+/, "");
  return clean === "" ? undefined : cutBytes(rawFromText(clean), limit);
}
