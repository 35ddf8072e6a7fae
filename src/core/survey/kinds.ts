import { endingOf } from "../names/raw";

export const kinds = [
  "text",
  "table",
  "talk",
  "picture",
  "screenshot",
  "video",
  "sound",
  "archive",
  "installer",
  "shortcut",
  "web link",
  "folder",
  "drive",
  "data",
  "half download",
  "temporary",
  "other",
] as const;

export type Kind = (typeof kinds)[number];

/** What is known of an entry when its kind is told. */
export interface Evidence {
  /** The name as text. */
  name: string;
  type: "file" | "folder" | "link" | "special";
  bytes: number;
  /** The type found in the content (IANA), where one was. */
  mime?: string;
  /** The first bytes as text, where they are text. */
  head?: string;
  /** Whether the first bytes are text: no NUL, valid UTF-8 or ASCII. */
  isText: boolean;
  /** Pixels, for pictures. */
  width?: number;
  height?: number;
  /** Whether a picture names a camera or a capture date of one. */
  hasCamera?: boolean;
  executable: boolean;
}

export interface KindFound {
  kind: Kind;
  /** What told it, in words. */
  why: string;
}

const tableMimes = [
  "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
  "application/vnd.oasis.opendocument.spreadsheet",
  "application/vnd.ms-excel",
];
const talkMimes = [
  "application/vnd.openxmlformats-officedocument.presentationml.presentation",
  "application/vnd.oasis.opendocument.presentation",
  "application/vnd.ms-powerpoint",
];
const textMimes = [
  "application/pdf",
  "application/rtf",
  "application/epub+zip",
  "application/vnd.openxmlformats-officedocument.wordprocessingml.document",
  "application/vnd.oasis.opendocument.text",
  "application/msword",
  "application/postscript",
];
const installerMimes = [
  "application/vnd.debian.binary-package",
  "application/x-deb",
  "application/x-rpm",
  "application/x-msi",
  "application/vnd.appimage",
];
/** One file, compressed: an archive only where that file is one. */
const compressedMimes = [
  "application/gzip",
  "application/x-gzip",
  "application/x-bzip2",
  "application/x-xz",
  "application/zstd",
  "application/x-lzip",
  "application/x-compress",
];
const archiveMimes = [
  "application/zip",
  "application/gzip",
  "application/x-gzip",
  "application/x-tar",
  "application/x-bzip2",
  "application/x-xz",
  "application/x-7z-compressed",
  "application/x-rar-compressed",
  "application/zstd",
  "application/x-lzip",
  "application/x-compress",
];

const endings: Partial<Record<Kind, string[]>> = {
  text: [
    "eml",
    "emlx",
    "msg",
    "ics",
    "vcs",
    "vcf",
    "srt",
    "vtt",
    "txt",
    "md",
    "pdf",
    "doc",
    "docx",
    "odt",
    "rtf",
    "tex",
    "html",
    "htm",
    "epub",
    "log",
    "ps",
    "org",
    "rst",
  ],
  table: ["csv", "tsv", "xls", "xlsx", "ods"],
  talk: ["ppt", "pptx", "odp", "key"],
  picture: ["jpg", "jpeg", "png", "gif", "webp", "avif", "heic", "svg", "tif", "tiff", "bmp", "raw", "dng"],
  video: ["mp4", "mkv", "mov", "webm", "avi", "m4v"],
  sound: ["wav", "mp3", "flac", "ogg", "opus", "m4a", "aac"],
  archive: ["zip", "tar", "gz", "tgz", "bz2", "xz", "7z", "rar", "zst"],
  installer: ["deb", "rpm", "appimage", "exe", "msi", "dmg", "pkg", "run", "flatpak", "snap"],
  data: [
    "json",
    "xml",
    "gpx",
    "geojson",
    "kml",
    "sqlite",
    "sqlite3",
    "mdb",
    "accdb",
    "odb",
    "pst",
    "db",
    "bin",
    "dat",
    "yaml",
    "yml",
    "parquet",
    "nc",
    "ttf",
    "otf",
    "woff",
    "woff2",
    "mbox",
  ],
};
const kindByEnding = new Map(Object.entries(endings).flatMap(([kind, list]) => list.map((e) => [e, kind as Kind] as const)));

