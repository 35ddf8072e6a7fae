import { Problem } from "@/core/problem";
import type { Engine } from "../engine";
import { type Item, itemById } from "../survey/items";

/** What is looked at and is no item of the record, as it lies elsewhere, in a parcel: the latest. */
const elsewhere = new WeakMap<Engine, Map<string, Item>>();
const most = 40;

/** From now on its pictures and pages can be asked for by its id, as those of any item. */
export function lookElsewhere(engine: Engine, item: Item): void {
  const known = elsewhere.get(engine) ?? new Map<string, Item>();
  elsewhere.set(engine, known);
  known.delete(item.id);
  known.set(item.id, item);
  for (const oldest of known.keys()) {
    if (known.size <= most) break;
    known.delete(oldest);
  }
}

/** What a picture or a page is asked of. @throws Problem "unknown-item" */
export function lookedAt(engine: Engine, query: URLSearchParams): Item {
  const id = query.get("item") ?? "";
  const item = itemById(engine.db, id) ?? elsewhere.get(engine)?.get(id);
  if (!item) throw new Problem("unknown-item");
  return item;
}
