import type { OpenedFolder } from "@/contract/sitting";
import { Problem } from "@/core/problem";
import type { Engine } from "../engine";
import { rankInto } from "../homes/belonging";
import { itemsInside } from "../survey/inside";
import { itemById, liesAbout } from "../survey/items";
import { inPile, pileFrom } from "./pile";
import { verdictsInForce } from "./verdict";

/** Nobody decides upon more of them one by one. */
const mostInside = 5000;

/** Opens a folder that lies about, to decide upon what is in it thing by thing. Nothing is moved; what has a verdict does not come up. */
export async function openFolder(engine: Engine, id: string): Promise<OpenedFolder> {
  const item = itemById(engine.db, id);
  if (item?.identity.type !== "folder" || !(item.worktop || liesAbout(engine, item.path)))
    throw new Problem("unknown-item", { name: item?.label });
  if ((engine.disk.list(item.path)?.length ?? 0) > mostInside)
    throw new Problem("folder-closed", {
      name: item.label,
      detail: `more than ${engine.words().count(mostInside)} things lie in it`,
    });
  const found = await itemsInside(engine, item.path);
  if (!found) throw new Problem("folder-closed", { name: item.label });
  const verdicts = verdictsInForce(engine);
  const items = found.items.filter((one) => !verdicts.has(one.id));
  await rankInto(engine, items);
  const pile = await pileFrom(engine, items);
  return { pile: pile.items.map((one) => inPile(one, pile)), families: pile.families, hidden: found.hidden };
}
