import type { NowInput } from "@/contract/sitting";
import type { SittingNow } from "@/contract/views";
import { Problem } from "@/core/problem";
import type { Engine } from "../engine";
import { itemById, liesAbout } from "../survey/items";
import { aroundNow } from "./around";
import { givenSoFar } from "./give";
import { decidedAlready, verdictsInForce } from "./verdict";
import { viewOf } from "./view";

/** How it stands for a sitting that goes on, after what was given in it so far. */
export async function sittingNow(engine: Engine, { ahead }: NowInput): Promise<SittingNow> {
  await givenSoFar(engine);
  const verdicts = verdictsInForce(engine);
  const over: SittingNow["over"] = [];
  let first: SittingNow["first"];
  for (const id of ahead) {
    const item = itemById(engine.db, id);
    const lies = item && (item.worktop || liesAbout(engine, item.path)) && engine.disk.identity(item.path);
    const verdict = verdicts.get(id);
    if (!lies) over.push({ id, why: new Problem("vanished", { name: item?.label }).title });
    else if (verdict) over.push({ id, why: decidedAlready(item, verdict, engine.words()).title });
    else if (id === ahead[0]) first = await viewOf(engine, item);
  }
  return { ...aroundNow(engine), first, over };
}
