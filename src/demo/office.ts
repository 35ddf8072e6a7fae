import { buffer } from "node:stream/consumers";
import { PDFDocument } from "@napi-rs/canvas";
import { Document, HeadingLevel, Packer, Paragraph, Table, TableCell, TableRow, TextRun } from "docx";
import exceljs from "exceljs";
import { ZipFile } from "yazl";

/** Documents as programs of their kinds write them. Tables are rows of cells, the first the head. */

export async function docx(title: string, paragraphs: string[]): Promise<Buffer> {
  const body = paragraphs.map((text) => new Paragraph({ children: [new TextRun(text)], spacing: { after: 160 } }));
  return Packer.toBuffer(
    new Document({ sections: [{ children: [new Paragraph({ text: title, heading: HeadingLevel.HEADING_1 }), ...body] }] }),
  );
}

/** The same with a table in it. */
export async function docxTable(title: string, rows: string[][]): Promise<Buffer> {
  const table = new Table({
    rows: rows.map((row) => new TableRow({ children: row.map((cell) => new TableCell({ children: [new Paragraph(cell)] })) })),
  });
  return Packer.toBuffer(
    new Document({ sections: [{ children: [new Paragraph({ text: title, heading: HeadingLevel.HEADING_1 }), table] }] }),
  );
}

export async function xlsx(sheets: { name: string; rows: (string | number)[][] }[]): Promise<Buffer> {
  const book = new exceljs.Workbook();
  for (const { name, rows } of sheets) {
    const sheet = book.addWorksheet(name);
    for (const row of rows) sheet.addRow(row);
    sheet.getRow(1).font = { bold: true };
  }
  return Buffer.from(await book.xlsx.writeBuffer());
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

/** A talk: a title and lines a slide, with a picture on the first. */
export async function pptx(slides: { title: string; lines: string[] }[], picture: Buffer): Promise<Buffer> {
  const { default: Talk } = await import("pptxgenjs");
  const talk = new (Talk as unknown as new () => import("pptxgenjs").default)();
  for (const [n, { title, lines }] of slides.entries()) {
    const slide = talk.addSlide();
    slide.addText(title, { x: 0.5, y: 0.4, w: 9, h: 0.8, fontSize: 30, bold: true });
    slide.addText(
      lines.map((text) => ({ text, options: { bullet: true, breakLine: true } })),
      { x: 0.5, y: 1.4, w: n === 0 ? 4.5 : 9, h: 3.4, fontSize: 18 },
    );
    if (n === 0) slide.addImage({ data: `image/jpeg;base64,${picture.toString("base64")}`, x: 5.4, y: 1.4, w: 4.2, h: 2.8 });
  }
  return (await talk.write({ outputType: "nodebuffer" })) as Buffer;
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
