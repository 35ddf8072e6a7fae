/**
 * The application as people run it, but that it opens one account after another, at the word of the tests that started it,
 * and that its clock can be put forward. It is made for the tests alone, and lies in nothing that people run.
 */
import { randomBytes } from "node:crypto";
import { once } from "node:events";
import http from "node:http";
import type net from "node:net";
import next from "next";
import { rawFromText } from "@/core/names/raw";
import { makeSample } from "@/demo/make-sample";
import type { Engine } from "@/server/engine";
import { doorTo } from "@/server/guard/door";
import { hostName, port } from "@/server/guard/guard";
import { install } from "@/server/install";
import { openEngine } from "@/server/opening";
import { serve } from "@/server/serving";
import { runningClock } from "../fixtures/clock";
import { markOfTests } from "./mark";

/** What the tests ask of it. */
export type Asked =
  | { does: "open"; root: string; data: string }
  | { does: "close" }
  | { does: "make the sample"; folder: string; data: string }
  /** So many milliseconds pass at once. */
  | { does: "pass"; ms: number };

const held = globalThis as typeof globalThis & { vuotoEngine?: Promise<Engine> };
const app = next({ dev: false, dir: install(), hostname: hostName, port: Number(port()) });
const handle = app.getRequestHandler();
const sockets = new Set<net.Socket>();
const inside = http.createServer((request, answer) => void handle(request, answer));
inside.on("connection", (socket: net.Socket) => {
  sockets.add(socket);
  socket.once("close", () => sockets.delete(socket));
});
const door = doorTo(inside);

let clock = runningClock();
let end = async () => {};
/** Until the next account is open whoever asks waits for it. */
let opened = (_: Engine) => {};
const nothingOpen = () => {
  held.vuotoEngine = new Promise((resolve) => {
    opened = resolve;
  });
};

/** As when it ends: nobody listens any more, and every connection breaks off. */
async function close(): Promise<void> {
  const closed = door.listening ? once(door, "close") : undefined;
  door.close();
  for (const socket of sockets) socket.destroy();
  await closed;
  nothingOpen();
  await end();
  end = async () => {};
}

async function open(root: string, data: string): Promise<{ recovered: string[] }> {
  await close();
  clock = runningClock();
  Object.assign(process.env, {
    VUOTO_ACCOUNT: btoa(rawFromText(root)),
    VUOTO_DATA: data,
    VUOTO_KEY: randomBytes(24).toString("base64url"),
  });
  const engine = await openEngine({ root: rawFromText(root), data }, { lasting: true, clock });
  opened(engine);
  end = serve(engine);
  await engine.lookAgain("all");
  const listens = once(door, "listening");
  door.listen(Number(port()), hostName);
  await listens;
  return { recovered: engine.recovered };
}

async function answer(asked: Asked): Promise<unknown> {
  if (asked.does === "open") return open(asked.root, asked.data);
  if (asked.does === "close") return close();
  if (asked.does === "make the sample") return makeSample(asked.folder, asked.data, Date.now());
  return clock.pass(asked.ms);
}

nothingOpen();
process.title = markOfTests;
process.on("message", ({ n, asked }: { n: number; asked: Asked }) => {
  void answer(asked).then(
    (answered) => process.send!({ n, answered }),
    (error: unknown) => process.send!({ n, failed: error instanceof Error ? `${error.message}\n${error.stack}` : String(error) }),
  );
});
process.once("disconnect", () => void close().finally(() => process.exit(0)));
void app.prepare().then(() => process.send!({ ready: true }));
