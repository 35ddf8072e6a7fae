import { XMLParser } from "fast-xml-parser";
import { NotShown } from "./source";

/** An element in the order of the document; text is a node of its own. */
export interface XmlNode {
  name: string;
  attributes: Record<string, string>;
  children: XmlNode[];
  text?: string;
}

type Parsed = Record<string, unknown>;

const toNodes = (list: Parsed[]): XmlNode[] =>
  list.map((item) => {
    const [name] = Object.keys(item).filter((key) => key !== ":@");
    if (name === "#text") return { name, attributes: {}, children: [], text: String(item[name]) };
    return { name: name!, attributes: (item[":@"] ?? {}) as Record<string, string>, children: toNodes(item[name!] as Parsed[]) };
  });

const deepest = 200;

/** Reads XML in its order. Entities that a document defines itself are not expanded. @throws {@link NotShown} where it is none */
export function readXml(content: Buffer): XmlNode[] {
  const text = content.toString("utf8");
  if (/<!ENTITY/i.test(text)) throw new NotShown("it defines entities of its own, which are not expanded");
  // Deep nesting would be followed by calls within calls.
  let depth = 0;
  for (const [tag] of text.matchAll(/<\/?[A-Za-z][^<>]*>/g)) {
    if (tag.startsWith("</")) depth--;
    else if (!tag.endsWith("/>") && ++depth > deepest) throw new NotShown("it is nested too deep");
  }
  try {
    const parser = new XMLParser({
      preserveOrder: true,
      ignoreAttributes: false,
      attributeNamePrefix: "",
      trimValues: false,
      parseTagValue: false,
    });
    return toNodes(parser.parse(text) as Parsed[]);
  } catch {
    throw new NotShown("it is damaged");
  }
}

/** All elements of a name, at any depth, in order; what lies in one that was found is not looked for again. */
export function* elements(nodes: readonly XmlNode[], name: RegExp): Generator<XmlNode> {
  for (const node of nodes)
    if (name.test(node.name)) yield node;
    else yield* elements(node.children, name);
}

/** The text of an element and all within it. */
export const textOf = (node: XmlNode): string => node.text ?? node.children.map(textOf).join("");
