import { spawnSync } from "node:child_process";
import fs from "node:fs";
import path from "node:path";
import { afterAll, beforeAll, expect, test } from "vitest";
import { itemNamed, makePlace, type Place } from "../../../fixtures/engine";
import type { Engine } from "../engine";
import { mediaOf } from "./forms/media";
import { lookOf } from "./looks";

let place: Place;
let engine: Engine;
const at = (name: string) => path.join(place.root, "Desktop", name);
beforeAll(async () => {
  place = makePlace((root) => fs.mkdirSync(path.join(root, "Desktop"), { recursive: true }));
  // Written by another program.
  const script = `import wave,sys
w=wave.open(sys.argv[1],"wb"); w.setnchannels(1); w.setsampwidth(2); w.setframerate(8000); w.writeframes(bytes(range(256))*400); w.close()`;
  expect(spawnSync("python3", ["-c", script, at("gull.wav")]).status).toBe(0);
  fs.writeFileSync(at("page.mp3"), "<html><script>alert(1)</script></html>");
  fs.writeFileSync(at("empty.ogg"), "");
  engine = await place.open();
});
afterAll(async () => {
  await engine.close();
  place.remove();
});

const ask = (name: string, range?: string, signal?: AbortSignal) =>
  mediaOf(
    engine,
    new URLSearchParams({ item: itemNamed(engine, name).id }),
    new Request("http://127.0.0.1/", { headers: range ? { range } : {}, signal }),
  );

test("a sound is played from where it lies, whole or the part that is asked for", async () => {
  const whole = fs.readFileSync(at("gull.wav"));
  expect(await lookOf(engine, itemNamed(engine, "gull.wav"))).toEqual({
    form: "sound",
    type: "audio/wav",
    // 102,400 bytes, two a sample, 8,000 samples a second.
    seconds: expect.closeTo(6.4, 2),
    wave: expect.arrayContaining([254]),
  });
  const all = await ask("gull.wav");
  expect([all.status, all.headers.get("content-type"), all.headers.get("accept-ranges")]).toEqual([200, "audio/wav", "bytes"]);
  expect(Buffer.from(await all.arrayBuffer())).toEqual(whole);
  const part = await ask("gull.wav", "bytes=1000-1999");
  expect([part.status, part.headers.get("content-range")]).toEqual([206, `bytes 1000-1999/${whole.length}`]);
  expect(Buffer.from(await part.arrayBuffer())).toEqual(whole.subarray(1000, 2000));
  const end = await ask("gull.wav", "bytes=-10");
  expect(Buffer.from(await end.arrayBuffer())).toEqual(whole.subarray(-10));
  const none = await ask("gull.wav", `bytes=${whole.length}-`);
  expect([none.status, none.headers.get("content-range")]).toEqual([416, `bytes */${whole.length}`]);
});

test("it is sent to a player alone, and never as something to be opened", async () => {
  const as = (dest: string) =>
    mediaOf(
      engine,
      new URLSearchParams({ item: itemNamed(engine, "gull.wav").id }),
      new Request("http://127.0.0.1/", { headers: { "sec-fetch-dest": dest } }),
    );
  const answer = await as("audio");
  expect([answer.status, answer.headers.get("content-disposition")]).toEqual([200, "attachment"]);
  await answer.body!.cancel();
  for (const dest of ["document", "iframe", "image", "script", "empty"])
    await expect(as(dest), dest).rejects.toMatchObject({ code: "foreign-request" });
});

test("what is none by its content is never sent, whatever it is called", async () => {
  for (const name of ["page.mp3", "empty.ogg"]) await expect(ask(name), name).rejects.toMatchObject({ code: "unknown-item" });
  expect(await lookOf(engine, itemNamed(engine, "empty.ogg"))).toMatchObject({ form: "bytes", head: [] });
  // Swapped for a link after it was looked at.
  const item = itemNamed(engine, "gull.wav");
  fs.renameSync(at("gull.wav"), at("kept.wav"));
  fs.symlinkSync("/etc/passwd", at("gull.wav"));
  await expect(mediaOf(engine, new URLSearchParams({ item: item.id }), new Request("http://127.0.0.1/"))).rejects.toThrow();
  fs.rmSync(at("gull.wav"));
  fs.renameSync(at("kept.wav"), at("gull.wav"));
});

test("nobody reads on: the file is closed", async () => {
  const open = () =>
    fs.readdirSync("/proc/self/fd").filter((fd) => {
      try {
        return fs.readlinkSync(`/proc/self/fd/${fd}`) === at("gull.wav");
      } catch {
        return false;
      }
    }).length;
  const answer = await ask("gull.wav");
  await answer.body!.cancel();
  for (let n = 0; n < 200 && open() > 0; n++) await new Promise((next) => setTimeout(next, 5));
  expect(open()).toBe(0);
});
