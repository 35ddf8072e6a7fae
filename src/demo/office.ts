import fs from "node:fs";
import { buffer } from "node:stream/consumers";
import { PDFDocument } from "@napi-rs/canvas";
import yauzl from "yauzl";
import { ZipFile } from "yazl";
import { install } from "@/server/install";

/** Documents as programs of their kinds write them. Tables are rows of cells, the first the head. */

/**
 * One of the templates beside this, as a word processor, a spreadsheet or a talk of their makers wrote it, with a title and a
 * date of its own (ECMA-376-2, core properties).
 */
export async function fromTemplate(name: string, title: string, at: Date): Promise<Buffer> {
  const template = await openZip(fs.readFileSync(install("src/demo/templates", name)));
  const file = new ZipFile();
  for (const [part, content] of template)
    file.addBuffer(part === "docProps/core.xml" ? Buffer.from(coreProperties(title, at)) : content, part, { mtime: at });
  file.end();
  return buffer(file.outputStream);
}

const coreProperties = (title: string, at: Date) => {
  const [core, terms, elements] = [
    "http://schemas.openxmlformats.org/package/2006/metadata/core-properties",
    "http://purl.org/dc/terms/",
    "http://purl.org/dc/elements/1.1/",
  ];
  const date = (kind: string) => `<dcterms:${kind} xsi:type="dcterms:W3CDTF">${at.toISOString().slice(0, 19)}Z</dcterms:${kind}>`;
  return `<?xml version="1.0" encoding="UTF-8" standalone="yes"?>
<cp:coreProperties xmlns:cp="${core}" xmlns:dc="${elements}" xmlns:dcterms="${terms}" xmlns:xsi="http://www.w3.org/2001/XMLSchema-instance"><dc:title>${escaped(title)}</dc:title><dc:creator>Skarn station</dc:creator>${date("created")}${date("modified")}</cp:coreProperties>`;
};

async function openZip(content: Buffer): Promise<[string, Buffer][]> {
  const parts: [string, Buffer][] = [];
  const file = await yauzl.fromBufferPromise(content, { lazyEntries: true });
  for await (const entry of file.eachEntry())
    if (!entry.fileName.endsWith("/")) parts.push([entry.fileName, await buffer(await file.openReadStreamPromise(entry))]);
  return parts;
}

const escaped = (text: string) => text.replaceAll("&", "&amp;").replaceAll("<", "&lt;");

/** An OpenDocument spreadsheet (ISO/IEC 26300): its type comes first, and is not packed. */
export function ods(name: string, rows: (string | number)[][]): Promise<Buffer> {
  const cell = (value: string | number) =>
    typeof value === "number"
      ? `<table:table-cell office:value-type="float" office:value="${value}"><text:p>${value}</text:p></table:table-cell>`
      : `<table:table-cell office:value-type="string"><text:p>${escaped(value)}</text:p></table:table-cell>`;
  const body = rows.map((row) => `<table:table-row>${row.map(cell).join("")}</table:table-row>`).join("");
  const names = ["office", "table", "text"]
    .map((one) => `xmlns:${one}="urn:oasis:names:tc:opendocument:xmlns:${one}:1.0"`)
    .join(" ");
  const type = "application/vnd.oasis.opendocument.spreadsheet";
  const content = `<?xml version="1.0" encoding="UTF-8"?><office:document-content ${names} office:version="1.3"><office:body><office:spreadsheet><table:table table:name="${escaped(name)}">${body}</table:table></office:spreadsheet></office:body></office:document-content>`;
  const manifest = `<?xml version="1.0" encoding="UTF-8"?><manifest:manifest xmlns:manifest="urn:oasis:names:tc:opendocument:xmlns:manifest:1.0" manifest:version="1.3"><manifest:file-entry manifest:full-path="/" manifest:media-type="${type}"/><manifest:file-entry manifest:full-path="content.xml" manifest:media-type="text/xml"/></manifest:manifest>`;
  const file = new ZipFile();
  file.addBuffer(Buffer.from(type), "mimetype", { compress: false });
  file.addBuffer(Buffer.from(content), "content.xml");
  file.addBuffer(Buffer.from(manifest), "META-INF/manifest.xml");
  file.end();
  return buffer(file.outputStream);
}

const [pageWidth, pageHeight, margin] = [595, 842, 64];

/** A document of pages (A4, in points), each a title and lines. */
export function pdf(title: string, pages: string[][]): Buffer {
  const document = new PDFDocument({ title });
  for (const lines of pages) {
    const draw = document.beginPage(pageWidth, pageHeight);
    draw.fillStyle = "#ffffff";
    draw.fillRect(0, 0, pageWidth, pageHeight);
    draw.fillStyle = "#18211e";
    draw.font = "24px sans-serif";
    draw.fillText(title, margin, margin + 24);
    draw.font = "12px sans-serif";
    for (const [n, line] of lines.entries()) draw.fillText(line, margin, margin + 64 + n * 19, pageWidth - 2 * margin);
    document.endPage();
  }
  return document.close();
}

const stamp = (at: Date) => at.toISOString().replace(/[-:]/g, "").slice(0, 15).concat("Z");

/** An event of a calendar (RFC 5545). */
export const ics = (summary: string, place: string, from: Date, hours: number): string =>
  [
    "BEGIN:VCALENDAR",
    "VERSION:2.0",
    "PRODID:-//Skarn station//EN",
    "BEGIN:VEVENT",
    `UID:${stamp(from)}@station.example`,
    `DTSTAMP:${stamp(from)}`,
    `DTSTART:${stamp(from)}`,
    `DTEND:${stamp(new Date(from.getTime() + hours * 3_600_000))}`,
    `SUMMARY:${summary}`,
    `LOCATION:${place}`,
    "END:VEVENT",
    "END:VCALENDAR",
    "",
  ].join("\r\n");

/** A letter with one attachment (RFC 5322, 2045). */
export const eml = (
  letter: { from: string; to: string; subject: string; at: Date; lines: string[] },
  attached: { name: string; content: Buffer },
): string =>
  [
    `From: ${letter.from}`,
    `To: ${letter.to}`,
    `Subject: ${letter.subject}`,
    `Date: ${letter.at.toUTCString().replace("GMT", "+0000")}`,
    `Message-ID: <${letter.at.getTime()}@station.example>`,
    "MIME-Version: 1.0",
    'Content-Type: multipart/mixed; boundary="=part="',
    "",
    "--=part=",
    "Content-Type: text/plain; charset=utf-8",
    "Content-Transfer-Encoding: 8bit",
    "",
    ...letter.lines,
    "",
    "--=part=",
    `Content-Type: text/csv; name="${attached.name}"`,
    `Content-Disposition: attachment; filename="${attached.name}"`,
    "Content-Transfer-Encoding: base64",
    "",
    ...(attached.content.toString("base64").match(/.{1,76}/g) ?? []),
    "--=part=--",
    "",
  ].join("\r\n");
