import type { PlugInput } from "@/contract/depots";
import { Problem } from "@/core/problem";
import type { Engine } from "../engine";
import { findParcels } from "./found";
import { plugSample } from "./standins";

/** Plugs a sample drive in, or pulls it out. */
export function plugDrive(engine: Engine, input: PlugInput): { words: string } {
  if (!plugSample(engine.account, input.drive, input.in)) throw new Problem("unknown-depot", { place: input.drive });
  engine.sendings.hurry();
  engine.events.emit({ type: "changed", what: "parcels" });
  if (input.in) void findParcels(engine).catch(() => {});
  return { words: input.in ? `Plugged in the ${input.drive}` : `Pulled out the ${input.drive}` };
}
