import { spawn } from "node:child_process";
import fs from "node:fs";
import { isWithin, type Raw, textOfRaw } from "@/core/names/raw";
import { sharedMemory } from "../shared";

export interface Mount {
  point: Raw;
  /** What is mounted there: a device, an address, or a word where it is neither. */
  source: string;
  /** The file system's type, as the kernel calls it. */
  type: string;
}

/** What is mounted where (proc(5), mountinfo: the fifth field, and the first two after the hyphen; spaces and the like as octal). */
export function mounts(): Mount[] {
  const plain = (text: string) => text.replace(/\\([0-7]{3})/g, (_, o: string) => String.fromCharCode(Number.parseInt(o, 8)));
  return fs
    .readFileSync("/proc/self/mountinfo", "latin1")
    .split("\n")
    .flatMap((line) => {
      const point = line.split(" ")[4];
      const [type = "", source = ""] = line.split(" - ")[1]?.split(" ") ?? [];
      return point ? [{ point: plain(point) as Raw, source: plain(source), type }] : [];
    });
}

/** Those that another computer, or a program, stands behind: they may no longer answer, and whoever asks then waits without end. */
const mayHang = /^(?:nfs4?|cifs|smb3|smbfs|9p|afs|ceph|glusterfs|davfs|fuse|fuse\..+)$/;

/** Longer than this no mount is waited for; milliseconds. */
const patienceMs = 2000;
/** The list of mounts is read again after so long. */
const listedForMs = 2000;

interface Known {
  listedAt: number;
  points: Raw[];
  /** Those that were asked, and whether they answered. */
  answers: Map<Raw, boolean>;
  /** Those that have not answered yet: one waits for each, and no second. */
  asked: Set<Raw>;
}

const memory = sharedMemory<typeof globalThis, Known>("mounts");

function known(): Known {
  const now = memory.get(globalThis) ?? { listedAt: Number.NEGATIVE_INFINITY, points: [], answers: new Map(), asked: new Set() };
  memory.set(globalThis, now);
  if (performance.now() - now.listedAt < listedForMs) return now;
  now.listedAt = performance.now();
  try {
    const points = mounts().flatMap(({ point, type }) => (mayHang.test(type) ? [point] : []));
    now.points = [...new Set(points)].sort((a, b) => b.length - a.length);
  } catch {
    // Where it cannot be told nothing is known to hang.
    now.points = [];
  }
  return now;
}

/**
 * Whether what lies at a path is known to answer: it is on no mount that may hang, or on one that answered when it was last asked.
 * Touches nothing. One that was never asked is taken to answer.
 */
export function answers(path: Raw): boolean {
  const { points, answers: heard } = known();
  const point = points.find((one) => isWithin(one, path));
  return point === undefined || heard.get(point) !== false;
}

/**
 * Asks every mount that may hang, each by a child process that is left behind where it does; over once all answered, or their time
 * is over.
 */
export async function askMounts(): Promise<void> {
  await Promise.all(known().points.map(ask));
}

function ask(point: Raw): Promise<void> {
  const { answers: heard, asked } = known();
  const place = textOfRaw(point);
  if (place === undefined || asked.has(point)) return Promise.resolve();
  asked.add(point);
  return new Promise((resolve) => {
    // Of the file system alone (statfs(2)): nothing on it is looked at.
    const child = spawn("stat", ["--file-system", "--", place], { stdio: "ignore", cwd: "/" });
    const over = (answered: boolean) => {
      heard.set(point, answered);
      resolve();
    };
    const late = setTimeout(() => {
      over(false);
      child.kill("SIGKILL");
      child.unref();
    }, patienceMs);
    const ended = () => {
      clearTimeout(late);
      asked.delete(point);
      // Whatever it said: it said something. Also long after, when the other side is there again.
      over(true);
    };
    child.once("exit", ended);
    child.once("error", ended);
  });
}
