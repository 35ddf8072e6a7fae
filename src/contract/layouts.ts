import { z } from "zod";
import { layout } from "@/core/layouts/layout";
import type { QuietLevel, ScreenSize } from "@/core/screen/state";
import { kinds } from "@/core/survey/kinds";
import { type ReportJson, trial } from "./items";
import { rawJson } from "./raw-json";
import type { SpotJson } from "./straighten";

const named = z.string().trim().min(1).max(100);
const title = z
  .string()
  .trim()
  .min(1)
  .max(60)
  .regex(/^\P{Cc}*$/u, "a title is one line");

/** How the icons lie now is kept under a name; what was kept under it before is replaced. */
export const keepLayoutInput = z.object({ title, ...trial });
export type KeepLayoutInput = z.infer<typeof keepLayoutInput>;

/** A layout by its id or its title. */
export const layoutInput = z.object({ layout: named });
export const layoutActInput = layoutInput.extend(trial);
export type LayoutActInput = z.infer<typeof layoutActInput>;

const number = z.number().min(-100_000).max(100_000);

/** A layout as one JSON document, for another computer; no ids in it, and no paths. */
export const layoutDocument = z.strictObject({
  format: z.literal("vuoto-layout"),
  version: z.literal(1),
  title,
  madeAt: z.iso.datetime(),
  screen: layout.shape.size,
  level: layout.shape.level,
  kinds: layout.shape.kinds.max(kinds.length),
  icons: z
    .array(
      z.strictObject({
        name: rawJson,
        type: z.enum(["file", "folder", "link", "special"]),
        kind: z.enum(kinds),
        bytes: z.number().min(0),
        sha256: z
          .string()
          .regex(/^[0-9a-f]{64}$/)
          .optional(),
        x: number,
        y: number,
      }),
    )
    .max(20_000),
});
export type LayoutDocument = z.infer<typeof layoutDocument>;

/** What a document says, to be read; and another title than its own. */
export const importLayoutInput = z.object({ document: z.unknown(), title: title.optional(), ...trial });
export type ImportLayoutInput = z.infer<typeof importLayoutInput>;

/** A layout, and how what lies there now differs from it. */
export interface LayoutLine {
  id: string;
  title: string;
  /** When it was kept, in ISO 8601. */
  at: string;
  width: number;
  height: number;
  icon: number;
  level: QuietLevel;
  icons: number;
  /** Where its icons lie, as far as a small drawing needs them, in pixels of its screen. */
  drawn: [x: number, y: number][];
  /** How many lie elsewhere now; came since; and are no longer there. */
  moved: number;
  came: number;
  went: number;
}

export interface Compared {
  layout: string;
  screen: ScreenSize;
  /** Where each icon would lie that lies elsewhere now. */
  spots: SpotJson[];
  /** The names of what lies elsewhere now, came since, and is no longer there. */
  moved: string[];
  came: string[];
  went: string[];
  /** How many had to lie otherwise than they did, as this screen is another; and how many found no room. */
  shifted: number;
  crowded: number;
  /** Whether another level, or another size of icons, comes with it. */
  otherLevel: boolean;
  otherIcons: boolean;
}

export type BroughtAnswer = ReportJson & { compared: Compared };
