import { expect, test } from "vitest";
import { commandNames, commandOn, keyFrom, keysWith } from "./keys";

test("each command has a key, and no key two", () => {
  const keys = Object.values(keysWith({}));
  expect(keys).toHaveLength(commandNames.length);
  expect(new Set(keys).size).toBe(keys.length);
});

test("a changed key is heard, and the one before it no more", () => {
  const keys = keysWith({ undo: "b" });
  expect(commandOn(keys, "b")).toBe("undo");
  expect(commandOn(keys, "z")).toBeUndefined();
  expect(commandOn(keys, "y")).toBe("again");
});

test("a key is one character that can be typed, and no digit", () => {
  expect(["B", " b ", "é", "ß", "ж", "😀", "%"].map(keyFrom)).toEqual(["b", "b", "é", "ß", "ж", "😀", "%"]);
  for (const none of ["", " ", "ab", "7", "\u0007", "Enter", "٣"]) expect(keyFrom(none)).toBeUndefined();
});
