import type { LookView } from "@/contract/views";
import type { Engine } from "../engine";
import type { Item } from "../survey/items";
import type { Form } from "./form";
import { folder } from "./forms/folder";
import { media } from "./forms/media";
import { picture } from "./forms/picture";
import { text } from "./forms/text";

/** The first form that shows a thing is the one in which it is looked at. */
const forms: Form[] = [folder, picture, media, text];

/** What a thing's content looks like; where no form shows it, or it cannot be read, nothing. */
export async function lookOf(engine: Engine, item: Item, signal?: AbortSignal): Promise<LookView> {
  const form = forms.find((one) => one.shows(item));
  try {
    return form ? await form.look(engine, item, signal) : { form: "none" };
  } catch {
    return { form: "none" };
  }
}
