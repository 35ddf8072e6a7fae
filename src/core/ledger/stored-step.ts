import { folderOf, nameOf, type Raw, rawFromText, shownName, textOfRaw } from "../names/raw";
import { parseStep, type Step } from "./step";

/** The version in which steps are stored, as JSON. */
export const planVersion = 4;

type Stored = Record<string, unknown>;

/** From each older version to the next. */
const upgrades: Record<number, (step: Stored) => Stored> = {
  /** Version 1 kept a small file as its text alone. */
  1: (step) => {
    const whole = (file: unknown) => (typeof file === "string" ? { content: rawFromText(file) } : file);
    return step.type === "write" ? { ...step, before: whole(step.before), after: whole(step.after) } : step;
  },
  /** Version 2 knew one part of the screen. */
  2: (step) => (step.type === "show" ? { ...step, type: "screen", part: "shown" } : step),
  /** Version 3 named what lies in a parcel by its place on this computer, and how much is shown by a level alone. */
  3: (step) => {
    if (step.type === "screen" && step.part === "shown")
      return { ...step, from: { ...levelAlone, ...(step.from as Stored) }, to: { ...levelAlone, ...(step.to as Stored) } };
    if (step.type === "copy") return { ...step, ...inParcel(step.tree as StoredEntry[]) };
    if (step.type === "erase" && step.copy) return { ...step, copy: inParcel(step.copy as StoredEntry[]) };
    if (step.type !== "send") return step;
    const { depotId, depot, ...rest } = step;
    return { ...rest, depot: depotId, depotTitle: shownName(nameOf(depot as Raw)) };
  },
};

const levelAlone = { kinds: [], apart: [], despite: [], along: false, until: null };

interface StoredEntry {
  source?: string;
}

/** The parcel's folder and the paths in it, of a tree whose files were named by where they lay: FOLDER/data/… */
function inParcel(tree: StoredEntry[]) {
  // Names of a payload are text, and its topmost folder is called data; so may the folders above the parcel's.
  const places = tree.flatMap(({ source }) => (source === undefined ? [] : [source as Raw]));
  let folder = "/" as Raw;
  for (let at = places[0]; at !== undefined && at !== "/"; at = folderOf(at))
    if (nameOf(at) === "data" && places.every((place) => place.startsWith(`${at}/`))) {
      folder = folderOf(at);
      break;
    }
  const payloadOf = (source: string) => textOfRaw(source.slice(folder === "/" ? 1 : folder.length + 1) as Raw) ?? source;
  return {
    parcel: { lay: folderOf(folder), name: nameOf(folder) },
    tree: tree.map(({ source, ...entry }) => (source === undefined ? entry : { ...entry, payload: payloadOf(source) })),
  };
}

/** Reads a stored step of any version that is known, as one of this. @throws where it is none */
export function readStoredStep(version: number, json: string): Step {
  let step = JSON.parse(json) as Stored;
  for (let from = version; from !== planVersion; from++) {
    const upgrade = upgrades[from];
    if (!upgrade) throw new Error(`a plan of version ${version} is not known`);
    step = upgrade(step);
  }
  return parseStep(step);
}
