import type { LookView } from "@/contract/looks";
import type { Engine } from "../engine";
import type { Item } from "../survey/items";

/** A form in which a thing's content is looked at. Each has its own bounds, and stops when nobody waits for it any more. */
export interface Form {
  shows(item: Item): boolean;
  look(engine: Engine, item: Item, signal?: AbortSignal): Promise<LookView> | LookView;
}
