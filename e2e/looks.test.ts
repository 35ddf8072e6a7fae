import { spawnSync } from "node:child_process";
import fs from "node:fs";
import path from "node:path";
import { pdf } from "../fixtures/pdf";
import { expect, test } from "./vuoto";

/** By Python's own writers. */
const script = `
import sys, os, zipfile, email.message, wave
d = sys.argv[1]
with zipfile.ZipFile(os.path.join(d, "nests.zip"), "w") as z:
    for n in range(300): z.writestr("2026/nest-%03d.txt" % n, "x" * n)
def odf(name, kind, body):
    with zipfile.ZipFile(os.path.join(d, name), "w") as z:
        z.writestr("mimetype", "application/vnd.oasis.opendocument." + kind)
        z.writestr("content.xml", "<c>" + body + "</c>")
cell = lambda t: "<table:table-cell><text:p>%s</text:p></table:table-cell>" % t
odf("tides.ods", "spreadsheet", "".join('<table:table table:name="%s"><table:table-row>%s</table:table-row><table:table-row>%s</table:table-row></table:table>' % (m, cell("day") + cell("high"), cell(m) + cell("1.25")) for m in ("May", "June")))
odf("talk.odp", "presentation", "<draw:page><text:p>Gulls of the north cliff</text:p></draw:page>")
w = wave.open(os.path.join(d, "gull.wav"), "wb"); w.setnchannels(1); w.setsampwidth(2); w.setframerate(8000); w.writeframes(bytes(range(256)) * 400); w.close()
m = email.message.EmailMessage()
m["From"] = "Ada <ada@station.example>"; m["Subject"] = "Ringing on Thursday"; m["Message-ID"] = "<1@x>"; m.set_content("Bring gloves. <script>alert(1)</script>")
open(os.path.join(d, "ringing.eml"), "wb").write(bytes(m))
`;
test("a thing is seen without another program: pages, sheets, a talk, a letter, an archive, a way; what is torn says so", async ({
  page,
  open,
}) => {
  const vuoto = await open((account) => {
    const desktop = path.join(account, "Desktop");
    fs.mkdirSync(desktop, { recursive: true });
    expect(spawnSync("python3", ["-c", script, desktop], { encoding: "utf8" }).stderr).toBe("");
    fs.writeFileSync(path.join(desktop, "log.pdf"), pdf("Low water at six"));
    fs.writeFileSync(path.join(desktop, "torn.pdf"), pdf("Low water at six").slice(0, 100));
    const gpx = '<gpx><trk><trkseg><trkpt lat="60" lon="5"/><trkpt lat="60.01" lon="5.01"/></trkseg></trk></gpx>';
    fs.writeFileSync(path.join(desktop, "walk.gpx"), gpx);
  });
  const broken: string[] = [];
  page.on("console", (message) => message.type() === "error" && broken.push(message.text()));
  await page.goto(vuoto.base);
  const dialog = page.getByRole("dialog");
  const see = async (name: string) => {
    if (await dialog.isVisible()) await page.keyboard.press("Escape");
    await page.getByRole("option", { name: new RegExp(`^${name.replace(".", "\\.")},`) }).dblclick();
    await expect(dialog.getByRole("heading", { name })).toBeVisible();
  };
  await see("log.pdf");
  const drawn = dialog.getByRole("img", { name: "page 1 of log.pdf" });
  await expect.poll(() => drawn.evaluate((image: HTMLImageElement) => image.naturalWidth)).toBe(1000);
  await expect(dialog).toContainText("2 pages");
  await dialog.getByRole("button", { name: "next page" }).click();
  await expect(dialog.getByRole("img", { name: "page 2 of log.pdf" })).toBeVisible();
  await expect(dialog.getByRole("button", { name: "next page" })).toBeDisabled();
  await dialog.getByRole("button", { name: "as text" }).click();
  await expect(dialog).toContainText("Low water at six");

  await see("tides.ods");
  await expect(dialog.getByRole("cell", { name: "May" })).toBeVisible();
  await dialog.getByRole("button", { name: "June" }).click();
  await expect(dialog.getByRole("cell", { name: "June" })).toBeVisible();
  await see("talk.odp");
  await expect(dialog.getByRole("list", { name: "the slides" })).toContainText("Gulls of the north cliff");
  await see("ringing.eml");
  await expect(dialog.getByRole("heading", { name: "Ringing on Thursday" })).toBeVisible();
  // What a letter says is text, whatever it says.
  await expect(dialog).toContainText("<script>alert(1)</script>");
  await see("nests.zip");
  await expect(dialog).toContainText("300 entries");
  await expect(dialog).toContainText("nest-000.txt");
  await see("walk.gpx");
  await expect(dialog.getByRole("img", { name: /^the way of walk\.gpx, 1,2\d\d metres$/ })).toBeVisible();
  await see("gull.wav");
  const player = dialog.locator("audio");
  // Its length, as the browser tells it: it was let have the file.
  await expect.poll(() => player.evaluate((audio: HTMLAudioElement) => audio.duration)).toBeCloseTo(6.4, 1);
  await expect(dialog).toContainText("6 seconds");
  await see("torn.pdf");
  await expect(dialog).toContainText("It cannot be shown: it is damaged, or was cut off.");
  await expect(dialog).toContainText("%PDF-1.4");
  const told = JSON.parse((await vuoto.command("--json", "look", "log.pdf")).out) as object;
  expect(told).toMatchObject({ form: "pages", kind: "text", pages: 2, text: expect.stringContaining("Low water at six") });
  expect((await vuoto.command("look", "gone.pdf")).status).toBe(3);
  expect(broken).toEqual([]);
});
