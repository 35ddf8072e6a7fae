import fs from "node:fs";
import path from "node:path";
import { afterEach, beforeEach, expect, test } from "vitest";
import { standingClock } from "../../../fixtures/clock";
import { itemNamed, makePlace, type Place } from "../../../fixtures/engine";
import type { Engine } from "../engine";
import type { VuotoEvent } from "../events";

let place: Place;
let engine: Engine;
let clock: ReturnType<typeof standingClock>;
let heard: VuotoEvent[];
const at = (name: string) => path.join(place.root, "Desktop", name);

beforeEach(async () => {
  place = makePlace((root) => {
    fs.mkdirSync(path.join(root, "Desktop"));
    for (const name of ["surf.wav", "notes.txt"]) fs.writeFileSync(path.join(root, "Desktop", name), name);
  });
  clock = standingClock(Date.UTC(2026, 10, 26, 12));
  engine = await place.open({ clock });
  engine.events.listen(({ event }) => event.type !== "job" && heard.push(event));
});
afterEach(async () => {
  await engine.close();
  place.remove();
});

/** What is told of a look after something was done with the files, and so many seconds. */
async function told(what: () => void, seconds = 3): Promise<VuotoEvent[]> {
  heard = [];
  what();
  clock.pass(seconds * 1000);
  await engine.lookAgain("worktops");
  return heard;
}

test("a file that grows is told with its size, once in two seconds; that it begins to, and rests, is a change", async () => {
  const { id } = itemNamed(engine, "surf.wav");
  const grow = () => fs.appendFileSync(at("surf.wav"), "surf");
  const changed = { type: "changed", what: "items" };
  expect(await told(grow)).toEqual([changed]);
  expect(await told(grow)).toEqual([{ type: "grown", items: [{ id, bytes: 16 }] }]);
  expect(await told(grow, 1)).toEqual([]);
  expect(await told(grow, 1)).toEqual([{ type: "grown", items: [{ id, bytes: 24 }] }]);
  // Something else beside it is a change of its own.
  expect(await told(() => [grow(), fs.writeFileSync(at("new.txt"), "new")])).toEqual([changed]);
  expect(await told(grow)).toEqual([{ type: "grown", items: [{ id, bytes: 32 }] }]);
  // It rests: what stands on its size is told anew.
  expect(await told(() => {}, 11)).toEqual([changed]);
  // Shorter, or another file under its name, is none that grew.
  expect(await told(() => fs.truncateSync(at("surf.wav"), 3))).toEqual([changed]);
  expect(
    await told(() => {
      fs.writeFileSync(at(".other"), "another, and longer");
      fs.renameSync(at(".other"), at("surf.wav"));
    }),
  ).toEqual([changed]);
});
