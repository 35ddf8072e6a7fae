import { type Raw, rawFromText } from "../names/raw";

/** The account's standard folders, by their key in `user-dirs.dirs`, with the usual name where the file says nothing. */
export const standardFolders = {
  DESKTOP: "Desktop",
  DOWNLOAD: "Downloads",
  DOCUMENTS: "Documents",
  MUSIC: "Music",
  PICTURES: "Pictures",
  VIDEOS: "Videos",
  TEMPLATES: "Templates",
  PUBLICSHARE: "Public",
} as const;

export type StandardFolder = keyof typeof standardFolders;

/**
 * Reads `user-dirs.dirs` (xdg-user-dirs: shell lines `XDG_NAME_DIR="$HOME/path"` or an absolute path). Answers the
 * folder of each key; a key whose value is `$HOME/` is switched off and answers null; a key that is not there is missing.
 */
export function readUserDirs(text: string, home: Raw): Map<StandardFolder, Raw | null> {
  const found = new Map<StandardFolder, Raw | null>();
  for (const line of text.split("\n")) {
    const match = /^\s*XDG_([A-Z]+)_DIR\s*=\s*"((?:[^"\\]|\\.)*)"/.exec(line);
    if (!match || !(match[1]! in standardFolders)) continue;
    const value = match[2]!.replace(/\\(.)/g, "$1").replace(/\/+$/, "");
    const key = match[1] as StandardFolder;
    if (value === "$HOME" || value === "") found.set(key, null);
    else if (value.startsWith("$HOME/")) found.set(key, `${home}/${rawFromText(value.slice(6))}` as Raw);
    else if (value.startsWith("/")) found.set(key, rawFromText(value));
  }
  return found;
}
