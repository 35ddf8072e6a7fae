import { randomUUID } from "node:crypto";
import type { AddDepotInput } from "@/contract/depots";
import type { ReportJson } from "@/contract/items";
import { isWithin, nameOf, normalRaw, type Raw, rawFromText, shownName } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import { perform } from "../act";
import type { DepotRecord } from "../db/record";
import { realFolder } from "../disk/around";
import type { Engine } from "../engine";
import { homeRoots } from "../homes/homes";
import { depots } from "./depots";

/** Takes an existing folder as a depot: outside the worktops, homes and trash, and no depot yet. */
export function addDepot(engine: Engine, input: AddDepotInput): Promise<ReportJson> {
  const asked = typeof input.folder === "string" ? rawFromText(input.folder) : (atob(input.folder.path) as Raw);
  const folder = checkedFolder(engine, asked);
  const title = input.title ?? shownName(nameOf(folder));
  return perform(
    engine,
    "Adding a depot",
    () => {
      if (depots(engine).some((d) => d.folder === folder || d.title === title))
        throw new Problem("depot-unsuitable", { place: title, detail: "there is a depot of that name or folder" });
      const depot: DepotRecord = { title, kind: "folder", folder };
      return {
        act: "add-depot",
        words: () => `Made ${title} a depot`,
        steps: [{ type: "set", key: `depot:${randomUUID().slice(0, 8)}`, from: null, to: { ...depot } }],
        left: [],
      };
    },
    { trial: input.dryRun },
  );
}

function checkedFolder(engine: Engine, asked: Raw): Raw {
  const { account } = engine;
  const unsuitable = (detail: string) => new Problem("depot-unsuitable", { place: shownName(asked), detail });
  if (!asked.startsWith("/")) throw unsuitable("the path must begin with a slash");
  const folder = realFolder(normalRaw(asked));
  if (!folder) throw unsuitable("there is no such folder");
  const mine = [...account.worktops.map((w) => w.folder), ...homeRoots(engine), account.trash, rawFromText(account.data)];
  if (folder === "/" || mine.some((other) => isWithin(other, folder) || isWithin(folder, other)))
    throw unsuitable("it lies in, or holds, a worktop, a home or the trash");
  return folder;
}
