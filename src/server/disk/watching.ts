import fs from "node:fs";
import type { Raw } from "@/core/names/raw";
import type { Clock, Stop } from "../clock";
import { bytes } from "./disk";

const pollMs = 2000;

/**
 * Tells when anything in one of the folders changes: at once where the system says so (inotify), within two seconds where
 * it does not, or where the folder itself came or went. Answers how to stop.
 */
export function watchFolders(folders: Raw[], changed: () => void, failed: (error: Error) => void): () => void {
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
    const poll = setInterval(() => {
      const now = look();
      if (now?.ino !== last?.ino) watch();
      if (now?.ino !== last?.ino || now?.mtimeMs !== last?.mtimeMs) changed();
      last = now;
    }, pollMs).unref();
    return () => {
      clearInterval(poll);
      watcher?.close();
    };
  });
  return () => {
    for (const stop of stops) stop();
  };
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
