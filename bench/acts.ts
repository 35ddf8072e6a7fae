import { spawn } from "node:child_process";
import fs from "node:fs";
import path from "node:path";
import { rawFromText } from "@/core/names/raw";
import type { AccountPlace } from "@/server/account";
import { undo } from "@/server/ledger/undo";
import { openEngine } from "@/server/opening";
import { stay } from "@/server/sitting/stay";
import { itemsOn } from "@/server/survey/items";
import { folder, type Row, root, rows, runs, shell, timed } from "./measure";

const files = 1000;

function makeAccount(name: string): string {
  const account = path.join(folder, name);
  for (const sub of ["Desktop", "Documents/Home"]) fs.mkdirSync(path.join(account, sub), { recursive: true });
  for (let n = 0; n < files; n++) {
    const file = path.join(account, "Desktop", `thing-${n}.txt`);
    fs.writeFileSync(file, `thing ${n}\n`);
    fs.utimesSync(file, 1_700_000_000, 1_700_000_000);
  }
  return account;
}

async function server(
  account: string,
): Promise<{ ask(path: string, input: unknown): Promise<Record<string, unknown>>; stop(): Promise<void> }> {
  const data = `${account}-data`;
  const child = spawn(process.execPath, [path.join(root, "bin/vuoto.mjs"), "--account", account, "--data", data, "start"], {
    stdio: ["ignore", "pipe", "inherit"],
  });
  await new Promise<void>((ready) => child.stdout.on("data", (chunk: Buffer) => String(chunk).includes("Ctrl-C") && ready()));
  const { port, key } = JSON.parse(fs.readFileSync(path.join(data, "server.json"), "utf8")) as { port: number; key: string };
  return {
    async ask(what, input) {
      const answer = await fetch(`http://127.0.0.1:${port}/api/${what}`, {
        method: "POST",
        headers: { "content-type": "application/json", "x-vuoto-key": key },
        body: JSON.stringify(input),
      });
      const body = (await answer.json()) as Record<string, unknown>;
      if (!answer.ok) throw new Error(JSON.stringify(body));
      return body;
    },
    async stop() {
      const ended = new Promise((done) => child.once("exit", done));
      child.kill("SIGTERM");
      await ended;
    },
  };
}

const count = (place: string) => fs.readdirSync(place).filter((name) => !name.startsWith(".")).length;
function expectCount(place: string, n: number) {
  if (count(place) !== n) throw new Error(`${place} holds ${count(place)}, not ${n}`);
}

export async function quietAndBack(): Promise<void> {
  const account = makeAccount("quiet");
  const plain = makeAccount("quiet-plain");
  const vuoto = await server(account);
  await vuoto.ask("survey/refresh", {});
  const row: Row = { figure: "P5 quiet and back, 1,000 items, tucked away", ours: [], theirs: [], atMost: 4, aim: 2 };
  const desktop = path.join(account, "Desktop");
  for (let n = 0; n <= runs; n++) {
    const ours = await timed(async () => {
      await vuoto.ask("quiet/show", { level: "bare" });
      expectCount(desktop, 0);
      await vuoto.ask("quiet/show", { level: "everything" });
    });
    expectCount(desktop, files);
    await vuoto.ask("survey/refresh", {});
    const theirs = await timed(() =>
      shell("mkdir .away && mv -- * .away && sync -f . && mv .away/* . && rmdir .away && sync -f .", path.join(plain, "Desktop")),
    );
    expectCount(path.join(plain, "Desktop"), files);
    if (n > 0) {
      row.ours.push(ours);
      row.theirs!.push(theirs);
    }
  }
  rows.push(row);
  await vuoto.stop();
}

export async function sweepAThousand(): Promise<void> {
  const home = { title: "Documents / Home" };
  await thousandMoved("sweep", (items) => ["homes/sweep", { home, items }]);
  await thousandMoved("gather", () => ["homes/gather", { home }]);
}

