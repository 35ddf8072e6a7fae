import { Problem } from "@/core/problem";
import { layOut } from "@/core/survey/figures";
import { keepsake } from "@/core/survey/keepsake";
import type { Engine } from "../engine";
import { leftSince, midnightBefore, pointsOf } from "./left-since";
import { sheetOf } from "./survey";

/**
 * A picture of a worktop before and after what was done since midnight, to keep: SVG, or the same as PNG. It shows no names.
 * Where the screen gives no positions, both are laid out in rows.
 */
export async function keepsakeOf(engine: Engine, query: URLSearchParams): Promise<Response> {
  const worktop = engine.account.worktops.find((w) => w.id === (query.get("sheet") ?? "desktop"));
  const form = query.get("as") ?? "svg";
  if (!worktop || (form !== "svg" && form !== "png")) throw new Problem("bad-words", { detail: "no such picture" });
  const sheet = sheetOf(engine, worktop);
  const left = leftSince(engine, sheet, midnightBefore(engine.now())).keys();
  const words = engine.words();
  const inSight = sheet.items.filter((item) => !sheet.outOfSight.has(item.id));
  const drawn = (ids: string[]) => pointsOf(engine, sheet, ids);
  const before = [...sheet.items.map((item) => item.id), ...left];
  const svg = keepsake(
    { points: drawn(before), words: `Before: ${words.counted(before.length, "thing")}` },
    {
      points: drawn(inSight.map((item) => item.id)),
      words: `${words.date(engine.now())}: ${words.counted(sheet.items.length, "thing")}${inSight.length < sheet.items.length ? `, ${words.count(inSight.length)} in sight` : ""}`,
    },
    sheet.screen,
    sheet.positioned ? sheet.height : Math.max(sheet.screen.height, layOut(before.length, sheet.screen).height),
  );
  const content = form === "svg" ? svg : new Uint8Array(await engine.workers.run("drawPng", { svg }));
  return new Response(content, {
    headers: {
      "content-type": form === "svg" ? "image/svg+xml" : "image/png",
      "content-disposition": `attachment; filename="vuoto-${worktop.id}.${form}"`,
      "cache-control": "no-store",
    },
  });
}
