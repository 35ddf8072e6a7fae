import type { Page } from "@playwright/test";
import axe from "axe-core";

const tags = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa", "best-practice"];

/** What axe finds, in the light and in the dark; between the two only colours differ. No page of ours has a frame in it. */
export async function violations(page: Page, within = "html"): Promise<string[]> {
  const isThere = await page.evaluate(() => "axe" in window);
  if (!isThere) await page.evaluate(axe.source);
  const found = (runOnly: axe.RunOptions["runOnly"]) =>
    page.evaluate(
      async ([place, only]) => {
        const { violations } = await (window as unknown as { axe: typeof axe }).axe.run(place, {
          runOnly: only,
          resultTypes: ["violations"],
        });
        return violations.map(({ id, nodes }) => `${id}: ${nodes.map(({ html }) => html.slice(0, 160)).join(" | ")}`);
      },
      [within, runOnly] as const,
    );
  await page.emulateMedia({ colorScheme: "light" });
  const light = await found({ type: "tag", values: tags });
  await page.emulateMedia({ colorScheme: "dark" });
  const dark = await found({ type: "rule", values: ["color-contrast", "link-in-text-block"] });
  await page.emulateMedia({ colorScheme: "light" });
  return [...light, ...dark.map((words) => `in the dark, ${words}`)];
}
