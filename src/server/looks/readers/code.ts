import type { Element, Root, RootContent } from "hast";
import type { LookView, Tone } from "@/contract/looks";
import type { Source } from "./source";

const mostBytes = 200_000;
const shownLines = 400;
const longestLine = 400;

/** Endings that are no name of a language themselves. */
const languages: Record<string, string> = {
  h: "c",
  hpp: "cpp",
  mjs: "javascript",
  cjs: "javascript",
  svg: "xml",
  gpx: "xml",
  kml: "xml",
  htm: "xml",
  conf: "ini",
  cfg: "ini",
  desktop: "ini",
  service: "ini",
  geojson: "json",
  ipynb: "json",
  bash: "bash",
};

const tonesOf: Record<string, Tone> = {
  keyword: "word",
  built_in: "word",
  type: "word",
  "selector-tag": "word",
  meta: "word",
  string: "text",
  regexp: "text",
  link: "text",
  addition: "text",
  number: "number",
  literal: "number",
  symbol: "number",
  bullet: "number",
  comment: "remark",
  quote: "remark",
  doctag: "remark",
  deletion: "remark",
  title: "name",
  name: "name",
  attr: "name",
  attribute: "name",
  variable: "name",
  section: "name",
  property: "name",
};

/** Whether a name's ending is that of code, or of data that is written as it. */
export const isCode = (name: string): boolean =>
  /\.(js|mjs|cjs|jsx|ts|tsx|py|rb|sh|bash|c|h|cc|cpp|hpp|cs|java|kt|go|rs|php|pl|pm|r|lua|swift|sql|css|scss|less|html?|xml|svg|kml|json|geojson|ipynb|ya?ml|toml|ini|conf|cfg|service|diff|patch|m|vb|graphql)$/.test(
    name,
  );

/** Code with what each run of letters is there for; undefined where no language is known for its ending, or it is no text. */
export async function code(source: Source): Promise<LookView | undefined> {
  const ending = source.name.slice(source.name.lastIndexOf(".") + 1);
  const { common, createLowlight } = await import("lowlight");
  const lowlight = createLowlight(common);
  const language = languages[ending] ?? ending;
  if (!lowlight.registered(language)) return undefined;
  const head = source.head(mostBytes);
  if (head.includes(0)) return undefined;
  const all = head
    .toString("utf8")
    .replace(/^\ufeff/, "")
    .split(/\r\n|\r|\n/);
  const text = all.slice(0, shownLines).map((line) => line.slice(0, longestLine));
  const runs = linesOf(lowlight.highlight(language, text.join("\n")));
  return {
    form: "text",
    lines: text,
    whole: source.bytes <= mostBytes && all.length <= shownLines,
    tones: text.map((_, n) => runs[n] ?? []),
  };
}

/** The runs of each line; those that follow one another in one tone are one. */
function linesOf(root: Root): [Tone, number][][] {
  const lines: [Tone, number][][] = [[]];
  const add = (tone: Tone, letters: number) => {
    if (letters === 0) return;
    const line = lines.at(-1)!;
    const last = line.at(-1);
    if (last?.[0] === tone) last[1] += letters;
    else line.push([tone, letters]);
  };
  const walk = (nodes: readonly RootContent[], tone: Tone) => {
    for (const node of nodes) {
      if (node.type === "text")
        for (const [n, part] of node.value.split("\n").entries()) {
          if (n > 0) lines.push([]);
          add(tone, part.length);
        }
      else if (node.type === "element") walk(node.children, toneOf(node) ?? tone);
    }
  };
  walk(root.children, "plain");
  return lines;
}

function toneOf({ properties }: Element): Tone | undefined {
  const names = Array.isArray(properties["className"]) ? properties["className"] : [];
  for (const name of names) {
    const tone = tonesOf[String(name).replace(/^hljs-/, "")];
    if (tone) return tone;
  }
  return undefined;
}
