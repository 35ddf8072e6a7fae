import type { z } from "zod";
import type { LookAnswer, LookView, lookInput } from "@/contract/looks";
import { shownName } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import type { Engine } from "../engine";
import { itemsNamed } from "../survey/items";
import { factsOf } from "./facts";
import { lookOf } from "./looks";

const mostText = 2000;

/** Looks at one thing, however long it takes, and tells it as data. */
export async function look(engine: Engine, { item: ref }: z.output<typeof lookInput>): Promise<LookAnswer> {
  const [item] = itemsNamed(engine.db, [ref]);
  if (!item) throw new Problem("unknown-item");
  const seen = await lookOf(engine, item);
  const { width, height } = item.facts;
  return {
    name: item.label,
    path: shownName(item.path),
    form: seen.form,
    kind: item.kind,
    facts: factsOf(seen, engine.words()),
    ...countsOf(seen),
    ...(seen.form === "picture" ? { width, height } : {}),
    text: textOf(seen)?.slice(0, mostText),
  };
}

function countsOf(seen: LookView): Partial<LookAnswer> {
  switch (seen.form) {
    case "pages":
    case "slides":
      return { pages: seen.count };
    case "table":
      return { sheets: seen.sheets.map(({ name, rows, columns }) => ({ name, rows, columns })) };
    case "archive":
      return { entries: seen.count };
    case "folder":
      return { entries: seen.count };
    case "sound":
    case "video":
      return { seconds: seen.seconds };
    case "bytes":
      return { why: seen.why };
    default:
      return {};
  }
}

function textOf(seen: LookView): string | undefined {
  switch (seen.form) {
    case "text":
      return seen.lines.join("\n");
    case "pages":
      return seen.text;
    case "table":
      return seen.sheets[0]?.cells.map((row) => row.join("\t")).join("\n");
    case "slides":
      return seen.slides.map(({ lines }) => lines.join("\n")).join("\n\n");
    case "letter":
      return [seen.from, seen.to, seen.subject, "", ...seen.lines].join("\n");
    case "folder":
    case "archive":
      return seen.entries.map(({ name }) => name).join("\n");
    case "link":
    case "shortcut":
      return seen.target;
    default:
      return undefined;
  }
}
