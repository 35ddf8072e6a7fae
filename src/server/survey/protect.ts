import { createHash } from "node:crypto";
import type { ReportJson } from "@/contract/items";
import type { ProtectInput } from "@/contract/survey";
import type { Json } from "@/core/ledger/shapes";
import { shownPlace } from "@/core/ledger/step-type";
import { isWithin, type Raw } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import { perform } from "../act";
import { type PlaceRecord, readRecord } from "../db/record";
import { realFolder } from "../disk/around";
import type { Engine, Reading } from "../engine";
import { folderMeant } from "../folders";
import { homeRoots } from "../homes/homes";
import { namedFolder } from "../named-folder";
import { type ProtectedPlace, protectedPlaces } from "./protection";

const placeId = (folder: Raw) => createHash("sha256").update(folder, "latin1").digest("base64url").slice(0, 16);

/** Marks a folder as backed up or as synchronised, or takes the mark away; then looks for copies in it. */
export async function protect(engine: Engine, input: ProtectInput): Promise<ReportJson> {
  const report = await perform(
    engine,
    "Marking a place",
    () => {
      const { account } = engine;
      const asked = folderMeant(account, input.folder);
      const title = shownPlace(asked, account.root);
      const key = `place:${placeId(asked)}`;
      const from = readRecord<PlaceRecord>(engine.db, key);
      if (input.protection !== null && realFolder(asked) !== asked) throw new Problem("folder-gone", { place: title });
      // What holds the desktop is not a copy of it.
      if (input.protection !== null && account.worktops.some((w) => isWithin(asked, w.folder) || isWithin(w.folder, asked)))
        throw new Problem("no-protection", { place: title });
      if (input.protection !== null) namedFolder(engine, asked);
      const to: PlaceRecord | null =
        input.protection === null ? null : { folder: asked, protection: input.protection, at: engine.now() };
      return {
        act: "protect",
        words: () => (input.protection === null ? `No longer marked: ${title}` : `Marked ${title} as ${input.protection}`),
        steps:
          from?.protection === to?.protection
            ? []
            : [{ type: "set", key, from: from as unknown as Json, to: to as unknown as Json }],
        left: [],
      };
    },
    { trial: input.dryRun },
  );
  if (!input.dryRun) await engine.lookAgain("all");
  return report;
}

/** The places that can be marked: the roots of the homes, and what is marked already. */
export function placesToMark(
  engine: Reading,
): (Omit<ProtectedPlace, "protection"> & { title: string; protection: PlaceRecord["protection"] | null })[] {
  const marked = new Map(protectedPlaces(engine).map((place) => [place.folder, place]));
  const folders = [...new Set([...homeRoots(engine), ...marked.keys()])];
  return folders.map((folder) => ({
    id: placeId(folder),
    folder,
    title: shownPlace(folder, engine.account.root),
    protection: marked.get(folder)?.protection ?? null,
  }));
}
