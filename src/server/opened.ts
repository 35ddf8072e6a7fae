import { asProblem, type Problem } from "@/core/problem";
import type { Engine } from "./engine";
import { othersFirst } from "./jobs/gentle";
import { theEngine } from "./opening";
import { sharingNow } from "./quiet/sharing";

/** The engine for a page, or why the account could not be opened. */
export async function opened(): Promise<{ engine: Engine; problem?: undefined } | { engine?: undefined; problem: Problem }> {
  try {
    return { engine: await theEngine() };
  } catch (error) {
    return { problem: asProblem(error) };
  }
}

/**
 * Reads what a part of a page shows; undefined where the account could not be opened, or while no names are sent to pages. In a turn of its own, apart from
 * drawing it: what else comes meanwhile need not wait for a whole page.
 */
export async function reading<View>(read: (engine: Engine) => View | Promise<View>): Promise<View | undefined> {
  const { engine } = await opened();
  if (!engine || sharingNow(engine)) return undefined;
  await othersFirst();
  const view = await read(engine);
  await othersFirst();
  // It may have begun meanwhile.
  return sharingNow(engine) ? undefined : view;
}

/** The same of what names nothing while the screen is shared. */
export async function readingFrame<View>(read: (engine: Engine) => View): Promise<View | undefined> {
  const { engine } = await opened();
  if (!engine) return undefined;
  await othersFirst();
  return read(engine);
}
