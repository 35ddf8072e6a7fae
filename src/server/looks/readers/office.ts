import type { LookView, SheetLook } from "@/contract/looks";
import { isPictureOfTalk } from "../talk";
import { NotShown, type Source } from "./source";
import { elements, readXml, textOf, type XmlNode } from "./xml";
import { Zip } from "./zip";

/** What such a document may claim to unpack to, and one part of it. */
const mostClaimed = 300_000_000;
const mostPart = 40_000_000;
const mostDocument = 80_000_000;

const shownLines = 400;
const longestLine = 2000;
const shownSheets = 20;
const shownRows = 200;
const shownColumns = 30;
const longestCell = 120;
const shownSlides = 100;

async function opened(source: Source): Promise<Zip> {
  const zip = await Zip.open(source.fd);
  if (zip.claimed > mostClaimed) throw new NotShown("it claims to unpack to more than 300 MB");
  if (zip.parts.some(({ locked }) => locked)) throw new NotShown("it is locked with a password");
  return zip;
}

async function contentOf(zip: Zip, name: string): Promise<XmlNode[]> {
  const content = await zip.read(name, mostPart);
  if (!content) throw new NotShown("a part that it needs is missing");
  return readXml(content);
}

function asText(lines: string[]): LookView {
  return {
    form: "text",
    lines: lines.slice(0, shownLines).map((line) => line.slice(0, longestLine)),
    whole: lines.length <= shownLines,
  };
}

/** A word processor's document (ECMA-376): its text, without its looks. */
export async function docx(source: Source): Promise<LookView> {
  await opened(source);
  const { default: mammoth } = await import("mammoth");
  const { value } = await mammoth.extractRawText({ buffer: source.whole(mostDocument) });
  return asText(value.replace(/\n\n/g, "\n").replace(/\n+$/, "").split("\n"));
}

/** The same as OpenDocument (ISO/IEC 26300). */
export async function odt(source: Source): Promise<LookView> {
  const content = await contentOf(await opened(source), "content.xml");
  return asText([...elements(content, /^text:(p|h)$/)].map(odfText));
}

/** Spaces, tabs and line ends are elements there. */
function odfText(node: XmlNode): string {
  if (node.text !== undefined) return node.text;
  if (node.name === "text:s") return " ".repeat(Math.min(100, Number(node.attributes["text:c"] ?? 1)));
  if (node.name === "text:tab") return "\t";
  if (node.name === "text:line-break") return "\n";
  return node.children.map(odfText).join("");
}

function asTable(sheets: SheetLook[]): LookView {
  const [first] = sheets;
  if (!first) throw new NotShown("it has no sheet");
  return { form: "table", sheets };
}

/** A spreadsheet (ECMA-376): its sheets, values as they were last computed. */
export async function xlsx(source: Source): Promise<LookView> {
  await opened(source);
  const { default: readBook } = await import("read-excel-file/node");
  let sheets: Awaited<ReturnType<typeof readBook>>;
  try {
    sheets = await readBook(source.whole(mostDocument), { trim: false });
  } catch (error) {
    throw error instanceof NotShown ? error : new NotShown("it is damaged");
  }
  return asTable(
    sheets.slice(0, shownSheets).map(({ sheet, data }) => ({
      name: sheet.slice(0, 100),
      rows: data.length,
      columns: data.reduce((most, row) => Math.max(most, row.length), 0),
      cells: data.slice(0, shownRows).map((row) => row.slice(0, shownColumns).map(cellText)),
    })),
  );
}

/** A cell as it is read; one whose formula was never computed is empty. */
function cellText(value: unknown): string {
  if (value === null || value === undefined) return "";
  // A time is a share of a day there, which is seldom a whole number of thousandths.
  if (value instanceof Date) {
    const at = new Date(Math.round(value.getTime() / 1000) * 1000);
    return Number.isNaN(at.getTime()) ? "" : at.toISOString().replace("T00:00:00.000Z", "");
  }
  return String(value).slice(0, longestCell);
}

