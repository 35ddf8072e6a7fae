import { randomUUID } from "node:crypto";
import type { AddDepotInput } from "@/contract/depots";
import type { ReportJson } from "@/contract/items";
import { isWithin, joinRaw, nameOf, type Raw, rawFromText, shownName } from "@/core/names/raw";
import { Problem, unlessProblem } from "@/core/problem";
import { fromAccount } from "../account";
import { perform } from "../act";
import type { DepotRecord } from "../db/record";
import { realFolder } from "../disk/around";
import type { Engine } from "../engine";
import { folderMeant } from "../folders";
import { homeRoots } from "../homes/homes";
import { isTemporaryName } from "../ledger/temporaries";
import { namedFolder } from "../named-folder";
import { depots } from "./depots";

/** Takes an existing folder as a depot: outside the worktops, homes and trash, and no depot yet. */
export async function addDepot(engine: Engine, input: AddDepotInput): Promise<ReportJson> {
  const folder = checkedFolder(engine, folderMeant(engine.account, input.folder));
  const title = input.title ?? shownName(nameOf(folder));
  return perform(
    engine,
    "Adding a depot",
    () => {
      if (depots(engine).some((d) => d.address.folder === folder || d.title === title))
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
  const { account, disk } = engine;
  const place = fromAccount(account, shownName(asked));
  const unsuitable = (detail: string) => new Problem("depot-unsuitable", { place, detail });
  const real = realFolder(asked);
  if (!real) throw unsuitable("there is no such folder");
  const mine = [...account.worktops.map((w) => w.folder), ...homeRoots(engine), account.trash];
  if (real === "/" || mine.some((other) => isWithin(other, real) || isWithin(real, other)))
    throw unsuitable("it lies in, or holds, a worktop, a home or the trash");
  const folder = namedFolder(engine, real);
  const other = disk.list(folder)?.find(({ name }) => !mayLieInDepot(engine, folder, name));
  if (other) throw unsuitable(`it already holds other things, such as ${shownName(other.name)}`);
  return folder;
}

/** A bag, what is left of one that was cut short, or what a file system keeps at its top for itself. */
function mayLieInDepot({ disk }: Engine, folder: Raw, name: Raw): boolean {
  if (name === "lost+found" || isTemporaryName(name)) return true;
  const declaration = unlessProblem(() => disk.readSmall(joinRaw(folder, name, rawFromText("bagit.txt")), 4096));
  return declaration?.toString("utf8").startsWith("BagIt-Version:") ?? false;
}
