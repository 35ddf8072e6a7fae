import { linearSumAssignment } from "linear-sum-assignment";
import type { Point } from "../ledger/shapes";

/**
 * For each of some places the spot that it gets, so that all together move as little as can be, in pixels: a linear assignment
 * (Jonker and Volgenant 1987, for more spots than places by Crouse 2016). There are no fewer spots than places.
 */
export function nearest(places: readonly Point[], spots: readonly Point[]): number[] {
  if (places.length === 0) return [];
  // The library wants no more of one than of the other, and a row each.
  const cost = places.map(({ x, y }) => Float64Array.from(spots, (spot) => Math.hypot(spot.x - x, spot.y - y)));
  if (places.length === 1) return [cost[0]!.indexOf(Math.min(...cost[0]!))];
  return [...linearSumAssignment(cost, { maximaze: false }).rowAssignments];
}
