import path from "node:path";
import { folderOf, type Raw, rawFromText, shownName } from "@/core/names/raw";
import { readCloudFile } from "@/standins/cloud/cloud-file";
import { bytesOn, plug, type SampleDrive, sampleDrives } from "@/standins/drive/drives";
import type { Account } from "../account";

/** The sample account's drives and its cloud: what only it has, and where that lies. */
type Sample = Pick<Account, "root" | "sample">;

const baseOf = ({ root }: Pick<Account, "root">): string => shownName(folderOf(root));

/** A place beside the sample account. */
export const besideSample = (account: Sample, name: string): string => path.join(baseOf(account), name);

/** Where the stand-in for a cloud keeps how it is set. */
export const cloudFileOf = (account: Pick<Account, "root">): string => path.join(baseOf(account), "station-cloud.json");

/** The stand-in for a cloud: its address and its sign-in, which are no secret; none before it was first started. */
export function sampleCloud(account: Sample): { url: string; user: string; password: string } | undefined {
  if (!account.sample) return undefined;
  const { port, settings } = readCloudFile(cloudFileOf(account));
  return port === undefined ? undefined : { url: `http://127.0.0.1:${port}/`, user: settings.user, password: settings.password };
}

/** The sample drives, plugged in or not. */
export const drivesOfSample = (account: Sample): SampleDrive[] => (account.sample ? sampleDrives(baseOf(account)) : []);

/** Plugs a sample drive in, or pulls it out; answers whether there is one. */
export const plugSample = (account: Sample, name: string, isIn: boolean): boolean =>
  account.sample && plug(baseOf(account), name, isIn);

/** Bytes on a sample drive, which holds no more than its bound. */
export const bytesOnSample = (point: Raw): number => bytesOn(shownName(point));

export const pointOf = ({ point }: SampleDrive): Raw => rawFromText(point);