async function thousandMoved(name: string, act: (items: { path: string }[]) => [what: string, input: unknown]): Promise<void> {
  const account = makeAccount(name);
  const plain = makeAccount(`${name}-plain`);
  const vuoto = await server(account);
  await vuoto.ask("survey/refresh", {});
  const row: Row = {
    figure: `P13 ${name} 1,000 items as one act, durable, undoable`,
    ours: [],
    theirs: [],
    atMost: 4,
    aim: 2,
  };
  const desktop = path.join(account, "Desktop");
  const items = fs.readdirSync(desktop).map((file) => ({ path: Buffer.from(path.join(desktop, file)).toString("base64") }));
  const asked = act(items);
  for (let n = 0; n <= runs; n++) {
    const ours = await timed(() => vuoto.ask(...asked));
    expectCount(path.join(account, "Documents/Home"), files);
    await vuoto.ask("ledger/undo", {});
    expectCount(desktop, files);
    await vuoto.ask("survey/refresh", {});
    const theirs = await timed(() => shell("mv -- * ../Documents/Home && sync -f .", path.join(plain, "Desktop")));
    expectCount(path.join(plain, "Documents/Home"), files);
    shell("mv -- * ../../Desktop && sync -f .", path.join(plain, "Documents/Home"));
    if (n > 0) {
      row.ours.push(ours);
      row.theirs!.push(theirs);
    }
  }
  rows.push(row);
  await vuoto.stop();
}

const longLedger = 100_000;

/** An account with a ledger of so many entries, and a thing on its desktop. */
async function withLedger(name: string, entries: number): Promise<AccountPlace> {
  const account = path.join(folder, name);
  fs.mkdirSync(path.join(account, "Desktop"), { recursive: true });
  fs.writeFileSync(path.join(account, "Desktop/thing.txt"), "thing");
  const place = { root: rawFromText(account), data: `${account}-data` };
  const engine = await openEngine(place);
  const entry = engine.db.prepare(
    "INSERT INTO entry (act, words, at, state, target, direction, said) VALUES ('stay', 'Left a thing where it lies', 0, 'done', ?, 'do', '[]')",
  );
  const step = engine.db.prepare("INSERT INTO step (entry, n, version, plan) VALUES (?, 0, 1, ?)");
  const stand = engine.db.prepare("INSERT INTO step_state (entry, n, state) VALUES (?, 0, 'done')");
  engine.db.transaction(() => {
    for (let n = 1; n <= entries; n++) {
      entry.run(n);
      step.run(n, JSON.stringify({ type: "set", key: `verdict:${n}`, from: null, to: { verdict: "stay", at: 0 } }));
      stand.run(n);
    }
  })();
  await engine.close();
  return place;
}

/** An account whose ledger holds 100,000 entries against the same with none: opening it, and an act taken back. */
export async function longLedgers(): Promise<void> {
  const places = [await withLedger("long", longLedger), await withLedger("short", 0)];
  const opening: number[][] = [[], []];
  const undoing: number[][] = [[], []];
  for (let n = 0; n <= runs; n++)
    for (const [which, place] of places.entries()) {
      const opened = await timed(async () => {
        const engine = await openEngine(place);
        if (which === 0 && n === 0 && engine.ledger.latest()?.id !== longLedger) throw new Error("another entry is the latest");
        await engine.close();
      });
      const engine = await openEngine(place);
      await engine.lookAgain();
      const items = itemsOn(engine.db, "desktop").map((item) => item.id);
      const undone = await timed(async () => {
        for (let k = 0; k < 20; k++) {
          await stay(engine, { items });
          await undo(engine, {});
        }
      });
      await engine.close();
      if (n > 0) {
        opening[which]!.push(opened);
        undoing[which]!.push(undone);
      }
    }
  const [long, short] = [0, 1];
  rows.push({
    figure: "opening an account with 100,000 entries, against none",
    ours: opening[long]!,
    theirs: opening[short],
    atMost: 20,
    aim: 5,
  });
  rows.push({
    figure: "20 acts and their undo after 100,000 entries, against none",
    ours: undoing[long]!,
    theirs: undoing[short],
    atMost: 2,
    aim: 1.2,
  });
}
