import fs from "node:fs";
import path from "node:path";
import type { Page } from "@playwright/test";
import { openCloud } from "../src/standins/cloud/cloud";
import { expect, settled, test } from "./vuoto";

/** A dialog: how it is opened from a view, and what of it has the focus then, by what it says. */
interface Opened {
  view: string;
  open: string | ((page: Page) => Promise<void>);
  title: string | RegExp;
  first: RegExp;
}

const button = (name: string | RegExp) => async (page: Page) => {
  const opener = page.getByRole("button", { name }).first();
  await opener.focus();
  await page.keyboard.press("Enter");
};
const chosen = (key: string) => async (page: Page) => {
  await page.getByRole("listbox").focus();
  await page.keyboard.press("ArrowRight");
  await page.keyboard.press("Space");
  await expect(page.getByLabel("what is chosen")).toBeVisible();
  await page.keyboard.press(key);
};

/** Every dialog that can be opened on the sample, with a parcel in a depot, one that is collected, and a cloud. */
const dialogs: Opened[] = [
  { view: "", open: "?", title: "The keys", first: /./ },
  { view: "", open: button(/^say which are$|^see which$/), title: "Which places are protected?", first: /./ },
  { view: "", open: "a", title: /./, first: /./ },
  { view: "", open: chosen("Enter"), title: /./, first: /./ },
  { view: "", open: chosen("p"), title: /./, first: /./ },
  { view: "homes", open: "m", title: /^New titles for/, first: /./ },
  { view: "homes", open: "e", title: /things into \d+ homes/, first: /./ },
  { view: "sitting", open: "d", title: "Wait until", first: /./ },
  { view: "sitting", open: "b", title: "Stay until, or while", first: /./ },
  { view: "sitting", open: "k", title: "In which home do your notes lie?", first: /./ },
  { view: "sitting", open: "j", title: /^Archive /, first: /./ },
  { view: "sitting", open: "m", title: /^Put .+ away$/, first: /./ },
  { view: "sitting", open: ";", title: "Find a thing in the pile", first: /./ },
  { view: "quiet", open: button("add one"), title: "An occasion", first: /./ },
  { view: "depots", open: button("add a depot"), title: "Add a depot", first: /./ },
  { view: "depots", open: button("collect what lies in a home"), title: "Collect what lies in a home", first: /./ },
  { view: "depots", open: button(/^look at /), title: /./, first: /./ },
  { view: "depots", open: button("see where all of them have room"), title: "Where they have room", first: /./ },
  { view: "depots", open: button("what is in it"), title: /^In “/, first: /./ },
  { view: "depots", open: button("look into it"), title: /^In “/, first: /./ },
  { view: "depots", open: button(/^delete$/), title: /^Delete “/, first: /./ },
  { view: "depots", open: button(/^check it by itself/), title: /^Check .+ by itself/, first: /./ },
  { view: "ledger", open: button("undo everything, the latest first"), title: "Undo everything", first: /./ },
  { view: "ledger", open: button(/^undo: Let go/), title: /^Undo \d acts/, first: /./ },
  { view: "ledger?sheet=trash", open: button("empty the trash"), title: "Empty the trash", first: /./ },
];

test("every dialog", async ({ page, vuoto }) => {
  const cloud = await openCloud(path.join(vuoto.folder, "cloud"));
  fs.mkdirSync(path.join(vuoto.folder, "disk"));
  await vuoto.ask("depots/add", { location: path.join(vuoto.folder, "disk"), title: "Disk" });
  await vuoto.ask("depots/add", { location: cloud.url, title: "Cloud", user: "station", password: "gannet" });
  const { worktops } = (await vuoto.ask("survey/survey", {})) as { worktops: { items: { id: string; name: string }[] }[] };
  const items = (from: number, to: number) => worktops[0]!.items.slice(from, to).map(({ id }) => id);
  await vuoto.ask("sitting/archive", { items: items(0, 2), parcel: "Sent" });
  await vuoto.ask("depots/send", { parcel: "Sent", depot: "Disk" });
  await vuoto.ask("sitting/archive", { items: items(2, 4), parcel: "Collected" });
  await vuoto.ask("sitting/let-go", { items: items(4, 6) });
  await page.goto(vuoto.base);
  await settled(page);
  for (const { view, open, title, first } of dialogs) {
    await page.goto(`${vuoto.base}/${view}`);
    await settled(page);
    try {
      if (typeof open === "string") await page.keyboard.press(open);
      else await open(page);
      await expect(page.getByRole("dialog")).toBeVisible({ timeout: 4000 });
      await page.waitForTimeout(300);
      console.log(
        view,
        await page.getByRole("dialog").getByRole("heading").first().innerText(),
        "|",
        await page.evaluate(() => {
          const e = document.activeElement as HTMLElement;
          return `${e.tagName} ${e.className.slice(0, 40)} ${e.getAttribute("aria-label") ?? e.innerText?.slice(0, 60) ?? ""} ${e.getAttribute("name") ?? ""}`;
        }),
      );
    } catch (e) {
      console.log("FAILED", view, String(open).slice(0, 50), String(title), String(e).slice(0, 300), first);
    }
  }
  await cloud.close();
});
