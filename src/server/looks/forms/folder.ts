import type { FolderEntry } from "@/contract/looks";
import { joinRaw, shownName } from "@/core/names/raw";
import { type Kind, kindOf } from "@/core/survey/kinds";
import type { Form } from "../form";

/** So many of a folder's things are looked at one by one, and shown. */
const shown = 1000;

/** What lies in a folder, one level of it: by kind as far as names tell, the newest, the largest. */
export const folder: Form = {
  shows: ({ identity }) => identity.type === "folder",
  look({ disk }, { path }) {
    const all = disk.list(path) ?? [];
    const seen = all.filter(({ name }) => !name.startsWith("."));
    const kinds = new Map<Kind, number>();
    const entries: FolderEntry[] = [];
    for (const { name, type } of seen) {
      const text = shownName(name);
      const { kind } = kindOf({ name: text, type, bytes: 1, isText: false, executable: false });
      kinds.set(kind, (kinds.get(kind) ?? 0) + 1);
      if (entries.length >= shown) continue;
      const stat = disk.stat(joinRaw(path, name));
      if (stat) entries.push({ name: text, kind, bytes: type === "file" ? Number(stat.size) : 0, mtimeMs: Number(stat.mtimeMs) });
    }
    return {
      form: "folder",
      entries: entries.sort((a, b) => a.name.localeCompare(b.name)),
      count: seen.length,
      hidden: all.length - seen.length,
      kinds: [...kinds].sort((a, b) => b[1] - a[1]),
    };
  },
};
