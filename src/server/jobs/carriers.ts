import { folderOf, type Raw } from "@/core/names/raw";
import { type Carriage, type CarriageName, Carrier, writesTo } from "../disk/carrier";
import type { Disk } from "../disk/disk";
import type { FileTold, Pace } from "../disk/tree";
import { install } from "../install";
import { Lane } from "./lane";
import type { CarriageAsked } from "./work/carrying";

/** Moves the bytes of one act. */
export interface CarrierLink {
  carry<N extends CarriageName>(name: N, input: Carriage<N>["input"], pace: Pace): Promise<Carriage<N>["answer"]>;
  end(): Promise<void>;
}

/** A carrier on this thread, where the calls of a test are to be met. */
export function carrierHere(disk: Disk): CarrierLink {
  const carrier = new Carrier(disk);
  return {
    async carry(name, input, pace) {
      disk.hold();
      try {
        return await carrier.carry(name, input, pace);
      } finally {
        disk.letGo();
      }
    },
    end: async () => {},
  };
}

/** Threads that no act has just now: to start one takes longer than most acts. */
const idle: Lane[] = [];
const mostIdle = 2;
let last = 0;

/** Ends the threads that no act has just now. */
export async function restCarriers(): Promise<void> {
  await Promise.all(idle.splice(0).map((lane) => lane.stop()));
}

/** A carrier on a thread, for this act alone. The folders that it works in are opened here, and it works in these. */
export function carrierApart(disk: Disk): CarrierLink {
  const lane = idle.pop() ?? new Lane(install("dist/carrier.mjs"));
  return {
    async carry(name, input, pace) {
      const within = writesTo(name, input);
      const from = "from" in input ? [input.from] : "path" in input ? [input.path] : [];
      const folders = new Map<Raw, number>();
      try {
        for (const place of [...within, ...from]) {
          const folder = folderOf(place);
          if (!folders.has(folder)) folders.set(folder, disk.openApart(folder).fd);
        }
        const asked: CarriageAsked = { name, input, folders, within };
        return (await new Promise((resolve, reject) =>
          lane.push({
            id: ++last,
            name: "carry",
            input: asked,
            part: ((part: number | FileTold) => {
              if (typeof part === "number") void pace.step(part).catch(() => {});
              else pace.told?.(part);
            }) as (part: never) => void,
            signal: pace.signal,
            resolve,
            reject,
          }),
        )) as Carriage<typeof name>["answer"];
      } finally {
        for (const fd of folders.values()) disk.calls.close(fd);
      }
    },
    async end() {
      const forgot = await new Promise<boolean>((resolve) =>
        lane.push({ id: ++last, name: "forget", input: null, resolve: () => resolve(true), reject: () => resolve(false) }),
      );
      // An act that is done does not fail for the thread that it no longer needs.
      if (forgot && idle.length < mostIdle) idle.push(lane);
      else await lane.stop();
    },
  };
}
