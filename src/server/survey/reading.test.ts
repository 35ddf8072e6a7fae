import fs from "node:fs";
import os from "node:os";
import path from "node:path";
import fc from "fast-check";
import { afterEach, beforeEach, expect, test } from "vitest";
import { rawFromText } from "@/core/names/raw";
import { readWorktop } from "../jobs/work/read-worktop";

let folder: string;
beforeEach(() => {
  folder = fs.mkdtempSync(path.join(os.tmpdir(), "vuoto-read-"));
});
afterEach(() => fs.rmSync(folder, { recursive: true }));

const read = async () => {
  const { entries } = (await readWorktop({ folder: rawFromText(folder), known: new Map() }, {
    cancelled: () => false,
  } as never))!;
  return new Map(entries.map(({ name, found }) => [name as string, found]));
};
const link = (url: string) => `[Desktop Entry]\nType=Link\nName=It\nURL=${url}\n`;

test("a link to a file leads where its address says, whatever of it is an escape", async () => {
  const there = Buffer.concat([Buffer.from(`${folder}/caf`), Buffer.from([0xe9]), Buffer.from(".pdf")]);
  fs.writeFileSync(there, "x");
  fs.writeFileSync(path.join(folder, "100% (1).pdf"), "x");
  const links = {
    "percent.desktop": `file://${folder}/100%.pdf`,
    "bytes.desktop": `file://${folder}/caf%E9.pdf`,
    "sign.desktop": `file://${folder}/100% (1).pdf`,
    "escaped.desktop": `file://${folder}/100%25%20(1).pdf`,
    "null.desktop": `file://${folder}/%00%00`,
  };
  for (const [name, url] of Object.entries(links)) fs.writeFileSync(path.join(folder, name), link(url));
  const found = await read();
  expect(Object.keys(links).map((name) => found.get(name)?.facts.dead)).toEqual([
    `${folder}/100%.pdf`,
    undefined,
    undefined,
    undefined,
    undefined,
  ]);
});

test("nothing that lies there is left out for what is in it", async () => {
  const pieces = fc.constantFrom(
    "[Desktop Entry]\n",
    "[InternetShortcut]\n",
    "Type=Link\n",
    "Type=Application\n",
    "URL=file:///%",
    "URL=file:///%E9%zz",
    "Exec=",
    "%f\n",
    "TryExec=\0\n",
    "PK\u0003\u0004",
    "%PDF-",
    "\x89PNG\r\n\x1a\n",
    "RIFF",
    "<?xml ",
    "From: ",
  );
  const content = fc.oneof(
    fc.uint8Array({ maxLength: 400 }),
    fc.array(fc.oneof(pieces, fc.string()), { maxLength: 8 }).map((all) => Buffer.from(all.join(""), "latin1")),
  );
  const ending = fc.constantFrom(".desktop", ".url", ".zip", ".png", ".jpg", ".pdf", ".eml", ".wav", "");
  await fc.assert(
    fc.asyncProperty(fc.array(fc.tuple(content, ending), { minLength: 1, maxLength: 12 }), async (files) => {
      for (const name of fs.readdirSync(folder)) fs.rmSync(path.join(folder, name));
      for (const [n, [bytes, end]] of files.entries()) fs.writeFileSync(path.join(folder, `${n}${end}`), bytes);
      expect([...(await read()).keys()].sort()).toEqual(fs.readdirSync(folder).sort());
    }),
    { numRuns: 60 },
  );
});
