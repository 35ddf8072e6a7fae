import type { Proof } from "@/core/ledger/steps/trash";
import { nameOf, type Raw, shownName } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import { useOf } from "../disk/in-use";
import type { Engine } from "../engine";
import { stateOf } from "../jobs/work/read-worktop";

/**
 * Throws unless what justified letting a thing go still holds: files are read whole again, archives compared again, what
 * a shortcut leads to is looked for again. Two twins cannot justify each other, as the first that goes is no longer there.
 */
export async function prove(engine: Engine, path: Raw, proof: Proof): Promise<void> {
  const name = shownName(nameOf(path));
  const gone = (detail: string) => new Problem("proof-gone", { name, detail });
  switch (proof.kind) {
    case "twins": {
      const [one, other] = [engine.disk.identity(path), engine.disk.identity(proof.other)];
      const sums = await engine.workers.run("hashFiles", [path, proof.other]);
      if (sums.get(proof.other) !== proof.sha256) throw gone("the other file is no longer there, or no longer the same");
      if (sums.get(path) !== proof.sha256) throw gone("it is no longer the same as the other file");
      if (one && other && one.ino === other.ino && one.dev === other.dev) throw gone("it is the same file under two names");
      return;
    }
    case "spent archive": {
      const found = await engine.workers.run("compareArchive", { archive: path, folders: [proof.folder] });
      if (found.problem) throw gone(found.problem);
      if (found.entries === 0 || found.folder === undefined) throw gone("its entries no longer lie beside it");
      if (found.missing.length > 0) throw gone(`${found.missing[0]} is missing beside it, or differs`);
      return;
    }
    case "dead shortcut": {
      const read = await lookedAtAnew(engine, path);
      if (read?.found?.facts.dead === undefined) throw gone("what it leads to is there again");
      return;
    }
    case "empty": {
      const stat = engine.disk.stat(path);
      const empty = stat?.isFile() ? stat.size === 0n : stat?.isDirectory() && engine.disk.list(path)?.length === 0;
      if (!empty) throw gone("it is no longer empty");
      return;
    }
    case "half download": {
      const before = await lookedAtAnew(engine, path);
      const use = useOf(engine.disk, path, await engine.inUse.now());
      if (use) throw gone(use);
      const after = engine.disk.identity(path);
      if (!before || !after || stateOf(before) !== stateOf(after)) throw gone("it grows again");
      return;
    }
    default:
      return proof satisfies never;
  }
}

async function lookedAtAnew(engine: Engine, path: Raw) {
  const folder = path.slice(0, path.lastIndexOf("/")) as Raw;
  const read = await engine.workers.run("readWorktop", { folder, known: new Map(), only: nameOf(path) });
  return read?.entries[0];
}
