import { type FiledThing, type Learned, learn } from "@/core/homes/belongs";
import { Problem } from "@/core/problem";
import type { WorkContext } from "../work-context";

export interface LearnHomes {
  files: FiledThing[];
  titles: Map<string, string>;
}

/** Learns what belongs in each home, and how far that can be trusted. Tells how far it is. */
export async function learnHomes({ files, titles }: LearnHomes, context: WorkContext): Promise<Learned> {
  return learn(files, titles, (done, of) => {
    if (context.cancelled()) throw new Problem("cancelled", { name: "Learning" });
    context.tell({ done, of });
  });
}
