import fs from "node:fs";
import { errorCode } from "./disk-problem";

const { O_RDONLY, O_NOFOLLOW, O_NONBLOCK, O_NOATIME } = fs.constants;

/**
 * Opens without leaving the time of it, where that is allowed (open(2), O_NOATIME: on the person's own files): only others'
 * reading is recorded. `open` is given the flag, or none where it is not allowed.
 */
export function quietly(open: (flag: number) => number): number {
  try {
    return open(O_NOATIME);
  } catch (error) {
    if (errorCode(error) !== "EPERM") throw error;
    return open(0);
  }
}

/** A file's descriptor, for reading; never through a link, and never waiting for a pipe. */
export const openQuietly = (place: Buffer): number =>
  quietly((flag) => fs.openSync(place, O_RDONLY | O_NOFOLLOW | O_NONBLOCK | flag));

/** All of a file. */
export function readQuietly(place: Buffer): Buffer {
  const fd = openQuietly(place);
  try {
    return fs.readFileSync(/* turbopackIgnore: true */ fd);
  } finally {
    fs.closeSync(fd);
  }
}

/** Whether the time at which a file was last opened tells of others' reading alone: of another user's it is set by our own too. */
export const tellsOfOthers = ({ uid }: Pick<fs.BigIntStats, "uid">): boolean => {
  const own = process.geteuid?.();
  return own === 0 || Number(uid) === own;
};
