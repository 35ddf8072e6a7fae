import { isWithin, type Raw } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import { realCalls } from "../../disk/calls";
import { type Carriage, type CarriageName, Carrier } from "../../disk/carrier";
import { Disk } from "../../disk/disk";
import type { Pace } from "../../disk/tree";
import type { WorkContext } from "../work-context";

/** What a thread is given to carry: what to do, the folders that were opened for it, and where alone it may write. */
export interface CarriageAsked<N extends CarriageName = CarriageName> {
  name: N;
  input: Carriage<N>["input"];
  folders: Map<Raw, number>;
  within: Raw[];
}

let within: Raw[] = [];
const disk = new Disk(realCalls, () => (path) => within.some((place) => isWithin(place, path)));
let carrier = new Carrier(disk);

const tellFrom = 1 << 20;
const askEvery = 100;

/** The work of a thread that moves the bytes of one act after the other. */
export const carrying = {
  /** The act is over: what was remembered for it is not for the next. */
  async forget(): Promise<null> {
    carrier = new Carrier(disk);
    return null;
  },

  async carry(asked: CarriageAsked, context: WorkContext): Promise<unknown> {
    let untold = 0;
    const stop = new AbortController();
    const pace: Pace = {
      async step(read) {
        if (context.cancelled()) throw new Problem("cancelled", { name: "Moving" });
        untold += read;
        if (untold < tellFrom) return;
        context.tell(untold);
        untold = 0;
      },
      breath: () => undefined,
      signal: stop.signal,
      told: (file) => context.tell(file),
    };
    // What waits for another computer does not come by to ask.
    const asking = setInterval(() => {
      if (context.cancelled()) stop.abort();
    }, askEvery);
    within = asked.within;
    disk.hold(asked.folders);
    try {
      return await carrier.carry(asked.name, asked.input as never, pace);
    } finally {
      clearInterval(asking);
      disk.letGo();
      if (untold > 0) context.tell(untold);
    }
  },
};
