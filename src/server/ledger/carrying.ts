import type { Raw } from "@/core/names/raw";
import type { CarriageName } from "../disk/carrier";
import type { SyncInput } from "../disk/sync";
import type { CarrierLink } from "../jobs/carriers";

/** What may be cancelled in the middle; the rest is looking, and clearing up. */
const canStop = new Set<CarriageName>(["copyThing", "copyTree", "compare", "scan"]);
export const mayStop = (name: CarriageName): boolean => canStop.has(name);

/** The carrier of one act, made when it is first needed. */
export class CarrierOf {
  private made: CarrierLink | undefined;

  constructor(
    private readonly make: () => CarrierLink,
    /** Makes changes durable, which may wait for the disk: on a thread that is always there. */
    readonly sync: (what: SyncInput) => Promise<unknown>,
  ) {}

  carry: CarrierLink["carry"] = (name, input, pace) => {
    this.made ??= this.make();
    return this.made.carry(name, input, pace);
  };

  async end(): Promise<void> {
    await this.made?.end();
  }
}

/** What is to be made durable once the steps are done: each folder once, and each file system that small files went to. */
export class Sync {
  readonly folders = new Set<Raw>();
  readonly written = new Set<Raw>();

  flush(carriers: CarrierOf): Promise<unknown> {
    if (this.folders.size + this.written.size === 0) return Promise.resolve();
    return carriers.sync({ folders: [...this.folders], written: [...this.written] });
  }
}
