import type { NowInput } from "@/contract/sitting";
import type { SittingNow } from "@/contract/views";
import { Problem } from "@/core/problem";
import type { Engine } from "../engine";
import { itemById, liesAbout, thingsOn } from "../survey/items";
import { aroundNow } from "./around";
import { givenSoFar } from "./give";
import { decidedAlready, verdictsInForce } from "./verdict";
import { viewOf } from "./view";

/** How it stands for a sitting that goes on, after what was given in it so far. */
export async function sittingNow(engine: Engine, { ahead }: NowInput): Promise<SittingNow> {
  await givenSoFar(engine);
  // What an act has in hand just now lies neither here nor there, and is not gone for that.
  const over = await engine.ledger.undisturbed(async () => overNow(engine, ahead));
  const current = over.some(({ id }) => id === ahead[0]) || ahead[0] === undefined ? undefined : itemById(engine.db, ahead[0]);
  return { ...aroundNow(engine), first: current && (await viewOf(engine, current)), over };
}

function overNow(engine: Engine, ahead: readonly string[]): SittingNow["over"] {
  const verdicts = verdictsInForce(engine);
  const listed = new Set(engine.account.worktops.flatMap(({ id }) => thingsOn(engine.db, id)).map(({ id }) => id));
  return ahead.flatMap((id) => {
    const item = itemById(engine.db, id);
    // On a worktop the last look tells: a program that saves takes a file away for a moment.
    const lies = item && (item.worktop ? listed.has(id) : liesAbout(engine, item.path) && engine.disk.identity(item.path));
    if (!lies) return [{ id, why: new Problem("vanished", { name: item?.label }).title }];
    const verdict = verdicts.get(id);
    return verdict ? [{ id, why: decidedAlready(item, verdict, engine.words()).title }] : [];
  });
}
