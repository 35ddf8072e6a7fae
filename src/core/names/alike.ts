/** A name of plain letters, signs and single spaces looks like no other that differs from it. */
const plain = /^[\x21-\x7e]+( [\x21-\x7e]+)*$/;
/** What is not drawn, or drawn as a space. */
const undrawn = /[\p{Cf}\p{Variation_Selector}]/gu;
const spaces = /\s+/gu;

/** Whether any of these names could look like another one. */
export const mayLookAlike = (names: readonly string[]): boolean => names.some((name) => !plain.test(name));

/**
 * Names as they are shown side by side: of those that look alike, each that is not plain says by which characters it differs.
 * `unlike`: the characters that look like others replaced by these (Unicode Technical Standard 39, confusables).
 */
export function toldApart(names: readonly string[], unlike: (name: string) => string): string[] {
  const looks = (name: string) => unlike(name.normalize("NFC").replace(undrawn, "").replace(spaces, " ").trim()).normalize("NFC");
  const groups = new Map<string, Set<string>>();
  const lookOf = names.map((name) => (plain.test(name) ? unlike(name) : looks(name)));
  for (const [n, look] of lookOf.entries()) groups.set(look, (groups.get(look) ?? new Set()).add(names[n]!));
  return names.map((name, n) => (plain.test(name) || groups.get(lookOf[n]!)!.size < 2 ? name : marked(name, unlike)));
}

const point = (c: string) => `‹U+${c.codePointAt(0)!.toString(16).toUpperCase().padStart(4, "0")}›`;

/** A name with what cannot be told by looking said in words of its own. */
function marked(name: string, unlike: (name: string) => string): string {
  const said = name
    .replace(/^ +| +$| {2,}/g, (run) => "␣".repeat(run.length))
    .replace(/[^\x20-\x7e␣]/gu, (c) => {
      if (/[\p{Cf}\p{Variation_Selector}\p{Zs}]/u.test(c)) return point(c);
      return /\p{M}/u.test(c) || unlike(c) !== c ? c + point(c) : c;
    });
  // Composed where the other is not: its letters are said too.
  return said === name ? name.replace(/[^\x20-\x7e]/gu, (c) => (c.normalize("NFD") !== c ? c + point(c) : c)) : said;
}
