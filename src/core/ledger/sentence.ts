import { folderOf, nameOf, type Raw, shownName } from "../names/raw";
import type { Words } from "../words/words";
import type { Json, Step } from "./step";

/** A path below the account as a person reads it: "Station / Tides". `root` is the account's folder. */
export function shownPlace(folder: Raw, root: Raw): string {
  if (folder === root) return "the account's folder";
  const rel = folder.startsWith(`${root}/`) ? folder.slice(root.length + 1) : folder.slice(1);
  const parts = rel.split("/").map((part) => shownName(part as Raw));
  return (folder.startsWith(`${root}/`) ? "" : "/ ") + parts.join(" / ");
}

const text = (value: Json) => (typeof value === "object" && value !== null && !Array.isArray(value) ? value : {});

/** What a step does, in words: one line for the ledger and for a trial. `titleOf` names an item by its id. */
export function stepSentence(step: Step, root: Raw, words: Words, titleOf: (item: string) => string): string {
  switch (step.type) {
    case "move": {
      const [from, to] = [shownPlace(folderOf(step.from), root), shownPlace(folderOf(step.to), root)];
      if (from === to) return `${shownName(nameOf(step.from))} in ${from} called ${shownName(nameOf(step.to))}`;
      const as = nameOf(step.from) === nameOf(step.to) ? "" : ` as ${shownName(nameOf(step.to))}`;
      return `${shownName(nameOf(step.from))} from ${from} to ${to}${as}`;
    }
    case "copy":
      return `${shownName(nameOf(step.to))} copied to ${shownPlace(folderOf(step.to), root)}, checksums compared`;
    case "trash":
      return `${shownName(nameOf(step.from))} from ${shownPlace(folderOf(step.from), root)} to the trash`;
    case "restore":
      return `${shownName(nameOf(step.to))} from the trash to ${shownPlace(folderOf(step.to), root)}`;
    case "erase":
      return `${shownName(step.name)} erased from the trash${step.copy ? "; a parcel holds it" : ""}`;
    case "make-folder":
      return `made the folder ${shownPlace(step.folder, root)}`;
    case "remove-empty-folder":
      return `removed the empty folder ${shownPlace(step.folder, root)}`;
    case "write":
      return `${step.after === null ? "took away" : "wrote"} ${shownName(nameOf(step.file))} in ${shownPlace(folderOf(step.file), root)}`;
    case "place":
      return `${titleOf(step.item)} placed${step.to ? ` at ${Math.round(step.to.x)}, ${Math.round(step.to.y)}` : ""}`;
    case "show":
      return step.to.level === "everything"
        ? "all icons shown"
        : `${words.counted(step.to.hidden.length, "icon")} out of sight, level ${step.to.level}`;
    case "set":
      return setSentence(step.key, step.to, titleOf, words);
    case "send":
      return `${words.counted(step.things.length, "thing")} sent to ${shownPlace(step.depot, root)} as ${shownName(step.bag)}, read back, checksums compared`;
    default:
      return step satisfies never;
  }
}

function setSentence(key: string, to: Json, titleOf: (item: string) => string, words: Words): string {
  const at = key.indexOf(":");
  const [what, id] = [key.slice(0, at), key.slice(at + 1)];
  const value = text(to);
  switch (what) {
    case "verdict": {
      if (to === null) return `${titleOf(id)} has no verdict`;
      const until = typeof value.until === "number" ? ` until ${words.date(value.until)}` : "";
      return `${titleOf(id)}: ${String(value.verdict)}${until}`;
    }
    case "parcel":
      return to === null ? "parcel taken back" : `parcel ${String(value.title)} prepared`;
    case "home":
      return to === null ? "home taken off the list" : "home put on the list";
    case "depot":
      return to === null ? "depot taken off the list" : `depot ${String(value.title)} put on the list`;
    default:
      return `${key} set`;
  }
}
