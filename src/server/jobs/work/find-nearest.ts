import type { Point } from "@/core/ledger/shapes";
import { nearest } from "@/core/straighten/near";

/** Which spot each of some places gets, so that all move as little as can be. Of thousands it takes seconds. */
export const findNearest = ({ places, spots }: { places: Point[]; spots: Point[] }): number[] => nearest(places, spots);
