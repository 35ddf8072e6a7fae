import { spawn } from "node:child_process";
import fs from "node:fs";
import os from "node:os";
import path from "node:path";
import { makeRandomAccount } from "../fixtures/accounts";
import { readTree } from "../fixtures/compare-trees";
import { enter, expect, startVuoto, test } from "./vuoto";

const root = path.dirname(import.meta.dirname);

test("two windows, the command and another start on one account take turns: nothing is lost or done twice", async ({
  browser,
}) => {
  const vuoto = await startVuoto((account) => void makeRandomAccount(account, 77, 60));
  try {
    const before = vuoto.tree();
    // Another start says where the first one runs, and lets a second window in.
    const second = vuoto.command("start");
    expect(second.status).toBe(0);
    expect(second.out).toContain(`already runs for ${vuoto.account}, at ${vuoto.base}/`);
    const links = [vuoto.enter, /(http:\S+enter\?link=\S+)/.exec(second.out)![1]!];
    const windows = await Promise.all(
      links.map(async (link) => {
        const page = await (await browser.newContext()).newPage();
        await enter(page, link);
        await expect(page.getByRole("heading", { level: 1 })).toBeVisible();
        return page;
      }),
    );
    const bureau = path.join(vuoto.account, "Bureau");
    const names = fs.readdirSync(bureau).sort();
    const items = names.map((name) => ({ path: Buffer.from(path.join(bureau, name)).toString("base64") }));

    // Each window and the command go through the same 60 things, each in an order of its own.
    const work = (n: number) => [...items.slice(n * 20), ...items.slice(0, n * 20)];
    const inWindow = (n: number, act: string, more: object) =>
      windows[n]!.evaluate(
        async ([path, list, input]) => {
          let done = 0;
          for (const item of list) {
            const answer = await fetch(`/api/${path}`, {
              method: "POST",
              headers: { "content-type": "application/json" },
              body: JSON.stringify({ ...input, items: [item] }),
            });
            if (answer.ok) done += ((await answer.json()) as { done: number }).done;
          }
          return done;
        },
        [act, work(n), more] as const,
      );
    const byCommand = new Promise<number>((resolve) => {
      const list = [...names.slice(40), ...names.slice(0, 40)].map((name) => path.join(bureau, name));
      const command = spawn(
        process.execPath,
        [path.join(root, "bin/vuoto.mjs"), "--account", vuoto.account, "--json", "stay", ...list],
        {
          env: { ...process.env, XDG_DATA_HOME: path.join(vuoto.folder, "xdg"), VUOTO_DATA: "" },
          stdio: ["ignore", "pipe", "ignore"],
        },
      );
      command.once("exit", (code) => resolve(code ?? -1));
    });
    const [put, gone] = await Promise.all([
      inWindow(0, "homes/put", { home: { title: "Together" } }),
      inWindow(1, "sitting/let-go", {}),
      byCommand,
    ]);

    const home = fs.readdirSync(path.join(vuoto.account, "Papers/Together"));
    const trash = fs.readdirSync(path.join(vuoto.account, ".local/share/Trash/files"));
    expect([...home, ...trash].sort()).toEqual(names);
    expect([home.length, trash.length]).toEqual([put, gone]);
    expect(put).toBeGreaterThan(0);
    expect(gone).toBeGreaterThan(0);

    const undone = vuoto.command("undo", "all");
    expect(undone.status, undone.out + undone.err).toBe(0);
    expect(vuoto.changes(before)).toEqual([]);
  } finally {
    await vuoto.stop();
  }
});

test("of two starts at the same moment one serves, and the other says where", async () => {
  const folder = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), "vuoto-starts-")));
  const account = path.join(folder, "account");
  fs.mkdirSync(account);
  makeRandomAccount(account, 78, 5);
  const before = readTree(account);
  const starts = [0, 1].map(() => {
    const child = spawn(
      process.execPath,
      [path.join(root, "bin/vuoto.mjs"), "--account", account, "--data", path.join(folder, "data"), "start"],
      { stdio: ["ignore", "pipe", "pipe"] },
    );
    const said = { out: "", code: undefined as number | undefined };
    child.stdout.on("data", (chunk: Buffer) => {
      said.out += String(chunk);
    });
    child.stderr.on("data", (chunk: Buffer) => {
      said.out += String(chunk);
    });
    const ended = new Promise<void>((done) =>
      child.once("exit", (code) => {
        said.code = code ?? -1;
        done();
      }),
    );
    return { child, said, ended };
  });
  try {
    await expect
      .poll(() => starts.map(({ said }) => [said.out.includes("Ctrl-C"), said.out.includes("already runs"), said.code]), {
        timeout: 60_000,
      })
      .toEqual(
        expect.arrayContaining([
          [true, false, undefined],
          [false, true, 0],
        ]),
      );
    const [serving, other] = [starts.find((s) => s.said.code === undefined)!, starts.find((s) => s.said.code === 0)!];
    const at = /http:\/\/127\.0\.0\.1:\d+/.exec(serving.said.out)![0];
    expect(other.said.out).toContain(at);
    expect(readTree(account)).toEqual(before);
  } finally {
    for (const { child, said } of starts) if (said.code === undefined) child.kill("SIGTERM");
    await Promise.all(starts.map((s) => s.ended));
    fs.rmSync(folder, { recursive: true, force: true });
  }
});
