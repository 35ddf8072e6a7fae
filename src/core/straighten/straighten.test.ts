import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { firstScreen, iconBoxes } from "../screen/state";
import { overlapping } from "../survey/figures";
import type { Kind } from "../survey/kinds";
import { type Icon, inBeds, inOrder, ordered, wayOf } from "./arrange";
import { firstGridLook, gridOn, isOn, meet, nearestOf, roomOn, spotsMet } from "./grid";
import { nearest } from "./near";

/** Numbers that are the same each time (Park and Miller 1988). */
function chance(seed: number): () => number {
  let state = seed;
  return () => {
    state = (state * 48_271) % 2_147_483_647;
    return state / 2_147_483_647;
  };
}

const size = firstScreen.size;
const grid = gridOn(size, firstGridLook);

function icons(count: number, seed = 7): Icon[] {
  const next = chance(seed);
  const some: Kind[] = ["picture", "text", "folder", "sound"];
  return Array.from({ length: count }, (_, n) => ({
    id: `i${n}`,
    name: `thing ${Math.floor(next() * 1000)}`,
    kind: some[Math.floor(next() * next() * some.length)]!,
    bytes: Math.floor(next() * 1e6),
    mtimeMs: Math.floor(next() * 1e12),
    x: Math.floor(next() * (size.width - 96)),
    y: Math.floor(next() * (size.height - 104)),
  }));
}

describe("a grid", () => {
  test.each([
    [1280, 800, 48, 0, 0],
    [1280, 800, 32, 14, 24],
    [1920, 1080, 64, 14, 24],
    [2560, 1440, 96, 40, 120],
    [1536, 864, 64, 7, 3],
  ])(
    "on %i by %i with icons of %i: nothing overlaps, nothing off the screen, the margin is free",
    (width, height, icon, spacing, margin) => {
      const screen = { width, height, ...iconBoxes(icon) };
      const made = gridOn(screen, { spacing, margin });
      expect(made.spots.length).toBe(made.columns * made.rows);
      expect(made.spots.length).toBeGreaterThan(20);
      expect(overlapping(made.spots, screen).size).toBe(0);
      for (const spot of made.spots) {
        expect(isOn(made, spot, screen)).toBe(true);
        expect(spot.x - made.indent).toBeGreaterThanOrEqual(margin);
        expect(spot.y).toBeGreaterThanOrEqual(margin);
        expect(spot.x - made.indent + made.cell.width).toBeLessThanOrEqual(width - margin);
        expect(spot.y + made.cell.height).toBeLessThanOrEqual(height - margin);
      }
    },
  );

  test("holds no icon where the screen is smaller than one, or all of it is margin", () => {
    fc.assert(
      fc.property(
        fc.record({ width: fc.nat(3000), height: fc.nat(2000), spacing: fc.nat(60), margin: fc.nat(200) }),
        fc.record({ x: fc.integer({ min: -300, max: 3300 }), y: fc.integer({ min: -300, max: 2300 }) }),
        ({ width, height, ...look }, at) => {
          const made = gridOn({ ...size, width, height }, look);
          const met = made.spots.flatMap((spot, n) => (meet(made, spot, at) ? [n] : []));
          expect(spotsMet(made, at)).toEqual(met);
        },
      ),
    );
    expect(gridOn({ ...size, width: 90 }, firstGridLook).spots).toEqual([]);
    expect(gridOn(size, { spacing: 0, margin: 600 }).spots).toEqual([]);
  });

  test("more fit of smaller icons, and a place has a nearest cell", () => {
    const room = roomOn(size, firstGridLook).map(({ fits }) => fits);
    expect(room).toEqual(room.toSorted((a, b) => b - a));
    expect(nearestOf(grid.spots, { x: 0, y: 0 })).toEqual(grid.spots[0]);
    expect(meet(grid, grid.spots[0]!, grid.spots[1]!)).toBe(false);
    expect(meet(grid, grid.spots[0]!, { x: grid.spots[0]!.x + 95, y: grid.spots[0]!.y + 100 })).toBe(true);
  });
});

describe("in an order", () => {
  test("names are sorted as people count, the largest and the latest come first, a kind stays together", () => {
    const some: Icon[] = [
      { id: "a", name: "File 10", kind: "text", bytes: 1, mtimeMs: 3, x: 0, y: 0 },
      { id: "b", name: "file 9", kind: "folder", bytes: 3, mtimeMs: 1, x: 0, y: 0 },
      { id: "c", name: "ähnlich", kind: "text", bytes: 2, mtimeMs: 2, x: 0, y: 0 },
    ];
    const ids = (order: Parameters<typeof inOrder>[1]) =>
      inOrder(some, order)
        .map(({ id }) => id)
        .join("");
    expect([ids("name"), ids("size"), ids("date"), ids("kind")]).toEqual(["cba", "bca", "acb", "cab"]);
  });

  test("each has a cell of its own, and again nothing moves", () => {
    const all = icons(60);
    const spots = ordered(all, "name", grid);
    expect(new Set([...spots.values()].map(({ x, y }) => `${x} ${y}`)).size).toBe(60);
    const lying = all.map((icon) => ({ ...icon, ...spots.get(icon.id)! }));
    expect(wayOf(lying, ordered(lying, "name", grid))).toBe(0);
  });
});

