import { linkTo } from "../names/link";
import type { Raw } from "../names/raw";

/** What goes into a note of one thing. */
export interface NotePart {
  /** The thing's name without its ending, as shown. */
  title: string;
  /** Where it lay, and when it was last changed, in words. */
  from: string;
  /** The attachment's name, where the thing itself is kept with the note, and whether that is a picture. */
  attachment?: { name: Raw; picture: boolean };
  /** Its text, or a piece of it. Markdown goes in as it is, any other text word for word. */
  text?: { words: string; markdown?: boolean; piece?: boolean };
}

/** The folder beside the notes in which their attachments lie. */
export const attachments = "attachments" as Raw;

/** Words that mean nothing to Markdown (CommonMark 0.31, backslash escapes), on one line. */
const plain = (text: string) => text.replace(/\s+/g, " ").replace(/[\\`*_{}[\]<>()#+!|~&-]/g, "\\$&");

/** A text word for word, between fences longer than any in it. */
function fenced(text: string): string {
  const longest = Math.max(2, ...[...text.matchAll(/`+/g)].map(([run]) => run.length));
  const fence = "`".repeat(longest + 1);
  return `${fence}\n${text.replace(/\n$/, "")}\n${fence}`;
}

function bodyOf({ title, from, attachment, text }: NotePart): string {
  const parts: string[] = [];
  if (attachment) {
    const link = `[${plain(title)}](${attachments}/${linkTo(attachment.name)})`;
    parts.push(attachment.picture ? `!${link}` : link);
  }
  if (text?.piece)
    parts.push(
      text.words
        .split("\n")
        .map((line) => `> ${plain(line)}`.trimEnd())
        .join("\n"),
    );
  else if (text) parts.push(text.markdown ? text.words.trim() : fenced(text.words));
  parts.push(`*${plain(from)}*`);
  return parts.join("\n\n");
}

/** A note in Markdown of its own, or, with `before`, the text of one that is there with more at its end. */
export function noteText(title: string, parts: readonly NotePart[], before?: string): string {
  const added = parts.map((part) =>
    before === undefined && parts.length === 1 && part.title === title
      ? bodyOf(part)
      : `## ${plain(part.title)}\n\n${bodyOf(part)}`,
  );
  const head = before === undefined ? `# ${plain(title)}` : before.replace(/\s+$/, "");
  return `${[...(head === "" ? [] : [head]), ...added].join("\n\n")}\n`;
}
