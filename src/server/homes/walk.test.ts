import fs from "node:fs";
import path from "node:path";
import { afterEach, beforeEach, expect, test } from "vitest";
import { makePlace, type Place } from "../../../fixtures/engine";
import type { Engine } from "../engine";
import { addHomes } from "./add";
import { walkHomes } from "./homes";

const many = 5200;
let place: Place;
let engine: Engine;
const at = (...parts: string[]) => path.join(place.root, "Documents/Many", ...parts);
const known = () =>
  engine.db
    .prepare<[], string>("SELECT CAST(filed.name AS TEXT) FROM filed JOIN folder ON folder.id = filed.folder ORDER BY filed.name")
    .pluck()
    .all();
const count = () =>
  engine.db.prepare<[string], number>("SELECT files FROM folder WHERE CAST(place AS TEXT) = ?").pluck().get(at());

beforeEach(async () => {
  place = makePlace((root) => {
    fs.mkdirSync(path.join(root, "Desktop"));
    fs.mkdirSync(path.join(root, "Documents/Many"), { recursive: true });
    for (let n = 0; n < many; n++) fs.writeFileSync(path.join(root, "Documents/Many", `${n}.txt`), `${n}`);
  });
  engine = await place.open();
  await addHomes(engine, { homes: [{ title: "Documents / Many" }] });
  await engine.lookAgain("all");
});
afterEach(async () => {
  await engine.close();
  place.remove();
});

test("a folder of very many files is known to the last of them: what comes, goes and changes in any part of it", async () => {
  const lies = () => fs.readdirSync(at()).sort();
  expect(known()).toEqual(lies());
  expect(count()).toBe(many);
  const before = engine.db.prepare<[], number>("SELECT id FROM filed WHERE name = CAST('5199.txt' AS BLOB)").pluck().get();
  for (const n of [0, 2100, 4300]) fs.rmSync(at(`${n}.txt`));
  fs.writeFileSync(at("fresh.txt"), "fresh");
  fs.writeFileSync(at("17.txt"), "another, and longer");
  expect(await walkHomes(engine)).toBe(true);
  expect(known()).toEqual(lies());
  expect(count()).toBe(many - 2);
  const size = engine.db.prepare<[], number>("SELECT bytes FROM filed WHERE name = CAST('17.txt' AS BLOB)").pluck().get();
  expect(size).toBe(19);
  // What stayed as it was keeps what is known of it.
  expect(engine.db.prepare<[], number>("SELECT id FROM filed WHERE name = CAST('5199.txt' AS BLOB)").pluck().get()).toBe(before);
  expect(await walkHomes(engine)).toBe(false);
  fs.rmSync(at(), { recursive: true });
  expect(await walkHomes(engine)).toBe(true);
  expect(known()).toEqual([]);
  expect(count()).toBeUndefined();
});

test("a walk that is cut short in the middle of it leaves nothing that the next one takes for known", async () => {
  for (let n = 0; n < many; n += 2) fs.writeFileSync(at(`${n}.txt`), "each other one is longer now");
  const { run } = engine.workers;
  let parts = 0;
  engine.workers.run = ((name: string, input: unknown, options?: { part?: (batch: unknown) => void }) =>
    run.call(
      engine.workers,
      name as never,
      input as never,
      {
        ...options,
        part: (batch: never) => {
          if (++parts > 1) throw new Error("cut short");
          options?.part?.(batch);
        },
      } as never,
    )) as never;
  await walkHomes(engine).catch(() => {});
  engine.workers.run = run;
  expect(parts).toBeGreaterThan(1);
  // As it was before: what of it was written down by then is of neither state.
  for (let n = 0; n < many; n += 2) fs.writeFileSync(at(`${n}.txt`), `${n}`);
  await walkHomes(engine);
  expect(known()).toEqual(fs.readdirSync(at()).sort());
  const wrong = engine.db
    .prepare<[], { name: string; bytes: number }>("SELECT CAST(name AS TEXT) AS name, bytes FROM filed")
    .all()
    .filter(({ name, bytes }) => fs.statSync(at(name)).size !== bytes);
  expect(wrong).toEqual([]);
});
