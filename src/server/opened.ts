import { asProblem, type Problem } from "@/core/problem";
import { type Engine, theEngine } from "./engine";

/** The engine for a page, or why the account could not be opened. */
export async function opened(): Promise<{ engine: Engine; problem?: undefined } | { engine?: undefined; problem: Problem }> {
  try {
    return { engine: await theEngine() };
  } catch (error) {
    return { problem: asProblem(error) };
  }
}
