import fs from "node:fs";
import path from "node:path";
import { afterEach, beforeEach, expect, test } from "vitest";
import { makeRandomAccount } from "../../../fixtures/accounts";
import { changedSince } from "../../../fixtures/compare-trees";
import { makePlace, type Place } from "../../../fixtures/engine";
import { said } from "../../../fixtures/said";
import { type Served, serveAccount } from "../../../fixtures/served";
import { main } from "../../cli/main";

let place: Place;
let served: Served;
beforeEach(async () => {
  place = makePlace((root) => void makeRandomAccount(root, 77, 60));
  served = await serveAccount(place);
});
afterEach(async () => {
  await served.close();
  place.remove();
});

test("two windows and the command on one account take turns: nothing is lost or done twice", async () => {
  const before = place.tree();
  const bureau = path.join(place.root, "Bureau");
  const names = fs.readdirSync(bureau).sort();
  // Each window and the command go through the same 60 things, each in an order of its own.
  const inWindow = async (first: number, act: string, more: object) => {
    const cookie = await served.cookie();
    const headers = { "content-type": "application/json", origin: served.base, "sec-fetch-site": "same-origin", cookie };
    let done = 0;
    for (const name of [...names.slice(first), ...names.slice(0, first)]) {
      const items = [{ path: Buffer.from(path.join(bureau, name)).toString("base64") }];
      const answer = await served.request("POST", `/api/${act}`, headers, JSON.stringify({ ...more, items }));
      if (answer.status === 200) done += (JSON.parse(answer.text) as { done: number }).done;
    }
    return done;
  };
  const command = (...words: string[]) => said(main, "--account", place.root, "--data", place.data, ...words);
  const [put, gone] = await Promise.all([
    inWindow(0, "homes/put", { home: { title: "Together" } }),
    inWindow(20, "sitting/let-go", {}),
    command("--json", "stay", ...[...names.slice(40), ...names.slice(0, 40)].map((name) => path.join(bureau, name))),
  ]);

  const home = fs.readdirSync(path.join(place.root, "Papers/Together"));
  const trash = fs.readdirSync(path.join(place.root, ".local/share/Trash/files"));
  expect([...home, ...trash].sort()).toEqual(names);
  expect([home.length, trash.length]).toEqual([put, gone]);
  expect(put).toBeGreaterThan(0);
  expect(gone).toBeGreaterThan(0);

  const undone = await command("undo", "all");
  expect(undone.status, undone.out + undone.err).toBe(0);
  expect(changedSince(before, place.root)).toEqual([]);
});
