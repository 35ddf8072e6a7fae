import type { LookView } from "@/contract/looks";
import { asProblem } from "@/core/problem";
import type { Engine } from "../engine";
import type { Item } from "../survey/items";
import type { Form } from "./form";
import { document } from "./forms/document";
import { folder } from "./forms/folder";
import { media } from "./forms/media";
import { picture } from "./forms/picture";
import { pointer } from "./forms/pointer";

/** The first form that shows a thing is the one in which it is looked at. */
const forms: Form[] = [folder, picture, media, pointer, document];

const nothing: LookView = { form: "bytes", head: [] };

/** What a thing's content looks like; where no form shows it, or it cannot be read, what is known. */
async function lookNow(engine: Engine, item: Item, signal?: AbortSignal): Promise<LookView> {
  const form = forms.find((one) => one.shows(item));
  try {
    return form ? await form.look(engine, item, signal) : nothing;
  } catch (error) {
    // Why it cannot be looked at is said; that it was given up is no reason.
    const problem = asProblem(error);
    return { form: "bytes", head: [], why: problem.code === "cancelled" ? undefined : problem.title };
  }
}

/** Looks of a moment ago, by thing and state: what was made ahead, or waited for, need not be made again. */
const kept = new WeakMap<Engine, Map<string, Promise<LookView>>>();
const mostKept = 40;

const stateOf = ({ id, path, identity: { ino, mtimeNs, bytes } }: Item) => `${id} ${path} ${ino} ${mtimeNs} ${bytes}`;

/** What a thing's content looks like. A folder's changes with what lies in it, and is looked at each time. */
export function lookOf(engine: Engine, item: Item, signal?: AbortSignal): Promise<LookView> {
  if (item.identity.type === "folder") return lookNow(engine, item, signal);
  const looks = kept.get(engine) ?? new Map<string, Promise<LookView>>();
  kept.set(engine, looks);
  const state = stateOf(item);
  const known = looks.get(state);
  if (known) return known;
  const look = lookNow(engine, item, signal);
  looks.set(state, look);
  // One that was given up is made again when it is asked for again.
  void look.then((made) => {
    if (signal?.aborted || (made.form === "bytes" && made.head.length === 0)) looks.delete(state);
  });
  for (const oldest of looks.keys()) {
    if (looks.size <= mostKept) break;
    looks.delete(oldest);
  }
  return look;
}

const patienceMs = 2000;

/** The same, but no longer than two seconds: then what is known stands there, and it can be waited for. */
export async function lookSoon(engine: Engine, item: Item): Promise<{ look: LookView; late?: true }> {
  let timer: ReturnType<typeof setTimeout> | undefined;
  const late = new Promise<{ look: LookView; late: true }>((done) => {
    timer = setTimeout(() => done({ look: nothing, late: true }), patienceMs);
  });
  try {
    return await Promise.race([lookOf(engine, item).then((look) => ({ look })), late]);
  } finally {
    clearTimeout(timer);
  }
}
