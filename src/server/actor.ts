import { AsyncLocalStorage } from "node:async_hooks";

/** Who gives an act: somebody at a window, a command, or what the person said should hold from a time on. */
export type Actor = "window" | "command" | "timetable";

const key = Symbol.for("vuoto: actor");
const held = globalThis as { [key]?: AsyncLocalStorage<Actor> };
held[key] ??= new AsyncLocalStorage<Actor>();
// Modules are bundled more than once; the global object is shared.
const actors = held[key];

/** Does something on behalf of somebody; what it does in the ledger is kept as theirs. */
export const onBehalfOf = <T>(actor: Actor, work: () => T): T => actors.run(actor, work);

/** On whose behalf it is done; null where nobody asked, as at a start. */
export const actorNow = (): Actor | null => actors.getStore() ?? null;
