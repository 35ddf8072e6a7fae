import { createHash } from "node:crypto";
import { bagIdentifier, tagManifestFile } from "@/core/depots/bagit";
import { joinRaw, type Raw, rawFromText } from "@/core/names/raw";
import { type DepotStore, readWhole } from "./store";

const mostBytes = 1 << 20;

/** SHA-256 of a bag's tag manifest, by which all of it is known; undefined where it has none. */
export async function tagsOf(store: DepotStore, bag: Raw): Promise<string | undefined> {
  const text = await readWhole(store, joinRaw(bag, rawFromText(tagManifestFile)), mostBytes);
  return text && createHash("sha256").update(text).digest("hex");
}

/** Whether a bag is the one that was sent from here: by its own checksum, or before there was one by what it says of itself. */
export async function isOurs(store: DepotStore, bag: Raw, parcel: string, tags: string | null): Promise<boolean> {
  const info = await readWhole(store, joinRaw(bag, rawFromText("bag-info.txt")), mostInfo);
  if (!info || bagIdentifier(info.toString("utf8")) !== parcel) return false;
  return tags === null || (await tagsOf(store, bag)) === tags;
}

const mostInfo = 1 << 20;
