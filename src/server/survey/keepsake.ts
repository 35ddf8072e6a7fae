import type { Point } from "@/core/ledger/shapes";
import { folderOf } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import { layOut } from "@/core/survey/figures";
import { keepsake } from "@/core/survey/keepsake";
import { tuckedFolder } from "../account";
import { readPosition } from "../db/record";
import type { Engine } from "../engine";
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
  const midnight = new Date(engine.now()).setHours(0, 0, 0, 0);
  const lying = new Set(sheet.items.map((item) => item.id));
  const left = leftSince(engine, midnight, [worktop.folder, tuckedFolder(worktop)]).filter((id) => !lying.has(id));
  const words = engine.words();
  const inSight = sheet.items.filter((item) => !sheet.outOfSight.has(item.id));
  const drawn = (ids: string[]): Point[] =>
    sheet.positioned
      ? ids.flatMap((id) => sheet.points.get(id) ?? readPosition(engine.db, id) ?? [])
      : layOut(ids.length, sheet.screen).points;
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

/** The things that acts which still stand have taken from these folders since a moment. */
function leftSince(engine: Engine, since: number, folders: string[]): string[] {
  const entries = engine.db
    .prepare<[number], number>("SELECT id FROM entry WHERE target = id AND state = 'done' AND at >= ?")
    .pluck()
    .all(since);
  const left = new Set<string>();
  for (const id of entries)
    for (const { step, state } of engine.ledger.entries.stepsOf(id))
      if (
        state === "done" &&
        (step.type === "move" || step.type === "trash") &&
        step.item &&
        folders.includes(folderOf(step.from))
      )
        left.add(step.item);
  return [...left];
}
