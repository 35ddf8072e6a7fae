/** Programs for types, as one file names them: those to use, those that were added, and those that were taken away. */
export interface ProgramsNamed {
  defaults: ReadonlyMap<string, string[]>;
  added: ReadonlyMap<string, string[]>;
  removed: ReadonlyMap<string, string[]>;
}

const groups: Record<string, keyof ProgramsNamed> = {
  "[Default Applications]": "defaults",
  "[Added Associations]": "added",
  "[MIME Cache]": "added",
  "[Removed Associations]": "removed",
};

/** Reads a mimeapps.list (MIME Applications Associations 1.0.1), or a mimeinfo.cache: desktop file ids by type. */
export function readMimeApps(text: string): ProgramsNamed {
  const found = {
    defaults: new Map<string, string[]>(),
    added: new Map<string, string[]>(),
    removed: new Map<string, string[]>(),
  };
  let group: keyof ProgramsNamed | undefined;
  for (const line of text.split(/\r?\n/)) {
    if (line.startsWith("[")) {
      group = groups[line.trim()];
      continue;
    }
    const [, type, ids] = /^([^#=\s]+)\s*=\s*(.*)$/.exec(line) ?? [];
    if (!group || !type || ids === undefined) continue;
    const list = ids.split(";").flatMap((id) => (/^[^/\s][^/]*\.desktop$/.test(id.trim()) ? [id.trim()] : []));
    found[group].set(type, [...(found[group].get(type) ?? []), ...list]);
  }
  return found;
}

/**
 * The programs for a type, the one to use first: as files name them, the more important before the others. One that was taken
 * away in a file is not found in the less important ones.
 */
export function programsFor(type: string, files: readonly ProgramsNamed[]): string[] {
  const removed = new Set<string>();
  const defaults: string[] = [];
  const added: string[] = [];
  for (const file of files) {
    const at = (ids: string[] | undefined) => (ids ?? []).filter((id) => !removed.has(id));
    defaults.push(...at(file.defaults.get(type)));
    added.push(...at(file.added.get(type)));
    for (const id of file.removed.get(type) ?? []) removed.add(id);
  }
  return [...new Set([...defaults, ...added])];
}

/**
 * The argument list of an Exec value (Desktop Entry Specification 1.5) for one file, by its path and as an address; without a
 * shell. Undefined where it is none, or has a field code that is not known. Where it takes no file the path comes last.
 */
export function execWords(
  exec: string,
  file: { path: string; address: string; title: string; entry: string },
): string[] | undefined {
  const words: string[] = [];
  let takesFile = false;
  for (const [whole, quoted, bare] of exec.matchAll(/"((?:[^"\\]|\\.)*)"|([^\s"]+)|"/g)) {
    if (quoted === undefined && bare === undefined) return undefined;
    // Within quotes there are no field codes.
    if (quoted !== undefined) {
      words.push(quoted.replace(/\\(["`$\\])/g, "$1"));
      continue;
    }
    if (/^%[fFuU]$/.test(whole)) {
      takesFile = true;
      words.push(/[fF]/.test(whole) ? file.path : file.address);
    } else if (whole === "%i" || /^%[dDnNvm]$/.test(whole)) continue;
    else {
      let known = true;
      words.push(
        whole.replace(/%(.?)/g, (_, code: string) => {
          if (code === "%") return "%";
          if (code === "c") return file.title;
          if (code === "k") return file.entry;
          if (/^[fFuU]$/.test(code)) {
            takesFile = true;
            return /[fF]/.test(code) ? file.path : file.address;
          }
          known = false;
          return "";
        }),
      );
      if (!known) return undefined;
    }
  }
  if (words.length === 0 || words[0] === "") return undefined;
  return takesFile ? words : [...words, file.path];
}
