import { useOf } from "../disk/in-use";
import type { Engine } from "../engine";
import { itemById } from "../survey/items";

/** Which of these things are in use still, and by what it is told; what is not there any more is not. */
export async function stillInUse(engine: Engine, { items }: { items: string[] }): Promise<{ id: string; why: string }[]> {
  const using = await engine.inUse.lately();
  return items.flatMap((id) => {
    const item = itemById(engine.db, id);
    const why = item && engine.disk.identity(item.path) && useOf(engine.disk, item.path, using);
    return why ? [{ id, why }] : [];
  });
}
