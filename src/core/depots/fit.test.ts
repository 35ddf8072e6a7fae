import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { cut, fitLoads, type Load, type Room } from "./fit";

const loads = (...bytes: number[]): Load[] => bytes.map((n, at) => ({ id: `p${at}`, bytes: n }));
const rooms = (...free: (number | undefined)[]): Room[] => free.map((n, at) => ({ id: `d${at}`, free: n }));

/** Bytes placed, tried in every way. */
function most(all: Load[], free: number[]): number {
  if (all.length === 0) return 0;
  const [first, ...rest] = all;
  let best = most(rest, free);
  for (const [at, room] of free.entries())
    if (first!.bytes <= room) best = Math.max(best, first!.bytes + most(rest, free.with(at, room - first!.bytes)));
  return best;
}

const placed = (all: Load[], where: Map<string, string>) =>
  all.reduce((sum, { id, bytes }) => sum + (where.has(id) ? bytes : 0), 0);

describe("parcels are fitted into what is free", () => {
  test("so that as many bytes go as can, where largest first would not do", () => {
    const { where, without } = fitLoads(loads(6, 5, 5, 4), rooms(10, 10));
    expect(without).toEqual([]);
    expect(where.size).toBe(4);
    expect(fitLoads(loads(7, 5, 5), rooms(10)).without).toEqual(["p0"]);
  });

  test("never beyond what is free, each once, and with as many bytes as any way has", () => {
    const amount = fc.integer({ min: 0, max: 30 });
    fc.assert(
      fc.property(fc.array(amount, { maxLength: 6 }), fc.array(amount, { minLength: 1, maxLength: 3 }), (sizes, free) => {
        const all = loads(...sizes);
        const { where, without } = fitLoads(all, rooms(...free));
        expect(new Set([...where.keys(), ...without])).toEqual(new Set(all.map(({ id }) => id)));
        for (const [at, room] of free.entries()) {
          const held = all.filter(({ id }) => where.get(id) === `d${at}`).reduce((sum, { bytes }) => sum + bytes, 0);
          expect(held).toBeLessThanOrEqual(room);
        }
        expect(placed(all, where)).toBe(most(all, free));
      }),
    );
  });

  test("many of them quickly, within what is free, and a depot that does not say takes what the others cannot", () => {
    const many = loads(...Array.from({ length: 400 }, (_, n) => 1 + ((n * 37) % 90)));
    const { where, without } = fitLoads(many, rooms(3000, undefined, 5000));
    expect(without).toEqual([]);
    for (const [at, room] of [3000, Number.POSITIVE_INFINITY, 5000].entries()) {
      const held = many.filter(({ id }) => where.get(id) === `d${at}`).reduce((sum, { bytes }) => sum + bytes, 0);
      expect(held).toBeLessThanOrEqual(room);
      expect(held).toBeGreaterThan(0);
    }
  });
});

describe("a parcel is cut between its things", () => {
  test("into parts that have room, and what is too large by itself is left over", () => {
    const { parts, over } = cut(loads(50, 9, 8, 3), rooms(12, 10));
    expect(over).toEqual(["p0"]);
    expect(parts.flatMap(({ things }) => things).sort()).toEqual(["p1", "p2", "p3"]);
    expect(cut(loads(1, 2), rooms()).over.sort()).toEqual(["p0", "p1"]);
  });
});
