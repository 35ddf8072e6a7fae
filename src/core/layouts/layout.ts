import { z } from "zod";
import { point, raw } from "../ledger/shapes";
import type { Raw } from "../names/raw";
import { screenParts } from "../screen/state";
import { kinds } from "../survey/kinds";

/** An icon as it lay when a layout was kept. By what it is found again: its id, else its name and content. */
const keptIcon = z.object({
  ...point.shape,
  item: z.string().max(64).optional(),
  name: raw,
  type: z.enum(["file", "folder", "link", "special"]),
  kind: z.enum(kinds),
  bytes: z.number(),
  sha256: z.string().length(64).optional(),
});
export type KeptIcon = z.infer<typeof keptIcon>;

/** Positions, how much is shown, and the look of the icons, under a name. */
export const layout = z.object({
  title: z.string(),
  /** Milliseconds since 1970. */
  at: z.number(),
  size: screenParts.size,
  level: screenParts.shown.shape.level,
  kinds: screenParts.shown.shape.kinds,
  icons: z.array(keptIcon),
});
export type Layout = z.infer<typeof layout>;

/** An icon that is there now. */
export interface IconNow {
  id: string;
  name: Raw;
  type: KeptIcon["type"];
  bytes: number;
  sha256?: string;
}

/**
 * Which icon of a layout is which one now, by its number in the layout: the very thing, also renamed or moved by Vuoto; else one
 * of the same content, first under the same name; else one of the same name and sort. None is taken twice.
 */
export function matched(kept: readonly KeptIcon[], now: readonly IconNow[]): Map<number, string> {
  const found = new Map<number, string>();
  const free = new Map(now.map((icon) => [icon.id, icon]));
  const ways: [key: (icon: KeptIcon) => string | undefined, keyNow: (icon: IconNow) => string | undefined][] = [
    [({ item }) => item, ({ id }) => id],
    [({ name, sha256 }) => sha256 && `${sha256} ${name}`, ({ name, sha256 }) => sha256 && `${sha256} ${name}`],
    [({ name, type, bytes }) => `${type} ${bytes} ${name}`, ({ name, type, bytes }) => `${type} ${bytes} ${name}`],
    [({ sha256 }) => sha256, ({ sha256 }) => sha256],
    [({ name, type }) => `${type} ${name}`, ({ name, type }) => `${type} ${name}`],
  ];
  for (const [key, keyNow] of ways) {
    const byKey = new Map<string, string[]>();
    for (const icon of free.values()) {
      const its = keyNow(icon);
      if (its === undefined) continue;
      const ids = byKey.get(its);
      if (ids) ids.push(icon.id);
      else byKey.set(its, [icon.id]);
    }
    // From their end they are taken in a moment, however many are alike: so the first comes last.
    for (const ids of byKey.values()) ids.reverse();
    for (const [n, icon] of kept.entries()) {
      const its = found.has(n) ? undefined : key(icon);
      const id = its === undefined ? undefined : byKey.get(its)?.pop();
      if (id === undefined) continue;
      found.set(n, id);
      free.delete(id);
    }
  }
  return found;
}
