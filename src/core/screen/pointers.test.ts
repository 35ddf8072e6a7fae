import { expect, test } from "vitest";
import { type Raw, rawFromText } from "../names/raw";
import { leadsInto, marksIn, namesOneOf, pathOfUri } from "./pointers";

const folder = "/home/ada/Desktop" as Raw;
const names = new Set(["tide table.pdf", "Station", "ö.txt"].map(rawFromText));

test("a file's URI names a path, its escapes are bytes", () => {
  expect(pathOfUri("file:///home/ada/tide%20table.pdf?x#y")).toBe("/home/ada/tide table.pdf");
  expect(pathOfUri("file://localhost/a%C3%B6")).toBe(rawFromText("/aö"));
  for (const other of ["https://example.org/a", "file://other/host", "/plain", ""]) expect(pathOfUri(other)).toBeUndefined();
});

test("a path leads to a thing or into it, and not to a namesake elsewhere", () => {
  expect(leadsInto(`${folder}/Station` as Raw, folder, names)).toBe(true);
  expect(leadsInto(`${folder}/Station/a/b` as Raw, folder, names)).toBe(true);
  for (const path of [folder, `${folder}/Stations`, "/home/ada/Station", `${folder}x/Station`])
    expect(leadsInto(path as Raw, folder, names), path).toBe(false);
});

test("a shortcut names a thing by its path, blanks and all, or by a URI", () => {
  const entry = (line: string) => `[Desktop Entry]\nType=Application\n${line}\n` as Raw;
  for (const line of [
    `Exec=viewer "${folder}/tide table.pdf" --full`,
    `Exec=viewer ${folder}/Station/today.csv`,
    `Path=${folder}/Station`,
    `URL=file://${folder}/tide%20table.pdf`,
    `Icon=${folder}/${rawFromText("ö.txt")}`,
  ])
    expect(namesOneOf(entry(line), folder, names), line).toBe(true);
  for (const line of ["Exec=viewer", `Exec=viewer ${folder}/other.pdf`, `Exec=viewer ${folder}`, `URL=file://${folder}x/Station`])
    expect(namesOneOf(entry(line), folder, names), line).toBe(false);
});

test("marks are read from lines, with or without a title, and from XBEL", () => {
  expect(marksIn("file:///a%20b My folder\nfile:///c\n" as Raw)).toEqual(["file:///a%20b", "file:///c", ""]);
  const xbel =
    '<?xml version="1.0"?><xbel><bookmark href="file:///a&amp;b"><title>x</title></bookmark><bookmark id="1" href="file:///c"/></xbel>';
  expect(marksIn(xbel as Raw)).toEqual(["file:///a&b", "file:///c"]);
});
