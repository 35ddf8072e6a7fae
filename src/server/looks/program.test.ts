import fs from "node:fs";
import path from "node:path";
import { afterAll, beforeAll, expect, test } from "vitest";
import { itemNamed, makePlace, type Place } from "../../../fixtures/engine";
import { onBehalfOf } from "../actor";
import type { Engine } from "../engine";
import { inProgram, program } from "./program";

const hostile = "a; touch pwned $(id) 'x'.txt";
let place: Place;
let engine: Engine;
const at = (rel: string) => path.join(place.root, rel);
const id = (label: string) => itemNamed(engine, label).id;
const put = (rel: string, text: string, mode = 0o644) => {
  fs.mkdirSync(path.dirname(at(rel)), { recursive: true });
  fs.writeFileSync(at(rel), text, { mode });
};

beforeAll(async () => {
  place = makePlace(() => {});
  put(".config/mimeapps.list", "[Default Applications]\ntext/plain=none.desktop;term.desktop;note.desktop\n");
  const entry = (name: string, exec: string, more = "") =>
    put(`.local/share/applications/${name}.desktop`, `[Desktop Entry]\nType=Application\nName=${name}\nExec=${exec}\n${more}`);
  entry("none", "no-such-program-at-all %f");
  entry("term", "true %f", "Terminal=true\n");
  entry("note", `${at("bin/record")} --file %f`);
  put("bin/record", `#!/bin/sh\nprintf '%s\\n' "$@" "$VUOTO_DATA" > "${at("called")}"\n`, 0o755);
  put(`Desktop/${hostile}`, "words\n");
  put("Desktop/run.sh", "#!/bin/sh\n", 0o755);
  put("Desktop/no ending", "#!/bin/sh\n");
  put("Desktop/page.html", "<script>1</script>");
  put("Desktop/marked.txt", "words", 0o755);
  put("Desktop/tool.desktop", "[Desktop Entry]\nType=Application\nName=T\nExec=true\n");
  put("Desktop/known.bin", "\0\u0001\u0002");
  fs.mkdirSync(at("Desktop/folder"));
  engine = await place.open();
});
afterAll(async () => {
  await engine.close();
  place.remove();
});

test("the first program that is there and needs no terminal, as an argument list, whatever the name holds", async () => {
  const found = await program(engine, { item: id(hostile) });
  expect(found).toEqual({ id: "note.desktop", title: "note", runs: [at("bin/record"), "--file", at(`Desktop/${hostile}`)] });
  expect(await inProgram(engine, { item: id(hostile), program: "note.desktop" })).toEqual({ started: "note" });
  await expect
    .poll(() => fs.existsSync(at("called")) && fs.readFileSync(at("called"), "utf8"))
    .toBe(`--file\n${at(`Desktop/${hostile}`)}\n\n`);
  expect(fs.existsSync(at("Desktop/pwned"))).toBe(false);
});

test("is refused for what could be run, or is not known; by command; and where another one was shown", async () => {
  for (const name of ["run.sh", "no ending", "page.html", "marked.txt", "tool.desktop", "known.bin", "folder"])
    await expect(program(engine, { item: id(name) }), name).rejects.toMatchObject({ code: "no-program" });
  const asked = { item: id(hostile), program: "note.desktop" };
  await expect(onBehalfOf("command", () => inProgram(engine, asked))).rejects.toMatchObject({ code: "no-program" });
  await expect(inProgram(engine, { ...asked, program: "other.desktop" })).rejects.toMatchObject({ code: "no-program" });
});
