import fs from "node:fs";
import path from "node:path";
import { firstGridLook, gridOn } from "../src/core/straighten/grid";
import { nearest } from "../src/core/straighten/near";
import { serve } from "./busy";
import { folder, type Row, rows, timed } from "./measure";

/** Icons strewn over a screen that is just large enough for them, and its cells; the same each time. */
function strewn(count: number) {
  const side = Math.ceil(Math.sqrt(count * 1.2));
  const size = { width: side * 125, height: side * 125, icon: { width: 64, height: 74 }, label: { width: 96, height: 30 } };
  const { spots } = gridOn(size, firstGridLook);
  let state = 11;
  const next = () => {
    state = (state * 48_271) % 2_147_483_647;
    return state / 2_147_483_647;
  };
  const places = Array.from({ length: count }, () => ({
    x: Math.round(next() * (size.width - 96)),
    y: Math.round(next() * (size.height - 104)),
  }));
  return { size, places, spots };
}

/** P6: each kept near its place, optimal, strewn at random; and a layout of 2,000 icons brought by a server, against quiet and back on 1,000. */
export async function straightened(): Promise<void> {
  for (const [count, atMost, aim, runs] of [
    [500, 500, 100, 5],
    [2000, 15_000, 2000, 3],
  ] as const) {
    const { places, spots } = strewn(count);
    const row: Row = { figure: `P6 ${count} icons near their places, ${spots.length} cells`, ours: [], atMost, aim };
    for (let run = 0; run < runs; run++) row.ours.push(await timed(() => nearest(places, spots)));
    rows.push(row);
  }
  const { size, places } = strewn(2000);
  const account = path.join(folder, "layouts");
  fs.mkdirSync(`${account}/Desktop`, { recursive: true });
  fs.mkdirSync(`${account}-data`, { mode: 0o700 });
  // On the screen that Vuoto draws, which knows places.
  fs.writeFileSync(path.join(`${account}-data`, "sample"), "", { mode: 0o600 });
  for (let n = 0; n < 2000; n++) fs.writeFileSync(`${account}/Desktop/thing ${n}.txt`, `thing ${n}\n`);
  const vuoto = await serve(account);
  await vuoto.ask("survey/refresh", {});
  const { worktops } = (await vuoto.ask("survey/survey", {})) as unknown as { worktops: { items: { id: string }[] }[] };
  const icons = worktops[0]!.items;
  const spots = icons.map(({ id }, n) => ({ item: id, ...places[n]! }));
  await vuoto.ask("quiet/place", { spots });
  await vuoto.ask("quiet/keep-layout", { title: "Strewn" });
  // What P5 measures: 1,000 things that move into a hidden folder and back.
  const plain = path.join(folder, "layouts-quiet");
  fs.mkdirSync(`${plain}/Desktop`, { recursive: true });
  for (let n = 0; n < 1000; n++) fs.writeFileSync(`${plain}/Desktop/thing ${n}.txt`, `thing ${n}\n`);
  const quiet = await serve(plain);
  await quiet.ask("survey/refresh", {});
  const row: Row = {
    figure: `P6 a layout of 2,000 icons brought (${size.width} pixels)`,
    ours: [],
    theirs: [],
    atMost: 2,
    aim: 1,
  };
  for (let run = 0; run < 5; run++) {
    await vuoto.ask("quiet/place", { spots: spots.map(({ item, x, y }) => ({ item, x: x + 7 + run, y: y + 9 })) });
    row.theirs!.push(
      await timed(async () => {
        await quiet.ask("quiet/show", { level: "bare" });
        await quiet.ask("quiet/show", { level: "everything" });
      }),
    );
    row.ours.push(await timed(() => vuoto.ask("quiet/bring-layout", { layout: "Strewn" })));
  }
  rows.push(row);
  await quiet.stop();
  await vuoto.stop();
}
