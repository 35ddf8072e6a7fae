import fs from "node:fs";
import path from "node:path";
import { openCloud } from "../src/standins/cloud/cloud";
import { expect, settled, test } from "./vuoto";

/** A dialog: how it is opened from a view, its title, and what of it has the focus then. */
interface Opened {
  view: string;
  /** A key, or a button's name. */
  open: string | RegExp;
  title: string | RegExp;
  first: "a field" | "a list" | "the sheet" | RegExp;
}

/** Every dialog that can be opened on the sample, with a parcel in a depot, two that are collected, and one on its way. */
const dialogs: Opened[] = [
  { view: "", open: "?", title: "The keys", first: /^give them other meanings$/ },
  { view: "", open: /^say which are$|^see which$/, title: "Which places are protected?", first: "a field" },
  { view: "", open: /^let go of these/, title: /./, first: /^leave them all$/ },
  { view: "homes", open: "m", title: /^New titles for/, first: "a field" },
  // The one that is for taking, and is asked for by a key of its own: one undo brings all of it back.
  { view: "homes", open: "e", title: /things into \d+ homes/, first: /^Take \d+$/ },
  { view: "sitting", open: "d", title: "Wait until", first: "a field" },
  { view: "sitting", open: "b", title: "Stay until, or while", first: "a field" },
  { view: "sitting", open: "k", title: "In which home do your notes lie?", first: "a field" },
  { view: "sitting", open: "j", title: /^Archive /, first: "a field" },
  { view: "sitting", open: "m", title: /^Put .+ away$/, first: "a field" },
  { view: "sitting", open: ";", title: "Find a thing in the pile", first: "a field" },
  { view: "quiet", open: "add one", title: "An occasion", first: "a field" },
  { view: "depots", open: "add a depot", title: "Add a depot", first: "a field" },
  { view: "depots", open: "collect what lies in a home", title: "Collect what lies in a home", first: "a field" },
  { view: "depots", open: /^look at /, title: /./, first: "a list" },
  { view: "depots", open: "see where all of them have room", title: "Where they have room", first: "the sheet" },
  { view: "depots", open: "what is in it", title: /^In “/, first: "a field" },
  { view: "depots", open: "look into it", title: /^In “/, first: /^all of it$/ },
  { view: "depots", open: /^delete$/, title: /^Delete “/, first: /^keep it$/ },
  { view: "depots", open: /^check it by itself/, title: /^Check .+ by itself/, first: "a field" },
  { view: "depots", open: /^cancel$/, title: /^Do not send “/, first: /^go on sending it$/ },
  { view: "ledger", open: "undo everything, the latest first", title: "Undo everything", first: "a list" },
  { view: "ledger?sheet=trash", open: "empty the trash", title: "Empty the trash", first: /^keep them in the trash$/ },
];

/** What has the focus, as the table says it. */
const focused = () => {
  const at = document.activeElement;
  if (!(at instanceof HTMLElement) || !at.closest("[role=dialog]")) return "nothing of it";
  if (at.matches("[role=dialog]")) return "the sheet";
  if (at.matches("ul, ol")) return "a list";
  return at.matches("input, select, textarea") ? "a field" : at.innerText;
};

test("in every dialog Enter does what has the focus, which at first does nothing for good; Escape leads back", async ({
  page,
  vuoto,
}) => {
  page.setDefaultTimeout(10_000);
  const cloud = await openCloud(path.join(vuoto.folder, "cloud"));
  fs.mkdirSync(path.join(vuoto.folder, "disk"));
  await vuoto.ask("depots/add", { location: path.join(vuoto.folder, "disk"), title: "Disk" });
  await vuoto.ask("depots/add", { location: cloud.url, title: "Cloud", user: "station", password: "gannet" });
  const { worktops } = (await vuoto.ask("survey/survey", {})) as { worktops: { items: { id: string; name: string }[] }[] };
  const items = (from: number, to: number) => worktops[0]!.items.slice(from, to).map(({ id }) => id);
  await vuoto.ask("sitting/archive", { items: items(0, 2), parcel: "Sent" });
  await vuoto.ask("depots/send", { parcel: "Sent", depot: "Disk" });
  for (const [n, parcel] of ["First", "Second", "On its way"].entries())
    await vuoto.ask("sitting/archive", { items: items(2 + n, 3 + n), parcel });
  await vuoto.ask("sitting/let-go", { items: items(5, 7) });
  // It is tried again and again for as long as this takes.
  cloud.set({ fail: ["PUT=503"] });
  await vuoto.ask("depots/send", { parcel: "On its way", depot: "Cloud", wait: false });
  await page.goto(vuoto.base);
  await settled(page);
  const before = vuoto.tree();
  // All that differ are told together.
  const each = expect.configure({ soft: true, timeout: 10_000 });
  for (const { view, open, title, first } of dialogs) {
    const what = `${view}, ${open}`;
    await page.goto(`${vuoto.base}/${view}`);
    await settled(page);
    const opener = page.getByRole("button", { name: open, exact: true }).first();
    const byKey = typeof open === "string" && open.length === 1;
    if (!byKey) await opener.focus();
    await page.keyboard.press(byKey ? open : "Enter");
    const dialog = page.getByRole("dialog", { name: title });
    await each(dialog, what).toBeVisible();
    const at = each.poll(() => page.evaluate(focused), what);
    await (first instanceof RegExp ? at.toMatch(first) : at.toBe(first));
    await page.keyboard.press("Escape");
    await each(dialog, what).toBeHidden();
    if (!byKey) await each(opener, what).toBeFocused();
  }
  expect(vuoto.changes(before)).toEqual([]);
  await cloud.close();
});
