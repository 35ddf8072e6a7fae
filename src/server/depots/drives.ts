import { randomUUID } from "node:crypto";
import { z } from "zod";
import { joinRaw, type Raw, rawFromText } from "@/core/names/raw";
import { unlessProblem } from "@/core/problem";
import type { Account } from "../account";
import { type MountedDrive, mountedDrives } from "../disk/around";
import { realCalls } from "../disk/calls";
import { Disk } from "../disk/disk";
import { drivesOfSample, pointOf } from "./standins";

/** A drive that is plugged in; a sample one holds no more than its bound. */
export interface Drive extends MountedDrive {
  bound?: number;
}

/** The drives that are plugged in now. */
export function drives(account: Pick<Account, "root" | "sample">): Drive[] {
  return [
    ...mountedDrives(),
    ...drivesOfSample(account).flatMap((drive) =>
      drive.pluggedIn ? [{ point: pointOf(drive), uuid: drive.uuid, bound: drive.capacity }] : [],
    ),
  ];
}

/** Our file at the top of a drive: by it, and the UUID of its file system, the drive is known wherever it is mounted. */
export const markFile = rawFromText(".vuoto-depot.json");

const marked = z.object({ depot: z.string().min(8).max(64) });

/** Looks, and changes nothing. */
const looking = new Disk(realCalls, () => () => false);

/** What our file on a drive says; undefined where there is none that can be read. */
export function markOn(point: Raw, disk: Disk = looking): string | undefined {
  const text = unlessProblem(() => disk.readSmall(joinRaw(point, markFile), 4096));
  if (text === undefined) return undefined;
  try {
    return marked.parse(JSON.parse(text.toString("utf8"))).depot;
  } catch {
    return undefined;
  }
}

export const newMark = (): string => randomUUID();

export const markText = (mark: string): string => `${JSON.stringify({ depot: mark })}\n`;

export interface KnownDrive {
  mark: string;
  uuid: string | null;
}

/** Where a drive is mounted now, if it is plugged in; `other` where only our file is there, on another file system. */
export function findDrive(
  account: Pick<Account, "root" | "sample">,
  { mark, uuid }: KnownDrive,
): { drive?: Drive; other?: Drive } {
  // What comes over a network is looked at only for a drive that did: it may no longer answer.
  const ours = drives(account).filter((one) => (one.uuid === null) === (uuid === null) && markOn(one.point) === mark);
  const drive = ours.find((one) => one.uuid === uuid);
  return drive ? { drive } : { other: ours[0] };
}
