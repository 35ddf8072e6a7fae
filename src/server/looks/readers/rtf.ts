import type { LookView } from "@/contract/looks";
import { NotShown, type Source } from "./source";

const most = 20_000_000;
const shownLines = 400;
const longestLine = 2000;

interface Paragraph {
  content?: { value?: string }[];
}

/** A text in Rich Text Format: its words, without their looks. */
export async function rtf(source: Source): Promise<LookView> {
  const { default: parse } = await import("rtf-parser");
  const read = source.whole(most).toString("latin1");
  // Where no code page is named it is the usual one.
  const text = /\\ansicpg\d/.test(read) ? read : read.replace(/\\ansi\b/, "\\ansi\\ansicpg1252");
  const document = await new Promise<{ content: Paragraph[] }>((done, fail) =>
    parse.string(text, (error, read) =>
      error ? fail(new NotShown("it is damaged, or in a form that is not known")) : done(read!),
    ),
  );
  const lines = document.content.map(({ content = [] }) => content.map(({ value = "" }) => value).join(""));
  return {
    form: "text",
    lines: lines.slice(0, shownLines).map((line) => line.slice(0, longestLine)),
    whole: lines.length <= shownLines,
  };
}
