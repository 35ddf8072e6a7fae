import fs from "node:fs";
import { folderOf, type Raw } from "@/core/names/raw";
import type { Clock, Stop } from "../clock";
import { bytes } from "./disk";

const pollMs = 2000;

/**
 * Tells when anything in one of the folders changes: at once where the system says so (inotify), within two seconds where
 * it does not, or where the folder itself came or went. Without `poll` it is told by the system alone: nobody is woken for
 * nothing. Answers how to stop.
 */
export function watchFolders(
  clock: Clock,
  folders: Raw[],
  changed: () => void,
  failed: (error: Error) => void,
  { poll: polled = true }: { poll?: boolean } = {},
): () => void {
  const stops = folders.map((raw) => {
    const folder = bytes(raw);
    const look = () => {
      try {
        return fs.statSync(folder);
      } catch {
        return undefined;
      }
    };
    let watcher: fs.FSWatcher | undefined;
    const watch = () => {
      watcher?.close();
      watcher = undefined;
      try {
        watcher = fs.watch(folder, { persistent: false }, changed);
        watcher.on("error", failed);
      } catch (error) {
        if ((error as NodeJS.ErrnoException).code !== "ENOENT") failed(error as Error);
      }
    };
    let last = look();
    watch();
    const lookAgain = () => {
      const now = look();
      if (now?.ino !== last?.ino) watch();
      if (now?.ino !== last?.ino || now?.mtimeMs !== last?.mtimeMs) changed();
      last = now;
    };
    const stopLooking = polled ? clock.every(pollMs, lookAgain) : watchParent(raw, lookAgain, failed);
    return () => {
      stopLooking();
      watcher?.close();
    };
  });
  return () => {
    for (const stop of stops) stop();
  };
}

/** Where the folder itself comes and goes, the one that it lies in changes. */
function watchParent(folder: Raw, changed: () => void, failed: (error: Error) => void): () => void {
  try {
    const watcher = fs.watch(bytes(folderOf(folder)), { persistent: false }, changed);
    watcher.on("error", failed);
    return () => watcher.close();
  } catch (error) {
    failed(error as Error);
    return () => {};
  }
}

/**
 * Answers a function that has `work` done a while after it was called last, but no later than `latestMs` after it was called
 * first: a file that is written all the time would put it off for ever.
 */
export function soonButNotLate(clock: Clock, work: () => void, soonMs: number, latestMs: number): () => void {
  let soon: Stop | undefined;
  let firstAt = 0;
  return () => {
    const now = clock.now();
    if (soon === undefined) firstAt = now;
    soon?.();
    soon = clock.after(Math.max(0, Math.min(soonMs, firstAt + latestMs - now)), () => {
      soon = undefined;
      work();
    });
  };
}
