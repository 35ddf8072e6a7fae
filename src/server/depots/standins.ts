import fs from "node:fs";
import path from "node:path";
import type { PlugInput } from "@/contract/depots";
import { Problem } from "@/core/problem";
import { readCloudFile } from "@/standins/cloud/cloud-file";
import { plug } from "@/standins/drive/drives";
import type { Account } from "../account";
import type { Engine } from "../engine";
import { sampleBase } from "./drives";
import { findParcels } from "./found";

/** Where the sample account's stand-in for a cloud keeps what it is sent, and how it is set. */
export const cloudFileOf = (account: Pick<Account, "root">): string => path.join(sampleBase(account), "station-cloud.json");

/** The sample account's stand-in for a cloud: its address and its sign-in, which are no secret. */
export function sampleCloud(
  account: Pick<Account, "root" | "sample">,
): { url: string; user: string; password: string } | undefined {
  if (!account.sample || !fs.existsSync(cloudFileOf(account))) return undefined;
  const { port, settings } = readCloudFile(cloudFileOf(account));
  return port === undefined ? undefined : { url: `http://127.0.0.1:${port}/`, user: settings.user, password: settings.password };
}

/** Plugs a sample drive in, or pulls it out. */
export function plugDrive(engine: Engine, input: PlugInput): { words: string } {
  if (!engine.account.sample || !plug(sampleBase(engine.account), input.drive, input.in))
    throw new Problem("unknown-depot", { place: input.drive });
  engine.sendings.hurry();
  engine.events.emit({ type: "changed", what: "parcels" });
  if (input.in) void findParcels(engine).catch(() => {});
  return { words: input.in ? `Plugged in the ${input.drive}` : `Pulled out the ${input.drive}` };
}
