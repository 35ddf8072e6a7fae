import { expect, test } from "vitest";
import { isThere, resembling } from "./resembling";

const homes = ["Documents / Old tides", "Documents / Tides of 2025", "Station / Tides", "Tides / Tables", "Pictures"].map(
  (title) => ({ title }),
);
const found = (typed: string) => resembling(homes, typed).map(({ title }) => title);

test("a home is found by its own name before those that merely hold the words", () => {
  expect(found("tides")).toEqual(["Station / Tides", "Documents / Tides of 2025", "Documents / Old tides", "Tides / Tables"]);
  expect(found("tides of")[0]).toBe("Documents / Tides of 2025");
  expect(found("2025 documents")).toEqual(["Documents / Tides of 2025"]);
  expect(found(" station/TIDES ")).toEqual(["Station / Tides"]);
  expect(found("")).toHaveLength(homes.length);
  expect(found("tidal")).toEqual([]);
});

test("a title that is there is not offered to be made again, however it is typed", () => {
  expect(isThere(homes, "tides/ tables")).toBe(true);
  expect(isThere([{ title: "Re\u0301cits" }], "R\u00e9cits")).toBe(true);
  expect(isThere(homes, "tides")).toBe(false);
});
