import { z } from "zod";
import type { Point } from "../ledger/shapes";
import type { Raw } from "../names/raw";

const written = {
  /** What stands between the two numbers. */
  separator: z.string().min(1).max(8),
  order: z.enum(["x y", "y x"]),
};

/** Where a screen keeps the places of its icons: in an extended attribute of each, or in a text file. In pixels, from the top left. */
export const positionsSaid = z.union([
  z.strictObject({ attribute: z.string().regex(/^user\.[\x21-\x7e]{1,200}$/, "an attribute is called user.…"), ...written }),
  z.strictObject({
    file: z.string().min(2).max(4096).startsWith("/", "a file is named from / on"),
    /** A section a name, [NAME], and in it this key; without it lines NAME=…. */
    key: z.string().min(1).max(100).optional(),
    ...written,
  }),
]);
export type PositionsSaid = z.infer<typeof positionsSaid>;

type Written = Pick<PositionsSaid, "separator" | "order">;
const number = /^\s*-?\d{1,6}(?:\.\d{1,6})?\s*$/;

/** The place that a text says; undefined where it says none. */
export function pointFrom(text: string, { separator, order }: Written): Point | undefined {
  const parts = text.length > 64 ? [] : text.split(separator);
  const [first, second] = parts;
  if (parts.length !== 2 || !number.test(first!) || !number.test(second!)) return undefined;
  const [a, b] = [Number(first), Number(second)];
  return order === "x y" ? { x: a, y: b } : { x: b, y: a };
}

/** So many lines of such a file are read. */
const mostLines = 50_000;

/** The places in a text file, by name. A line that says none is passed over. */
export function pointsIn(content: Raw, said: Written & { key?: string }): Map<Raw, Point> {
  const points = new Map<Raw, Point>();
  let section: Raw | undefined;
  for (const line of content.split(/\r?\n/, mostLines)) {
    const header = /^\[(.*)\]\s*$/.exec(line);
    if (header) {
      section = header[1] as Raw;
      continue;
    }
    // A name may hold the sign itself: its place stands after the last one.
    const at = said.key === undefined ? line.lastIndexOf("=") : line.indexOf("=");
    if (at < 1) continue;
    const left = line.slice(0, at).trim();
    const name = said.key === undefined ? (left as Raw) : left === said.key ? section : undefined;
    const point = name === undefined ? undefined : pointFrom(line.slice(at + 1), said);
    if (name !== undefined && point) points.set(name, point);
  }
  return points;
}