describe("beds", () => {
  test("hold like beside like, apart from one another where there is room", () => {
    const all = icons(40);
    const { spots, beds } = inBeds(all, grid);
    expect(beds.reduce((sum, { count }) => sum + count, 0)).toBe(40);
    for (const bed of beds) {
      const inside = all.filter(({ id }) => {
        const { x, y } = spots.get(id)!;
        return x >= bed.x && x < bed.x + bed.width && y >= bed.y && y < bed.y + bed.height;
      });
      expect(inside.map(({ kind }) => kind)).toEqual(Array(bed.count).fill(bed.kind));
    }
  });

  test("follow one another where there are too few columns, and nothing is lost", () => {
    const all = icons(grid.spots.length);
    const { spots } = inBeds(all, grid);
    expect(new Set([...spots.values()].map(({ x, y }) => `${x} ${y}`)).size).toBe(all.length);
    expect(overlapping([...spots.values()], size).size).toBe(0);
  });
});

describe("each kept near its place", () => {
  const way = (places: { x: number; y: number }[], spots: { x: number; y: number }[], to: number[]) =>
    places.reduce((sum, { x, y }, n) => sum + Math.hypot(spots[to[n]!]!.x - x, spots[to[n]!]!.y - y), 0);

  test("is the least way of all, by trying all of them", () => {
    for (let seed = 1; seed <= 40; seed++) {
      const [places, cells] = [icons(2 + (seed % 5), seed), gridOn(size, firstGridLook).spots.slice(0, 7)];
      const all = (left: number, used: number[]): number[][] =>
        left === 0 ? [used] : cells.flatMap((_, n) => (used.includes(n) ? [] : all(left - 1, [...used, n])));
      const least = Math.min(...all(places.length, []).map((to) => way(places, cells, to)));
      expect(way(places, cells, nearest(places, cells))).toBeCloseTo(least, 6);
    }
  });

  test("of 300 it is what a second way of finding it finds", () => {
    const [places, cells] = [icons(300, 11), gridOn({ ...size, width: 4000, height: 2600 }, firstGridLook).spots.slice(0, 330)];
    const to = nearest(places, cells);
    expect(new Set(to).size).toBe(300);
    expect(way(places, cells, to)).toBeCloseTo(byHungarian(places, cells), 3);
  });

  test("icons that lie in cells stay there; one alone goes to the nearest", () => {
    const lying = grid.spots.slice(3, 40);
    expect(nearest(lying, grid.spots).map((n) => grid.spots[n])).toEqual(lying);
    const [only] = nearest([{ x: 700, y: 400 }], grid.spots);
    expect(grid.spots[only!]).toEqual(nearestOf(grid.spots, { x: 700, y: 400 }));
  });
});

/** The least way by the Hungarian method (Kuhn 1955, with potentials), row by row: another way to the same. */
function byHungarian(places: { x: number; y: number }[], spots: { x: number; y: number }[]): number {
  const [n, m] = [places.length, spots.length];
  const cost = (i: number, j: number) => Math.hypot(spots[j - 1]!.x - places[i - 1]!.x, spots[j - 1]!.y - places[i - 1]!.y);
  const [u, v] = [new Float64Array(n + 1), new Float64Array(m + 1)];
  const [owner, before] = [new Int32Array(m + 1), new Int32Array(m + 1)];
  for (let i = 1; i <= n; i++) {
    owner[0] = i;
    let at = 0;
    const least = new Float64Array(m + 1).fill(Number.POSITIVE_INFINITY);
    const used = new Uint8Array(m + 1);
    do {
      used[at] = 1;
      let [delta, next] = [Number.POSITIVE_INFINITY, 0];
      for (let j = 1; j <= m; j++) {
        if (used[j]) continue;
        const now = cost(owner[at]!, j) - u[owner[at]!]! - v[j]!;
        if (now < least[j]!) [least[j], before[j]] = [now, at];
        if (least[j]! < delta) [delta, next] = [least[j]!, j];
      }
      for (let j = 0; j <= m; j++)
        if (used[j]) {
          u[owner[j]!]! += delta;
          v[j]! -= delta;
        } else least[j]! -= delta;
      at = next;
    } while (owner[at] !== 0);
    for (; at !== 0; at = before[at]!) owner[at] = owner[before[at]!]!;
  }
  let sum = 0;
  for (let j = 1; j <= m; j++) if (owner[j]) sum += cost(owner[j]!, j);
  return sum;
}
