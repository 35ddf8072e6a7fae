import { AsyncLocalStorage } from "node:async_hooks";

/** Who gives an act: somebody at a window, a command, or what the person said should hold from a time on. */
export type Actor = "window" | "command" | "timetable";

const key = Symbol.for("vuoto: actor");
interface Asked {
  actor?: Actor;
  gone?: AbortSignal;
  stop?: AbortSignal;
}
const held = globalThis as { [key]?: AsyncLocalStorage<Asked> };
held[key] ??= new AsyncLocalStorage<Asked>();
// Modules are bundled more than once; the global object is shared.
const actors = held[key];

/** Does something on behalf of somebody; what it does in the ledger is kept as theirs. `gone`: once nobody waits for the answer. */
export const onBehalfOf = <T>(actor: Actor, work: () => T, gone?: AbortSignal): T => actors.run({ actor, gone }, work);

/** On whose behalf it is done; null where nobody asked, as at a start. */
export const actorNow = (): Actor | null => actors.getStore()?.actor ?? null;

/** Does work that a signal cuts short, also where it waits for another computer. */
export const untilStopped = <T>(stop: AbortSignal, work: () => T): T => actors.run({ ...actors.getStore(), stop }, work);

/** What cuts short the work that is under way here; undefined where that is none that can be. */
export const stopNow = (): AbortSignal | undefined => actors.getStore()?.stop;

/** Aborted once who asked waits no longer; undefined where that cannot be known. */
export const goneNow = (): AbortSignal | undefined => actors.getStore()?.gone;
