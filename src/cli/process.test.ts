import { spawn, spawnSync } from "node:child_process";
import fs from "node:fs";
import path from "node:path";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { makeHostileAccount, makeRandomAccount } from "../../fixtures/accounts";
import { changedSince } from "../../fixtures/compare-trees";
import { makePlace, type Place } from "../../fixtures/engine";

/** The command as it is typed: a process of its own, the bundle that people run. */
let place: Place;
let words: string[];
beforeEach(() => {
  place = makePlace(() => {});
  words = [process.execPath, path.resolve("bin/vuoto.mjs"), "--account", place.root, "--data", place.data];
});
afterEach(() => place.remove());

const shell = (script: string, ...given: string[]) =>
  spawnSync("bash", ["-c", script, "bash", ...given], {
    encoding: "utf8",
    cwd: place.folder,
    env: { ...process.env, LC_ALL: "C" },
  });

test("names are bytes on the command line too", () => {
  makeHostileAccount(place.root);
  const before = place.tree();
  const desktop = path.join(place.root, "Desktop");
  const drawn = fs.readdirSync(desktop, { encoding: "buffer" }).filter((name) => name[0] !== 0x2e);
  // The shell passes the bytes; Node's own arguments could not.
  const gone = shell(`cd "$1" && shift && for n in *; do printf '%s\\0' "$n"; done | xargs -0 "$@" let-go --`, desktop, ...words);
  expect(gone.status, gone.stdout + gone.stderr).toBe(0);
  expect(fs.readdirSync(path.join(place.root, ".local/share/Trash/files"))).toHaveLength(drawn.length);
  expect(shell('"$@" undo', ...words).status).toBe(0);
  expect(changedSince(before, place.root)).toEqual([]);
});

test("a reader that has enough ends the command without a trace; a full device is said; where nobody can answer nothing is emptied", () => {
  makeRandomAccount(place.root, 11, 30);
  const [a] = fs.readdirSync(path.join(place.root, "Bureau"));
  expect(shell('"$@"', ...words, "let-go", a!).status).toBe(0);
  expect(shell('"$@" trash empty < /dev/null', ...words)).toMatchObject({
    status: 2,
    stderr: expect.stringContaining("Add --yes"),
  });
  expect(shell('"$@" survey | head -1', ...words)).toMatchObject({ status: 0, stderr: "" });
  const full = shell('"$@" survey > /dev/full', ...words);
  expect(full.status).toBe(3);
  expect(full.stderr.trim().split("\n")).toEqual(["What Vuoto says could not be written: ENOSPC."]);
});

test("of two starts at the same moment one serves, and the other says where", async () => {
  makeRandomAccount(place.root, 78, 5);
  const before = place.tree();
  const starts = [0, 1].map(() => {
    const child = spawn(words[0]!, [...words.slice(1), "start"], { stdio: ["ignore", "pipe", "pipe"] });
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
    await vi.waitFor(
      () =>
        expect(starts.map(({ said }) => [said.out.includes("Ctrl-C"), said.out.includes("already runs"), said.code])).toEqual(
          expect.arrayContaining([
            [true, false, undefined],
            [false, true, 0],
          ]),
        ),
      { timeout: 90_000, interval: 100 },
    );
    const [serving, other] = [starts.find((s) => s.said.code === undefined)!, starts.find((s) => s.said.code === 0)!];
    const at = /http:\/\/127\.0\.0\.1:\d+/.exec(serving.said.out)![0];
    expect(other.said.out).toContain(at);
    expect(place.tree()).toEqual(before);
  } finally {
    for (const { child, said } of starts) if (said.code === undefined) child.kill("SIGTERM");
    await Promise.all(starts.map((s) => s.ended));
  }
}, 120_000);
