import type { LookView } from "@/contract/looks";
import type { Words } from "@/core/words/words";

/** What a look tells of a thing in a few words: "3 pages", "2 sheets". */
export function factsOf(look: LookView, words: Words): string[] {
  switch (look.form) {
    case "table": {
      const [sheet, ...more] = look.sheets;
      const size =
        sheet?.rows === undefined ? [] : [`${words.counted(sheet.rows, "row")} by ${words.counted(sheet.columns, "column")}`];
      return more.length > 0 ? [words.counted(look.sheets.length, "sheet"), ...size] : size;
    }
    case "pages":
      return [words.counted(look.count, "page")];
    case "slides":
      return [words.counted(look.count, "slide")];
    case "letter":
      return look.attachments.length > 0 ? [words.counted(look.attachments.length, "attachment")] : [];
    case "archive":
      return [
        `${words.counted(look.count, "entry", "entries")}${look.whole ? "" : " or more"}, ${words.bytes(look.bytes)} unpacked`,
      ];
    case "folder": {
      const newest = Math.max(0, ...look.entries.map(({ mtimeMs }) => mtimeMs));
      return newest > 0 ? [`the newest in it ${words.ago(newest)}`] : [];
    }
    case "sound":
      return [
        ...(look.tags
          ? [[look.tags.artist, look.tags.title, look.tags.album].filter((tag) => tag !== undefined).join(", ")]
          : []),
        ...(look.seconds === undefined ? [] : [words.duration(look.seconds * 1000)]),
      ];
    case "video":
      return look.seconds === undefined ? [] : [words.duration(look.seconds * 1000)];
    case "track":
      return [
        `${words.count(Math.round(look.metres / 100) / 10)} km`,
        words.counted(look.points, "point"),
        ...(look.from === undefined ? [] : [words.dateTime(look.from)]),
      ];
    default:
      return [];
  }
}
