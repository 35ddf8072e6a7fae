import { expect, test } from "vitest";
import { realCalls } from "../disk/calls";
import { Disk } from "../disk/disk";
import { Turns } from "./turns";

const make = () => new Turns(new Disk(realCalls, () => () => false));
const pause = () => new Promise((next) => setImmediate(next));

test("acts have their turns one after the other, in the order in which they asked, whatever one of them throws", async () => {
  const turns = make();
  const said: string[] = [];
  const act = (name: string) =>
    turns.inTurn(async () => {
      said.push(`${name} begins`);
      await pause();
      if (name === "b") throw new Error(name);
      said.push(`${name} ends`);
    });
  const all = await Promise.allSettled(["a", "b", "c"].map(act));
  expect(all.map(({ status }) => status)).toEqual(["fulfilled", "rejected", "fulfilled"]);
  expect(said).toEqual(["a begins", "a ends", "b begins", "c begins", "c ends"]);
  expect(turns.count).toBe(3);
});

test("while one is outside its turn others have theirs; it comes back into one of its own, also after a failure", async () => {
  const turns = make();
  const said: string[] = [];
  let goOn = () => {};
  const long = turns.inTurn(async (turn) => {
    said.push("long begins");
    const failed = await turn
      .leave(async () => {
        await new Promise<void>((on) => {
          goOn = on;
        });
        throw new Error("the disk is gone");
      })
      .catch((error: Error) => error.message);
    said.push(`long is back: ${failed}`);
    await pause();
    said.push("long ends");
  });
  await pause();
  await turns.inTurn(async () => void said.push("short"));
  // Nobody is in the middle of a turn, though one is under way.
  await turns.between();
  let idle = false;
  const waiting = turns.idle().then(() => {
    idle = true;
  });
  await pause();
  expect(idle).toBe(false);
  goOn();
  await pause();
  const later = turns.inTurn(async () => void said.push("later"));
  await Promise.all([long, later, waiting]);
  expect(said).toEqual(["long begins", "short", "long is back: the disk is gone", "long ends", "later"]);
});
