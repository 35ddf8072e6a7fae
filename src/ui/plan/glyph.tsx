import type { Kind } from "@/core/survey/kinds";

/** Drawn on a field of 26 by 30. */
export const glyphPaths: Record<Kind, string> = {
  text: "M5 8h15M5 12h15M5 16h12M5 20h14",
  table: "M5 7h16v16h-16zM5 12h16M5 17h16M12 7v16",
  talk: "M4 8h18v11h-18zM13 19v5M8 24h10",
  picture: "M3 24 10 14 15 20 19 16 25 24Z",
  screenshot: "M4 7h18v13h-18zM4 11h18",
  video: "M4 9h18v12h-18zM11 12v6l5-3z",
  sound: "M5 14v4M9 10v12M13 7v16M17 11v9M21 14v4",
  archive: "M13 4v22M11 7h4M11 11h4M11 15h4M11 19h4M11 23h4",
  installer: "M13 5v12M8 13l5 5 5-5M5 24h16",
  shortcut: "M7 22 18 10M11 10h7v7",
  "web link": "M13 7a8 8 0 1 0 .01 0M5 15h16M13 7c-4 5-4 11 0 16M13 7c4 5 4 11 0 16",
  folder: "M4 9h6l2 3h10v12h-18z",
  drive: "M4 11h18v9h-18zM17 15.5h2",
  data: "M5 21 10 12 14 17 20 7",
  "half download": "M13 5v9M9 11l4 4 4-4M5 20h4M11 20h4M17 20h4",
  temporary: "M7 6h12M7 24h12M8 6c0 6 10 12 10 18M18 6c0 6-10 12-10 18",
  other: "M13 8v9M13 21v1",
};

/** The glyph of a kind. The kind is always said in words too. */
export function Glyph({ kind, width = 26, tone = "var(--ink)" }: { kind: Kind; width?: number; tone?: string }) {
  return (
    <svg width={width} height={(width * 30) / 26} viewBox="0 0 26 30" aria-hidden="true">
      <path d={glyphPaths[kind]} fill="none" stroke={tone} strokeWidth="1.3" />
    </svg>
  );
}
