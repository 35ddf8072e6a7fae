import { type FiledThing, type Learned, learn } from "@/core/homes/belongs";

/** Learns what belongs in each home, and how far that can be trusted. */
export async function learnHomes({ files, titles }: { files: FiledThing[]; titles: Map<string, string> }): Promise<Learned> {
  return learn(files, titles);
}
