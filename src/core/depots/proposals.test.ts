import { describe, expect, test } from "vitest";
import { type Lying, proposals } from "./proposals";

const day = 86_400_000;
const now = Date.parse("2026-11-27T12:00:00Z");
const lying = (id: string, days: number, more: Partial<Lying> = {}): Lying => {
  const changedAt = now - days * day;
  return { id, bytes: 10, changedAt, year: new Date(changedAt).getUTCFullYear(), stays: false, ...more };
};

describe("what could go to a depot", () => {
  test("is an ended project as a whole, then a year that is over, then what has not been touched; each thing once", () => {
    const things = [
      ...["a", "b", "c"].map((id) => lying(id, 400)),
      ...["d", "e", "f", "g"].map((id) => lying(id, 900)),
      ...["h", "i", "j"].map((id) => lying(id, 200)),
      lying("new", 3),
    ];
    const ended = [{ id: "p", title: "Survey", endedAt: now - 30 * day, things: ["a", "new", "gone"] }];
    const found = proposals([...things, lying("k", 401)], ended, 2026, now);
    expect(found.map(({ kind, things: own }) => [kind, [...own].sort()])).toEqual([
      ["project", ["a", "new"]],
      ["year", ["b", "c", "k"]],
      ["year", ["d", "e", "f", "g"]],
      ["untouched", ["h", "i", "j"]],
    ]);
  });

  test("leaves alone what stays on purpose in its year, and is not said of one or two things", () => {
    const stays = ["a", "b", "c"].map((id) => lying(id, 500, { stays: true }));
    expect(proposals(stays, [], 2026, now)).toMatchObject([{ kind: "untouched", things: ["a", "b", "c"] }]);
    expect(proposals([lying("a", 500), lying("b", 500)], [], 2026, now)).toEqual([]);
    expect(proposals([], [{ id: "p", title: "Survey", endedAt: now, things: ["a"] }], 2026, now)).toEqual([]);
  });
});
