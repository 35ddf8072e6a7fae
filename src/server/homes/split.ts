import type { SplitInput } from "@/contract/homes";
import type { ReportJson } from "@/contract/items";
import { splitBy } from "@/core/homes/filing-plan";
import type { Plan, Step } from "@/core/ledger/step";
import { folderNameFromText, freeName } from "@/core/names/free-name";
import { joinRaw, type Raw, rawFromBytes, shownName } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import type { Kind } from "@/core/survey/kinds";
import { perform } from "../act";
import { bytes } from "../disk/disk";
import type { Engine } from "../engine";
import { homeMeant } from "./homes";

/** Splits a home that is too wide into folders by year, kind or project: one act, tried first, undone by one key. */
export function split(engine: Engine, input: SplitInput): Promise<ReportJson> {
  return perform(engine, "Splitting a home", () => planSplit(engine, input), { trial: input.dryRun });
}

function planSplit(engine: Engine, input: SplitInput): Plan {
  const { home } = homeMeant(engine, input.home);
  const known = new Map(
    engine.db
      .prepare<[Buffer], { name: Buffer; kind: Kind }>(
        "SELECT filed.name, filed.kind FROM filed JOIN folder ON folder.id = filed.folder WHERE folder.place = ?",
      )
      .all(bytes(home.folder))
      .map((row) => [rawFromBytes(row.name), row.kind] as const),
  );
  const lying = engine.disk.list(home.folder) ?? [];
  const files = lying.flatMap(({ name }) => {
    const identity = name.startsWith(".") ? undefined : engine.disk.identity(joinRaw(home.folder, name));
    return identity?.type === "file" ? [{ name, identity, kind: known.get(name) ?? ("other" as const) }] : [];
  });
  const into = splitBy(
    files.map(({ name, identity, kind }) => ({
      label: shownName(name),
      kind,
      mtimeMs: Number(BigInt(identity.mtimeNs) / 1_000_000n),
    })),
    input.by,
  );
  const folders = new Map<string, { folder: Raw; taken: Set<Raw> }>();
  const steps: Step[] = [];
  for (const [n, { name, identity }] of files.entries()) {
    const title = into[n];
    if (title === undefined) continue;
    let target = folders.get(title);
    if (!target) {
      const folder = joinRaw(home.folder, folderNameFromText(title)!);
      const there = engine.disk.identity(folder);
      if (there && there.type !== "folder") throw new Problem("name-taken", { name: title, place: home.title });
      if (!there) steps.push({ type: "make-folder", folder });
      target = { folder, taken: new Set(engine.disk.list(folder)?.map((entry) => entry.name)) };
      folders.set(title, target);
    }
    const free = freeName(name, (other) => target.taken.has(other));
    target.taken.add(free);
    steps.push({ type: "move", from: joinRaw(home.folder, name), to: joinRaw(target.folder, free), identity });
  }
  const words = engine.words();
  return {
    act: "split",
    words: (done) => {
      const moved = done.filter((step) => step.type === "move").length;
      return `Split ${home.title} by ${input.by}: ${words.counted(moved, "file")} in ${words.counted(folders.size, "folder")}`;
    },
    steps,
    left: [],
  };
}