const isLibrary = /\.(so(\.[0-9.]+)?|o|a|ko|node|dll|dylib)$/i;
const halfDownload = /\.(part|partial|crdownload|download|opdownload|aria2|!ut|filepart)$/i;
const lockFile = /^(\.~lock\..+#|~\$.+|\..+\.sw[a-p])$/;
const temporary = /^(Thumbs\.db|\.DS_Store|desktop\.ini)$|~$|\.(tmp|temp|bak)$/i;
const screenshotName =
  /(^|[^a-z])(screen[ _-]?shot|screen[ _-]?capture|screen|bildschirmfoto|captura|capture d.écran)([^a-z]|$)/i;
/** Common screens, width by height, either way round. */
const screens = new Set(
  [
    "1280x720",
    "1280x800",
    "1366x768",
    "1440x900",
    "1600x900",
    "1680x1050",
    "1920x1080",
    "1920x1200",
    "2560x1440",
    "2560x1600",
    "2880x1800",
    "3840x2160",
  ].flatMap((s) => [s, s.split("x").reverse().join("x")]),
);

/** What a single compressed file holds, by the ending before the last: "report.csv.gz", "ls.1.gz" (a page of a manual). */
function kindInside(name: string, ending: string): Kind | undefined {
  const inner = endingOf(name.slice(0, name.length - ending.length - 1));
  if (ending === "svgz") return "picture";
  if (/^[1-9][a-z]*$/.test(inner)) return "text";
  const kind = kindByEnding.get(inner);
  return kind === "archive" ? undefined : kind;
}

/** Tells an entry's kind: by what it is, then by its content, then by its name. */
export function kindOf(e: Evidence): KindFound {
  if (e.type === "folder") return { kind: "folder", why: "it is a folder" };
  if (e.type === "link") return { kind: "shortcut", why: "it is a symbolic link" };
  if (e.type === "special") return { kind: "other", why: "it is a socket, pipe or device" };

  const ending = endingOf(e.name);
  if (halfDownload.test(e.name)) return { kind: "half download", why: `its name ends in .${ending}` };
  if (lockFile.test(e.name)) return { kind: "temporary", why: "it is named as a lock file" };
  if (temporary.test(e.name)) return { kind: "temporary", why: "it is named as a temporary file" };

  const head = e.head ?? "";
  if (/^\s*(#[^\n]*\n\s*)*\[Desktop Entry\]/.test(head))
    return /^Type\s*=\s*Link\s*$/m.test(head)
      ? { kind: "web link", why: "it is a desktop entry of type Link" }
      : { kind: "shortcut", why: "it is a desktop entry" };
  if (/^\s*\[InternetShortcut\]/.test(head)) return { kind: "web link", why: "it holds an address" };

  const mime = e.mime;
  if (mime) {
    const why = `its content is ${mime}`;
    if (mime.startsWith("image/")) return { kind: isScreenshot(e, mime) ? "screenshot" : "picture", why };
    if (mime.startsWith("video/")) return { kind: "video", why };
    if (mime.startsWith("audio/")) return { kind: "sound", why };
    if (tableMimes.includes(mime)) return { kind: "table", why };
    if (talkMimes.includes(mime)) return { kind: "talk", why };
    if (textMimes.includes(mime)) return { kind: "text", why };
    if (installerMimes.includes(mime)) return { kind: "installer", why };
    if (compressedMimes.includes(mime)) {
      const inside = kindInside(e.name, ending);
      if (inside) return { kind: inside, why: `it is one compressed file, and its name says what kind of file` };
    }
    if (archiveMimes.includes(mime)) return { kind: "archive", why };
    // A part that other programs load is no program that could be started.
    if (isLibrary.test(e.name)) return { kind: "data", why };
    if (/executable|x-elf|x-mach|x-msdownload/.test(mime)) return { kind: "installer", why };
  }
  const named = kindByEnding.get(ending);
  const byName: KindFound | undefined = named && { kind: named, why: `its name ends in .${ending}` };
  if (e.isText && e.bytes > 0) {
    if (named && byName && ["table", "data", "picture", "text", "archive"].includes(named)) {
      if (named !== "archive" && (named !== "picture" || ending === "svg")) return byName;
    }
    if (e.executable && head.startsWith("#!")) return { kind: "other", why: "it is a script" };
    return { kind: "text", why: "its content is text" };
  }
  if (byName) return byName;
  return { kind: e.bytes === 0 ? "other" : "data", why: e.bytes === 0 ? "it is empty" : "its content is binary" };
}

function isScreenshot(e: Evidence, mime: string): boolean {
  if (e.hasCamera) return false;
  if (screenshotName.test(e.name)) return true;
  return mime === "image/png" && screens.has(`${e.width}x${e.height}`);
}
