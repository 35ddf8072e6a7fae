import type { Page } from "@playwright/test";
import { expect, settled, test } from "./vuoto";

const views = ["survey", "homes", "sitting", "depots", "quiet", "ledger", "settings", "screen"];
const watchedMs = 3000;

/** What is asked of the server, the one stream aside. */
function asked(page: Page): string[] {
  const urls: string[] = [];
  page.on("request", (request) => {
    const { pathname, search } = new URL(request.url());
    if (pathname !== "/api/events") urls.push(`${request.method()} ${pathname}${search}`);
  });
  return urls;
}

test("a page at rest asks for nothing, beside a file that grows and in two windows; the file's size is told all the same", async ({
  page,
  context,
  vuoto,
}) => {
  page.setDefaultTimeout(30_000);
  const other = await context.newPage();
  await other.goto(`${vuoto.base}/homes`);
  await page.goto(vuoto.base);
  await settled(page);
  const urls = [asked(page), asked(other)];
  for (const view of views) {
    await page.goto(`${vuoto.base}/${view}`);
    if (view !== "screen") await settled(page);
    // What the last act, or the last look, changed may still be on its way.
    await expect
      .poll(
        async () => {
          for (const list of urls) list.length = 0;
          await page.waitForTimeout(watchedMs);
          return urls.flat();
        },
        { message: view, timeout: 30_000 },
      )
      .toEqual([]);
  }
  await page.goto(`${vuoto.base}/survey`);
  await settled(page);
  const recording = page.getByRole("option", { name: /^recording-lee-harbour/ });
  const before = await recording.getAttribute("aria-label");
  expect(before).toMatch(/ kB, /);
  await expect(recording).not.toHaveAttribute("aria-label", before!, { timeout: 30_000 });
});
