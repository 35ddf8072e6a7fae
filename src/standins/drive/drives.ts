import fs from "node:fs";
import path from "node:path";

/** A sample drive: a folder that is there while it is plugged in, with a bound for what it holds. */
export interface SampleDrive {
  name: string;
  uuid: string;
  /** Bytes. */
  capacity: number;
  pluggedIn: boolean;
  /** Where it is while it is plugged in. */
  point: string;
}

const kinds = [
  { name: "field card", uuid: "5EA6-11CE", capacity: 48_000_000, pluggedIn: false },
  { name: "station drive", uuid: "7c41e0d2-0b1d-4a55-9d50-6a1b7d0c5f11", capacity: 400_000_000, pluggedIn: true },
];

const awayIn = (base: string) => path.join(base, "station-drives", "in the drawer");
const pointIn = (base: string) => path.join(base, "station-drives", "plugged in");

/** Makes the sample drives beside the sample account, where they are not there yet. */
export function makeDrives(base: string): void {
  fs.mkdirSync(awayIn(base), { recursive: true });
  fs.mkdirSync(pointIn(base), { recursive: true });
  for (const { name, pluggedIn } of kinds) {
    const [here, away] = [path.join(pointIn(base), name), path.join(awayIn(base), name)];
    if (!fs.existsSync(here) && !fs.existsSync(away)) fs.mkdirSync(pluggedIn ? here : away);
  }
}

/** The sample drives, plugged in or not; none where none were made. */
export function sampleDrives(base: string): SampleDrive[] {
  return kinds.flatMap(({ name, uuid, capacity }) => {
    const point = path.join(pointIn(base), name);
    const pluggedIn = fs.existsSync(point);
    return pluggedIn || fs.existsSync(path.join(awayIn(base), name)) ? [{ name, uuid, capacity, pluggedIn, point }] : [];
  });
}

/** Plugs a sample drive in, or pulls it out, whatever is under way on it; answers whether there is one. */
export function plug(base: string, name: string, isIn: boolean): boolean {
  const drive = sampleDrives(base).find((one) => one.name === name);
  if (!drive) return false;
  const away = path.join(awayIn(base), name);
  if (isIn !== drive.pluggedIn) fs.renameSync(isIn ? away : drive.point, isIn ? drive.point : away);
  return true;
}

/** Bytes of all that lies on one. */
export function bytesOn(point: string): number {
  let sum = 0;
  for (const entry of fs.readdirSync(point, { withFileTypes: true, recursive: true }))
    if (entry.isFile()) sum += fs.lstatSync(path.join(entry.parentPath, entry.name), { throwIfNoEntry: false })?.size ?? 0;
  return sum;
}
