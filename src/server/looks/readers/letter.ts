import type { LookView } from "@/contract/looks";
import { NotShown, type Source } from "./source";

const mostLetter = 40_000_000;
const shownLines = 400;

/** A letter as it was sent (RFC 5322): who, when, its text, and what is attached. */
export async function letter(source: Source): Promise<LookView> {
  const { default: PostalMime } = await import("postal-mime");
  const mail = await PostalMime.parse(source.whole(mostLetter), { maxNestingDepth: 40, maxHeadersSize: 2_000_000 });
  if (!mail.from && !mail.subject && !mail.date && !mail.text) throw new NotShown("it is none by its content");
  const who = (one?: { name?: string; address?: string }) =>
    [one?.name, one?.address && `<${one.address}>`].filter(Boolean).join(" ");
  const text = mail.text ?? plainOf(mail.html ?? "");
  const lines = text.replace(/\r/g, "").trim().split("\n");
  return {
    form: "letter",
    from: who(mail.from).slice(0, 300),
    to: (mail.to ?? []).slice(0, 20).map(who).join(", ").slice(0, 600),
    date: mail.date && !Number.isNaN(Date.parse(mail.date)) ? Date.parse(mail.date) : undefined,
    subject: (mail.subject ?? "").slice(0, 300),
    lines: lines.slice(0, shownLines).map((line) => line.slice(0, 2000)),
    whole: lines.length <= shownLines,
    attachments: mail.attachments.slice(0, 100).map(({ filename, content, mimeType }) => ({
      name: (filename ?? mimeType ?? "attachment").slice(0, 300),
      bytes: typeof content === "string" ? content.length : content.byteLength,
    })),
  };
}

/** The words of HTML; what it asks to load or run is nothing here. */
const plainOf = (html: string): string =>
  html
    .replace(/<(style|script|head)\b[\s\S]*?<\/\1\s*>/gi, "")
    .replace(/<(br|\/p|\/div|\/tr|\/li|\/h\d)\b[^>]*>/gi, "\n")
    .replace(/<[^>]*>/g, "")
    .replace(/&(nbsp|amp|lt|gt|quot);/g, (_, name: string) => ({ nbsp: " ", amp: "&", lt: "<", gt: ">", quot: '"' })[name]!);

const mostCalendar = 10_000_000;
const shownEvents = 100;

/** A calendar file (RFC 5545): what it says happens, and when. */
export async function calendar(source: Source): Promise<LookView> {
  const { default: ical } = await import("ical.js");
  let events: import("ical.js").default.Component[];
  try {
    events = new ical.Component(ical.parse(source.whole(mostCalendar).toString("utf8")) as never).getAllSubcomponents("vevent");
  } catch {
    throw new NotShown("it is damaged");
  }
  const lines = events.slice(0, shownEvents).flatMap((component) => {
    const event = new ical.Event(component);
    const times = [event.startDate, event.endDate].map((time) => time?.toString().replace("T", " ").slice(0, 16) ?? "");
    const [start, end] = times;
    return [
      `${start}${end && end !== start ? ` to ${end}` : ""}  ${event.summary ?? ""}${event.location ? `, ${event.location}` : ""}`,
    ];
  });
  return { form: "text", lines, whole: events.length <= shownEvents };
}
