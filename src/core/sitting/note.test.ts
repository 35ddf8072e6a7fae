import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { linkTo } from "../names/link";
import { rawFromBytes } from "../names/raw";
import { noteText } from "./note";

const part = { title: "tide", from: "from tide.png, Desktop" };

describe("a note", () => {
  test("has a title, its picture as a link that any name survives, and where it is from", () => {
    const name = rawFromBytes(Buffer.from("a (1) [x]#é.png"));
    const text = noteText("tide", [{ ...part, attachment: { name, picture: true } }]);
    expect(text).toBe("# tide\n\n![tide](attachments/a%20%281%29%20%5Bx%5D%23%C3%A9.png)\n\n*from tide.png, Desktop*\n");
  });

  test("signs of a title or a piece mean nothing in it", () => {
    const text = noteText("# [x](y)", [{ title: "# [x](y)", from: "f", text: { words: "*a*\n# b", piece: true } }]);
    expect(text).toContain("# \\# \\[x\\]\\(y\\)\n");
    expect(text).toContain("> \\*a\\*\n> \\# b");
  });

  test("a text stands between fences that nothing in it ends, whatever it holds", () => {
    fc.assert(
      fc.property(fc.stringMatching(/^[`a\n]{0,40}$/), (words) => {
        const [, fence = "", inside] =
          /^# t\n\n(`{3,})\n([\s\S]*)\n\1\n\n\*f\*\n$/.exec(noteText("t", [{ title: "t", from: "f", text: { words } }])) ?? [];
        expect(inside).toBe(words.replace(/\n$/, ""));
        expect(words).not.toContain(fence);
      }),
    );
  });

  test("more is added at the end of one that is there, under a heading of its own", () => {
    expect(noteText("All", [part], "# All\n\nfirst\n\n\n")).toBe("# All\n\nfirst\n\n## tide\n\n*from tide.png, Desktop*\n");
    expect(noteText("All", [part], "")).toMatch(/^## tide\n/);
    expect(noteText("All", [part, part]).match(/^## tide$/gm)).toHaveLength(2);
  });
});

test("an address by a name's bytes is read back as these bytes, and holds no sign that means anything", () => {
  fc.assert(
    fc.property(fc.uint8Array({ minLength: 1, maxLength: 60 }), (bytes) => {
      const link = linkTo(rawFromBytes(bytes));
      expect(link).toMatch(/^([A-Za-z0-9._~-]|%[0-9A-F]{2})+$/);
      const back = link.replace(/%(..)/g, (_, digits: string) => String.fromCharCode(Number.parseInt(digits, 16)));
      expect(Buffer.from(back, "latin1").equals(bytes)).toBe(true);
    }),
  );
});
