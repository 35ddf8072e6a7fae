import AxeBuilder from "@axe-core/playwright";
import type { Page } from "@playwright/test";

const tags = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa", "best-practice"];

/** What axe finds, in the light and in the dark; between the two only colours differ. No page of ours has a frame in it. */
export async function violations(page: Page, within = "html"): Promise<string[]> {
  const found = (builder: AxeBuilder) => builder.setLegacyMode(true).include(within).analyze();
  await page.emulateMedia({ colorScheme: "light" });
  const light = await found(new AxeBuilder({ page }).withTags(tags));
  await page.emulateMedia({ colorScheme: "dark" });
  const dark = await found(new AxeBuilder({ page }).withRules(["color-contrast", "link-in-text-block"]));
  await page.emulateMedia({ colorScheme: "light" });
  return [...light.violations, ...dark.violations.map((v) => ({ ...v, id: `in the dark, ${v.id}` }))].map(
    (v) => `${v.id}: ${v.nodes.map((n) => n.html.slice(0, 160)).join(" | ")}`,
  );
}
