import type { FolderRef } from "@/contract/folders";
import type { ReportJson } from "@/contract/items";
import type { LeaveOutInput, LeftOutAnswer } from "@/contract/survey";
import type { Json } from "@/core/ledger/shapes";
import { shownPlace } from "@/core/ledger/step-type";
import { isWithin, type Raw, rawFromBytes } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import { dataOf, leftOut } from "../account";
import { perform } from "../act";
import type { Db } from "../db/db";
import { readRecord } from "../db/record";
import { realFolder } from "../disk/around";
import type { Engine, Reading } from "../engine";
import { folderMeant } from "../folders";

/** What the walk of homes and protected places passes over by the person's wish. Kept under the key `left-out`. */
export interface LeftOutRecord {
  /** Folders of these names, wherever they lie; as text. */
  names: string[];
  /** Single folders, as byte strings. */
  folders: string[];
}

const key = "left-out";
/** Folders that programs fill by themselves, and that nobody files anything in. */
const atFirst: LeftOutRecord = { names: ["__pycache__", "node_modules"], folders: [] };
/** More than this in one folder is said to be enormous. */
const enormous = 10_000;

export const leftOutByWish = (db: Db): LeftOutRecord => readRecord<LeftOutRecord>(db, key) ?? atFirst;

/** Leaves a folder, or every folder of a name, out of the walk, or looks into it again. */
export async function leaveOut(engine: Engine, input: LeaveOutInput): Promise<ReportJson> {
  const report = await perform(
    engine,
    "Changing what is left out",
    () => {
      const from = readRecord<LeftOutRecord>(engine.db, key);
      const before = from ?? atFirst;
      const [list, word, title] =
        "name" in input
          ? (["names", input.name, input.name] as const)
          : (["folders", ...folderToLeaveOut(engine, input)] as const);
      const known: string[] = before[list];
      const rest = known.filter((other) => other !== word);
      const changes = input.out ? rest.length === known.length : rest.length < known.length;
      const to = { ...before, [list]: input.out ? [...rest, word].sort() : rest };
      return {
        act: "leave-out",
        words: () => (input.out ? `No longer looks into ${title}` : `Looks into ${title} again`),
        steps: changes ? [{ type: "set", key, from: from as unknown as Json, to: to as unknown as Json }] : [],
        left: [],
      };
    },
    { trial: input.dryRun },
  );
  if (!input.dryRun && report.entry !== null) await engine.lookAgain("all");
  return report;
}

function folderToLeaveOut(engine: Reading, input: { folder: FolderRef; out: boolean }): [Raw, string] {
  const folder = folderMeant(engine.account, input.folder);
  const title = shownPlace(folder, engine.account.root);
  if (input.out && realFolder(folder) !== folder) throw new Problem("folder-gone", { place: title });
  return [folder, title];
}

/** All that the walk does not look into, and why; and folders that hold very much. */
export function leftOutNow(engine: Engine): LeftOutAnswer {
  const { account, db } = engine;
  const shown = (folder: Raw) => ({ folder: btoa(folder), title: shownPlace(folder, account.root) });
  const { names, folders } = leftOutByWish(db);
  const always = leftOut(account).filter((folder) => isWithin(account.root, folder));
  const large = db
    .prepare<[number], { place: Buffer; files: number }>("SELECT place, files FROM folder WHERE files > ? ORDER BY files DESC")
    .all(enormous);
  return {
    always: [
      ...always.map((folder) => ({
        title: shownPlace(folder, account.root),
        why: account.worktops.some((w) => w.folder === folder)
          ? "looked at thing by thing instead"
          : folder === account.trash
            ? "the trash"
            : folder === dataOf(account)
              ? "Vuoto's own record"
              : "a trash",
      })),
      {
        title: "folders with a dot in front of their name",
        why: "hidden, as is usual for these; inside things on the desktop and in downloads they are looked into",
      },
    ],
    names,
    folders: folders.map((folder) => shown(folder as Raw)),
    unreadable: engine.unwalked.filter(({ why }) => why === "unreadable").map(({ folder }) => shown(folder)),
    enormous: large.map(({ place, files }) => ({ title: shownPlace(rawFromBytes(place), account.root), files })),
  };
}
