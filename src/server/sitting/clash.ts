import type { ClashAnswer, ClashInput } from "@/contract/sitting";
import { joinRaw } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import type { Engine } from "../engine";
import { homeMeant } from "../homes/homes";
import { itemsInside } from "../survey/inside";
import { itemsLying } from "../survey/items";
import { viewOf } from "./view";

/** A thing, and what is called the same in a home: both looked at, and compared byte by byte where they are as long. */
export async function clash(engine: Engine, { item: id, home: ref }: ClashInput): Promise<ClashAnswer> {
  const [item] = itemsLying(engine, [id]);
  const { home } = homeMeant(engine, ref);
  const path = item && joinRaw(home.folder, item.name);
  const other = item && (await itemsInside(engine, home.folder, item.name))?.items[0];
  if (!item || !path || !other) throw new Problem("unknown-item", { name: item?.label });
  const mayBeSame = item.identity.type === "file" && other.identity.type === "file" && item.bytes === other.bytes;
  const sums = mayBeSame ? await engine.workers.run("hashFiles", [item.path, path]) : undefined;
  const same = sums?.get(path) !== undefined && sums.get(path) === sums.get(item.path);
  return { here: await viewOf(engine, item), there: await viewOf(engine, other), home: home.title, same };
}
