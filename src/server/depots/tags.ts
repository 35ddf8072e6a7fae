import { createHash } from "node:crypto";
import { tagManifestFile } from "@/core/depots/bagit";
import { joinRaw, type Raw, rawFromText } from "@/core/names/raw";
import { type DepotStore, readWhole } from "./store";

const mostBytes = 1 << 20;

/** SHA-256 of a bag's tag manifest, by which all of it is known; undefined where it has none. */
export async function tagsOf(store: DepotStore, bag: Raw): Promise<string | undefined> {
  const text = await readWhole(store, joinRaw(bag, rawFromText(tagManifestFile)), mostBytes);
  return text && createHash("sha256").update(text).digest("hex");
}
