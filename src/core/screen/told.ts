import { z } from "zod";
import { Problem } from "../problem";
import { positionsSaid } from "./positions";

const word = z
  .string()
  .min(1)
  .max(4096)
  .refine((text) => !text.includes("\0"), "a word holds a NUL");

/** A program and its words, each as it is given to it: no shell reads them. */
const line = z
  .array(word)
  .min(1)
  .max(64)
  .refine(
    ([program]) => program?.startsWith("/") || !program?.includes("/"),
    "a program is named by its name alone or from / on",
  );

/** What tells a screen to hide its icons and to show them again, and where it can be asked, what it shows. */
const told = z.strictObject({
  hide: line,
  show: line,
  /** Prints `hidden` or `shown`. */
  ask: line.optional(),
  /** Where it keeps the places of its icons. */
  positions: positionsSaid.optional(),
});
export type ScreenCommands = z.infer<typeof told>;

/** @throws Problem "told-unfit", with what is wrong */
export function readTold(text: string): ScreenCommands {
  let data: unknown;
  try {
    data = JSON.parse(text);
  } catch {
    throw new Problem("told-unfit", { detail: "it is no JSON" });
  }
  const parsed = told.safeParse(data);
  if (parsed.success) return parsed.data;
  const issue = parsed.error.issues[0];
  throw new Problem("told-unfit", { detail: issue && `${issue.path.join(".") || "it"}: ${issue.message}` });
}

/** What a screen answered when it was asked; undefined where that is neither. */
export function answerOf(output: string): "hidden" | "shown" | undefined {
  const word = output.trim().toLowerCase();
  return word === "hidden" || word === "shown" ? word : undefined;
}
