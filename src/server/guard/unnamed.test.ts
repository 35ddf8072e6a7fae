import fs from "node:fs";
import path from "node:path";
import { afterEach, beforeEach, expect, test } from "vitest";
import { type ApiPath, api } from "@/contract/api";
import { makePlace, type Place } from "../../../fixtures/engine";
import type { Engine } from "../engine";
import { frameView } from "../frame";
import { operate } from "../operations";
import { changeOccasion } from "../quiet/occasions";
import { sharingNow } from "../quiet/sharing";
import { expectUnnamed, unnamedAnswer, unnamedEvent, unnamedProblem } from "./unnamed";

let place: Place;
let engine: Engine;
const secret = "Redundancies 2027";
beforeEach(async () => {
  place = makePlace((root) => {
    fs.mkdirSync(path.join(root, "Desktop"), { recursive: true });
    fs.writeFileSync(path.join(root, "Desktop", `${secret}.txt`), "x");
    fs.writeFileSync(path.join(root, "Desktop/b.txt"), "y");
  });
  engine = await place.open();
});
afterEach(async () => {
  await engine.close();
  place.remove();
});
const id = () => engine.db.prepare("SELECT id FROM item WHERE label LIKE 'Redundancies%'").pluck().get() as string;

test("while the screen is shared the frame tells how many, and no name; the last act neither", async () => {
  await operate(engine, "sitting/let-go", { items: [id()] });
  expect(JSON.stringify(frameView(engine))).toContain(secret);
  await changeOccasion(engine, { occasion: "sharing", does: "start" });
  expect(sharingNow(engine)).toBeDefined();
  engine.recovered.push(`Interrupted and taken back: Put ${secret}.txt into Papers`);
  const frame = frameView(engine);
  expect(JSON.stringify(frame)).not.toContain(secret);
  expect(frame.account).toBe("");
  expect(frame.sharing).toMatchObject({
    title: "sharing the screen",
    counts: [
      { words: "on the desktop", count: "1" },
      { words: "out of sight", count: "1" },
    ],
  });
  await changeOccasion(engine, { occasion: "sharing", does: "end" });
  expect(frameView(engine).sharing).toBeUndefined();
});

test("a page is answered without names, and may ask nothing that tells of things", async () => {
  await changeOccasion(engine, { occasion: "sharing", does: "start" });
  const allowed = (Object.keys(api) as ApiPath[]).filter((asked) => {
    try {
      expectUnnamed(asked);
      return true;
    } catch {
      return false;
    }
  });
  expect(allowed.sort()).toEqual([
    "frame/frame",
    "guard/end",
    "jobs/cancel",
    "ledger/again",
    "ledger/undo",
    "quiet/hide",
    "quiet/longer",
    "quiet/occasion",
    "quiet/place",
    "quiet/show",
    "quiet/shown",
  ]);
  const undone = {
    entry: 4,
    act: "undo",
    words: `Undone: ${secret}`,
    done: 1,
    refused: [{ name: secret, code: "in-use", why: secret }],
  };
  const told = JSON.stringify(unnamedAnswer("ledger/undo", undone));
  expect(told).not.toContain(secret);
  expect(told).toContain("is in use");
  const { Problem } = await import("@/core/problem");
  const named = new Problem("name-taken", { name: secret, place: secret });
  expect(unnamedProblem(named)).toMatchObject({ code: "name-taken", message: expect.not.stringContaining(secret) });
  expect(unnamedEvent({ type: "said", words: secret })).toBeUndefined();
  const job = { id: "1", words: secret, done: 0, of: 1, unit: "things", took: 0, state: "running" } as const;
  expect(JSON.stringify(unnamedEvent({ type: "job", job }))).not.toContain(secret);
});
