import type { DepotsView, ParcelView } from "@/contract/views";
import { joinRaw, type Raw, rawFromText, shownName } from "@/core/names/raw";
import { unlessProblem } from "@/core/problem";
import { realFolder } from "../disk/around";
import type { Engine } from "../engine";
import { depotsNow, type Parcel, parcels, parcelsWaiting } from "./depots";
import { showParcel } from "./list";

/** Depots as vessels, and parcels: those being collected, and those that were sent. */
export async function depotsView(engine: Engine): Promise<DepotsView> {
  const words = engine.words();
  const all = await depotsNow(engine);
  const titles = new Map(all.map((d) => [d.id, d.title]));
  const sent = parcels(engine).filter((parcel) => parcel.state === "sent");
  const waiting = parcelsWaiting(engine).map(({ parcel, items }): ParcelView => {
    const bytes = items.reduce((sum, item) => sum + item.bytes, 0);
    return {
      id: parcel.id,
      title: parcel.title,
      state: "collecting",
      words: `${words.counted(items.length, "thing")}, ${words.bytes(bytes)}; not sent yet, everything still lies where it was`,
      things: items.map((item) => ({ id: item.id, name: item.label, size: words.bytes(item.bytes) })),
    };
  });
  const base = engine.account.root.slice(0, engine.account.root.lastIndexOf("/")) as Raw;
  const nearby = engine.account.sample ? realFolder(joinRaw(base, rawFromText("station-disk"))) : undefined;
  return {
    depots: all.map((depot) => {
      const here = sent.filter((parcel) => parcel.depot === depot.id);
      const used = here.reduce((sum, parcel) => sum + (parcel.bytes ?? 0), 0);
      const whole = used + (depot.free ?? 0);
      return {
        id: depot.id,
        title: depot.title,
        folder: shownName(depot.address.folder),
        there: depot.there,
        free: depot.free === undefined ? undefined : words.bytes(depot.free),
        freeBytes: depot.free,
        used: here.map((parcel) => ({ title: parcel.title, share: whole > 0 ? (parcel.bytes ?? 0) / whole : 0 })),
      };
    }),
    waiting,
    sent: await Promise.all(sent.map((parcel) => sentView(engine, parcel, titles))),
    suggestion: nearby && !all.some((d) => d.address.folder === nearby) ? shownName(nearby) : undefined,
  };
}

async function sentView(engine: Engine, parcel: Parcel, titles: Map<string, string>): Promise<ParcelView> {
  const words = engine.words();
  const depot = titles.get(parcel.depot ?? "");
  const content = await unlessProblem(() => showParcel(engine, { parcel: parcel.id }));
  const what = `${words.counted(parcel.things ?? 0, "thing")}, ${words.counted(parcel.files ?? 0, "file")}, ${words.bytes(parcel.bytes ?? 0)}`;
  return {
    id: parcel.id,
    title: parcel.title,
    state: "sent",
    depot,
    words: `${what}; sent to ${depot ?? "a depot no longer listed"} ${parcel.sentAt ? words.ago(parcel.sentAt) : ""}, read back, every checksum the same`,
    things: content?.things.map((t) => ({ name: t.name, size: words.bytes(t.bytes) })) ?? [],
    bag: content?.bag ?? undefined,
  };
}
