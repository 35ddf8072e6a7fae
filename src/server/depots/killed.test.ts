import { execFileSync } from "node:child_process";
import fs from "node:fs";
import path from "node:path";
import { afterEach, expect, test } from "vitest";
import { differences } from "../../../fixtures/compare-trees";
import { idsOn, makePlace, type Place, worktopTimes } from "../../../fixtures/engine";
import { type Fault, faultyCalls } from "../../../fixtures/faulty-calls";
import type { Engine } from "../engine";
import { undo } from "../ledger/undo";
import { quiet } from "../quiet/quiet";
import { archive } from "../sitting/archive";
import { addDepot } from "./add";
import { deleteParcel } from "./delete";
import { listParcels } from "./list";
import { send } from "./send";
import { sendingRows } from "./sending-row";

let place: Place;
let engine: Engine | undefined;
afterEach(async () => {
  await engine?.close();
  engine = undefined;
  place.remove();
});
const depot = (...parts: string[]) => path.join(place.folder, "depot", ...parts);

/** Three things, one of them a folder, on the desktop, and a depot; what is done before is done without a fault. */
async function prepared(before: (e: Engine) => Promise<unknown>): Promise<void> {
  place = makePlace((root) => {
    fs.mkdirSync(path.join(root, "Desktop/box"), { recursive: true });
    for (const name of ["a.txt", "b.txt", "box/c.txt"]) {
      fs.writeFileSync(path.join(root, "Desktop", name), name.repeat(2000));
      fs.utimesSync(path.join(root, "Desktop", name), 1.7e9, 1.7e9);
    }
  });
  fs.mkdirSync(depot());
  engine = await place.open();
  await addDepot(engine, { location: depot(), title: "Disk" });
  await archive(engine, { items: idsOn(engine), parcel: "P" });
  await before(engine);
  await engine.close();
}

/** Does an act under a fault, and opens the account again as the next start does; answers how many calls there were. */
async function killedIn(fault: Fault | undefined, act: (e: Engine) => Promise<unknown>): Promise<number> {
  const calls = faultyCalls(fault);
  calls.arm(false);
  engine = await place.open({ calls });
  calls.arm(true);
  await act(engine).catch(() => {});
  await engine.close();
  engine = await place.open();
  return calls.count();
}

async function deleteIt(e: Engine): Promise<unknown> {
  const { seen } = await deleteParcel(e, { parcel: "P", dryRun: true });
  return deleteParcel(e, { parcel: "P", seen });
}

test("killed at every call of deleting a parcel: it is there, whole, or gone with all that was of it", async () => {
  const sent = (e: Engine) => send(e, { parcel: "P", depot: "Disk" });
  await prepared(sent);
  const count = await killedIn(undefined, deleteIt);
  expect(count).toBeGreaterThan(5);
  const became = { whole: 0, gone: 0 };
  for (const how of ["kill before", "kill after"] as const)
    for (let at = 1; at <= count; at++) {
      await engine!.close();
      place.remove();
      await prepared(sent);
      await killedIn({ at, how }, deleteIt);
      const e = engine!;
      expect(e.ledger.entries.running()).toEqual([]);
      for (const { parcel, state } of sendingRows(e.db)) if (state === "removing") await e.sendings.removed(parcel);
      const listed = listParcels(e).filter(({ state }) => state === "sent");
      expect(fs.readdirSync(depot()), `${how} ${at}`).toEqual(listed.map(() => "P"));
      if (listed.length > 0) execFileSync("sha256sum", ["-c", "--quiet", "--strict", "manifest-sha256.txt"], { cwd: depot("P") });
      became[listed.length > 0 ? "whole" : "gone"]++;
      expect(await undo(e, { entry: "all" }).catch((problem: unknown) => problem)).toMatchObject({});
    }
  expect(became.whole).toBeGreaterThan(0);
  expect(became.gone).toBeGreaterThan(0);
}, 300_000);

/** Each call in `npm run torture`. */
const stride = process.env.VUOTO_TORTURE ? 1 : 4;

test("killed while it is sent and quiet comes and goes: nothing is lost, and all of it is taken back or goes on", async () => {
  const underQuiet = async (e: Engine) => {
    const sending = send(e, { parcel: "P", depot: "Disk" });
    // Both are under way at once, whichever is cut short.
    const hidden = quiet(e, { level: "bare" }).then(() => quiet(e, { level: "everything" }));
    await Promise.allSettled([sending, hidden]);
  };
  await prepared(async () => undefined);
  const before = place.tree();
  const count = await killedIn(undefined, underQuiet);
  expect(listParcels(engine!)).toMatchObject([{ state: "sent", things: 3 }]);
  expect(await undo(engine!, { entry: "all" })).toMatchObject({ refused: [] });
  let kills = 0;
  for (const how of ["kill before", "kill after"] as const)
    for (let at = 1; at <= count; at += stride) {
      await engine!.close();
      place.remove();
      await prepared(async () => undefined);
      await killedIn({ at, how }, underQuiet);
      const e = engine!;
      kills++;
      expect(e.ledger.entries.running()).toEqual([]);
      // It goes on from where it was cut short, wherever its things lie by then.
      if (listParcels(e)[0]?.state !== "sent")
        expect(await send(e, { parcel: "P", depot: "Disk" })).toMatchObject({ refused: [] });
      execFileSync("sha256sum", ["-c", "--quiet", "--strict", "manifest-sha256.txt"], { cwd: depot("P") });
      expect(fs.readdirSync(depot("P/data")).sort()).toEqual(["a.txt", "b.txt", "box"]);
      expect(await undo(e, { entry: "all" })).toMatchObject({ refused: [] });
      const lines = differences(before, place.tree(), worktopTimes).filter((line) => !/^new: \.local|^new: \.part/.test(line));
      expect(
        lines.filter((line) => !/out-of-sight/.test(line)),
        `${how} ${at}`,
      ).toEqual([]);
    }
  console.log(`${kills} kills of sending under quiet`);
  expect(kills).toBeGreaterThan(20);
}, 300_000);
