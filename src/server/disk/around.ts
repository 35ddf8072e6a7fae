import fs from "node:fs";
import { type Raw, rawFromBytes } from "@/core/names/raw";
import { bytes } from "./disk";

/** A folder's own path with all links resolved, or undefined where there is no such folder. */
export function realFolder(path: Raw): Raw | undefined {
  try {
    const real = fs.realpathSync(bytes(path), { encoding: "buffer" });
    return fs.statSync(real).isDirectory() ? rawFromBytes(real) : undefined;
  } catch {
    return undefined;
  }
}

export function canRead(folder: Raw): boolean {
  try {
    fs.readdirSync(bytes(folder));
    return true;
  } catch {
    return false;
  }
}

/** A small configuration file's text; undefined where there is none. */
export function readText(path: Raw): string | undefined {
  try {
    return fs.readFileSync(bytes(path), "utf8");
  } catch {
    return undefined;
  }
}

/** Vuoto's own folder: made where missing, for the person alone. */
export function ensurePrivateFolder(folder: string): void {
  fs.mkdirSync(folder, { recursive: true, mode: 0o700 });
}

/** Where file systems are mounted (proc(5), mountinfo, fifth field; spaces and the like as octal). */
export function mountPoints(): Raw[] {
  try {
    const lines = fs.readFileSync("/proc/self/mountinfo", "latin1").split("\n");
    const points = lines.map((line) => line.split(" ")[4]).filter((p): p is string => !!p);
    return [
      ...new Set(
        points.map((p) => p.replace(/\\([0-7]{3})/g, (_, o: string) => String.fromCharCode(Number.parseInt(o, 8))) as Raw),
      ),
    ];
  } catch {
    return ["/" as Raw];
  }
}

/** The device a path lies on, following links; undefined where there is nothing. */
export function deviceOf(path: Raw): bigint | undefined {
  try {
    return fs.statSync(bytes(path), { bigint: true }).dev;
  } catch {
    return undefined;
  }
}

/** Free bytes on the file system of a folder, for this user. */
export function freeBytes(folder: Raw): number | undefined {
  try {
    const stat = fs.statfsSync(bytes(folder));
    return stat.bavail * stat.bsize;
  } catch {
    return undefined;
  }
}