/** The same as OpenDocument. Rows and columns that repeat are counted, and only so many written out. */
export async function ods(source: Source): Promise<LookView> {
  const content = await contentOf(await opened(source), "content.xml");
  const sheets = [...elements(content, /^table:table$/)].slice(0, shownSheets).map((table): SheetLook => {
    const cells: string[][] = [];
    let rows = 0;
    let columns = 0;
    let blank = 0;
    for (const row of elements(table.children, /^table:table-row$/)) {
      const times = Math.max(1, Number(row.attributes["table:number-rows-repeated"] ?? 1));
      const line: string[] = [];
      let width = 0;
      let empty = 0;
      for (const cell of elements(row.children, /^table:(covered-)?table-cell$/)) {
        const repeats = Math.max(1, Number(cell.attributes["table:number-columns-repeated"] ?? 1));
        const text = [...elements(cell.children, /^text:p$/)].map(odfText).join(" ").slice(0, longestCell);
        if (text === "") {
          empty += repeats;
          continue;
        }
        while (empty > 0 && line.length < shownColumns) {
          line.push("");
          empty--;
          width++;
        }
        width += empty + repeats;
        empty = 0;
        for (let n = 0; n < repeats && line.length < shownColumns; n++) line.push(text);
      }
      columns = Math.max(columns, width);
      if (width === 0) {
        blank += times;
        continue;
      }
      for (; blank > 0 && cells.length < shownRows; blank--, rows++) cells.push([]);
      rows += blank + times;
      blank = 0;
      for (let n = 0; n < times && cells.length < shownRows; n++) cells.push(line);
    }
    return { name: (table.attributes["table:name"] ?? "").slice(0, 100), rows, columns, cells };
  });
  return asTable(sheets);
}

/** A talk (ECMA-376): the text of each slide, in their order, and the pictures on it. */
export async function pptx(source: Source): Promise<LookView> {
  const zip = await opened(source);
  const number = (name: string) => Number(/(\d+)\.xml$/.exec(name)![1]);
  const names = zip.names(/^ppt\/slides\/slide\d+\.xml$/).sort((a, b) => number(a) - number(b));
  const slides: Slide[] = [];
  for (const name of names.slice(0, shownSlides)) {
    const relations = await zip.read(name.replace("slides/", "slides/_rels/").concat(".rels"), mostPart);
    const pictures = relations
      ? [...elements(readXml(relations), /^Relationship$/)]
          .filter(({ attributes }) => attributes["Type"]?.endsWith("/image"))
          .map(({ attributes }) => (attributes["Target"] ?? "").replace(/^\.\.\//, "ppt/").replace(/^\//, ""))
      : [];
    const lines = [...elements(await contentOf(zip, name), /^a:p$/)].map((p) =>
      [...elements(p.children, /^a:t$/)].map(textOf).join(""),
    );
    slides.push({ lines, pictures });
  }
  return asSlides(slides, names.length);
}

/** The same as OpenDocument. */
export async function odp(source: Source): Promise<LookView> {
  const pages = [...elements(await contentOf(await opened(source), "content.xml"), /^draw:page$/)];
  return asSlides(
    pages.slice(0, shownSlides).map((page): Slide => {
      const shown = page.children.filter(({ name }) => name !== "presentation:notes");
      return {
        lines: [...elements(shown, /^text:p$/)].map(odfText),
        pictures: [...elements(shown, /^draw:image$/)].map(({ attributes }) => attributes["xlink:href"] ?? ""),
      };
    }),
    pages.length,
  );
}

type Slide = Extract<LookView, { form: "slides" }>["slides"][number];
const shownPictures = 4;

function asSlides(slides: Slide[], count: number): LookView {
  return {
    form: "slides",
    count,
    slides: slides.map(({ lines, pictures }) => ({
      lines: lines
        .filter((line) => line.trim() !== "")
        .slice(0, 60)
        .map((line) => line.slice(0, 500)),
      pictures: [...new Set(pictures)].filter(isPictureOfTalk).slice(0, shownPictures),
    })),
  };
}
