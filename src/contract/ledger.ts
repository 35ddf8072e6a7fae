import { z } from "zod";
import { trial } from "./items";

export const undoInput = z.object({
  /** An entry's number, "all", or missing for the last act. */
  entry: z.union([z.int().positive(), z.literal("all")]).optional(),
  /** All entries of this sitting. */
  sitting: z.string().min(1).max(64).optional(),
  ...trial,
});
export type UndoInput = z.infer<typeof undoInput>;

/** Things in the trash by their id in the list. */
export const trashRestoreInput = z.object({ things: z.array(z.string().min(1).max(64)).min(1).max(100_000), ...trial });
export type TrashRestoreInput = z.infer<typeof trashRestoreInput>;

export const cancelInput = z.object({ job: z.string().min(1).max(64) });

export const stepsInput = z.object({ entry: z.int().positive() });
