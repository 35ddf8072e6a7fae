import type { Tokenize } from "rtf-stream-parser";
import type { LookView } from "@/contract/looks";
import { NotShown, type Source } from "./source";

const most = 20_000_000;
const shownLines = 400;
const longestLine = 2000;
const deepest = 500;

/** What the reader tells apart; its own names for them are not there once it runs. */
const opens = 0;
const closes = 1;
const control = 2;

interface Token {
  type: number;
  word?: string;
  param?: number;
  data?: Buffer;
}

/** Groups that hold no words of the text. */
const noText = new Set(
  "colortbl stylesheet info pict object objdata header headerl headerr headerf footer footerl footerr footerf listtable listoverridetable generator themedata colorschememapping datastore xmlnstbl filetbl rsidtbl latentstyles fldinst bkmkstart bkmkend xe tc tcn pntext pnseclvl template filename nonshppict shppict shpinst docvar mmathPr".split(
    " ",
  ),
);

const signs: Record<string, string> = {
  tab: "\t",
  cell: "\t",
  emdash: "—",
  endash: "–",
  bullet: "•",
  lquote: "‘",
  rquote: "’",
  ldblquote: "“",
  rdblquote: "”",
  emspace: "\u2003",
  enspace: "\u2002",
  "~": "\u00a0",
  _: "\u2011",
};

/** Where a line of the text ends. A paragraph's end may also be written as a backslash at the end of a line. */
const lineEnds = new Set(["par", "line", "sect", "page", "row", "\r", "\n"]);

/** Code pages by the character sets of fonts (RTF 1.9.1, fcharset). */
const pageOfCharset: Record<number, number> = {
  77: 10000,
  128: 932,
  129: 949,
  134: 936,
  136: 950,
  161: 1253,
  162: 1254,
  163: 1258,
  177: 1255,
  178: 1256,
  186: 1257,
  204: 1251,
  222: 874,
  238: 1250,
};

const encodings: Record<number, string> = {
  437: "ibm866",
  866: "ibm866",
  874: "windows-874",
  932: "shift_jis",
  936: "gbk",
  949: "euc-kr",
  950: "big5",
  10000: "macintosh",
  65001: "utf-8",
};

function decoded(bytes: Buffer, page: number): string {
  try {
    return new TextDecoder(encodings[page] ?? `windows-${page}`).decode(bytes);
  } catch {
    return new TextDecoder("windows-1252").decode(bytes);
  }
}

interface Group {
  shown: boolean;
  /** The next word says what the group is; one that is not known holds no words of the text. */
  named: boolean;
  fonts: boolean;
  page: number;
  /** How many characters stand for one of Unicode, for readers that know none. */
  fallback: number;
}

/** The words of a text, line by line, without their looks. */
class Words {
  readonly lines: string[] = [];
  private line = "";
  private bytes: Buffer[] = [];
  private skip = 0;
  private group: Group = { shown: true, named: false, fonts: false, page: 1252, fallback: 1 };
  private readonly around: Group[] = [];
  private readonly pages = new Map<number, number>();
  private font = 0;
  private usual = 1252;

  take({ type, word = "", param, data }: Token): void {
    if (word === "'" && data) {
      this.put(data);
      return;
    }
    if (type !== control) this.skip = type === opens || type === closes ? 0 : this.skip;
    if (type === opens) {
      this.flush();
      if (this.around.length >= deepest) throw new NotShown("it is nested too deep");
      this.around.push(this.group);
      this.group = { ...this.group };
    } else if (type === closes) {
      this.flush();
      this.group = this.around.pop() ?? this.group;
    } else if (type === control) {
      this.flush();
      this.control(word, param);
    } else if (data) this.put(data);
  }

  /** The last line, where it has no end. */
  end(): void {
    this.flush();
    if (this.line !== "") this.lines.push(this.line);
  }

  private put(data: Buffer): void {
    const left = data.subarray(Math.min(this.skip, data.length));
    this.skip -= data.length - left.length;
    if (this.group.shown && left.length > 0) this.bytes.push(left);
  }

  private flush(): void {
    if (this.bytes.length === 0) return;
    this.line += decoded(Buffer.concat(this.bytes), this.group.page);
    this.bytes = [];
  }

  private control(word: string, param: number | undefined): void {
    const { group } = this;
    if (word === "*") {
      group.named = true;
      return;
    }
    if (group.named || noText.has(word)) {
      group.shown = false;
      group.named = false;
      return;
    }
    if (word === "fonttbl") Object.assign(group, { shown: false, fonts: true });
    else if (word === "ansicpg") this.usual = group.page = param || 1252;
    else if (word === "mac") this.usual = group.page = 10000;
    else if (word === "pc" || word === "pca") this.usual = group.page = 437;
    else if (word === "f") {
      this.font = param ?? 0;
      if (!group.fonts) group.page = this.pages.get(this.font) ?? this.usual;
    } else if (word === "fcharset" && group.fonts) {
      const page = pageOfCharset[param ?? 0];
      if (page) this.pages.set(this.font, page);
    } else if (word === "plain") group.page = this.usual;
    else if (word === "uc") group.fallback = Math.max(0, param ?? 1);
    if (!group.shown) return;
    if (word === "u" && param !== undefined) {
      this.line += String.fromCharCode(param & 0xffff);
      this.skip = group.fallback;
    } else if (lineEnds.has(word)) {
      this.lines.push(this.line);
      this.line = "";
    } else if (word === "{" || word === "}" || word === "\\") this.line += word;
    else this.line += signs[word] ?? "";
  }
}

/** A text in Rich Text Format (1.9.1): its words, without their looks. */
export async function rtf(source: Source): Promise<LookView> {
  const { Tokenize: Reader } = await import("rtf-stream-parser");
  const read = source.whole(most);
  const head = read.subarray(0, 5).toString("latin1");
  if (head !== "{\\rtf") throw new NotShown("it is damaged, or in a form that is not known");
  // Room for so many bytes would be made before the first of them is read.
  if (/\\bin\d{8,}/.test(read.toString("latin1"))) throw new NotShown("it claims to hold more than it can");
  const words = new Words();
  const reader: Tokenize = new Reader();
  reader.end(read);
  try {
    for await (const token of reader as AsyncIterable<Token>) {
      words.take(token);
      if (words.lines.length > shownLines) break;
    }
  } catch (error) {
    throw error instanceof NotShown ? error : new NotShown("it is damaged");
  }
  words.end();
  const { lines } = words;
  return {
    form: "text",
    lines: lines.slice(0, shownLines).map((line) => line.slice(0, longestLine)),
    whole: lines.length <= shownLines,
  };
}
