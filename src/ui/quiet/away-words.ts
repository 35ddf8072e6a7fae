import type { QuietView } from "@/contract/views";

/** How many icons are away, and no more than is known of it. */
export function awayWords(count: number, believed: QuietView["believed"]): string {
  if (believed === "otherwise") return "the screen shows its icons all the same";
  return believed === "asked" ? `asked to hide ${count}` : `${count} out of sight`;
}
