import fs from "node:fs";
import path from "node:path";
import { buffer } from "node:stream/consumers";
import { pack } from "tar-stream";
import { ZipFile } from "yazl";
import { rawFromText } from "@/core/names/raw";
import { writePosition } from "@/server/db/record";
import { install } from "@/server/install";
import { openEngine } from "@/server/opening";
import { itemsOn } from "@/server/survey/items";
import { firstSettings } from "@/standins/cloud/cloud";
import { writeCloudFile } from "@/standins/cloud/cloud-file";
import { makeDrives } from "@/standins/drive/drives";
import { recordingHead, recordingName, surf } from "@/standins/recording";
import { Chance } from "./chance";
import { call, jpeg, photograph, png, tideMap } from "./draw";
import { eml, fromTemplate, ics, ods, pdf } from "./office";

const day = 86_400_000;

/** Writes files below the account, with their times counted back from now. */
class Sample {
  files = 0;
  bytes = 0;

  constructor(
    readonly root: string,
    readonly now: number,
  ) {}

  at(days: number): Date {
    return new Date(this.now - days * day);
  }

  write(place: string | Buffer, content: string | Buffer, days: number): void {
    const target = Buffer.isBuffer(place) ? Buffer.concat([Buffer.from(`${this.root}/`), place]) : path.join(this.root, place);
    if (!Buffer.isBuffer(target)) fs.mkdirSync(path.dirname(target), { recursive: true });
    fs.writeFileSync(target, content);
    fs.utimesSync(target, this.at(days), this.at(days));
    this.files++;
    this.bytes += content.length;
  }

  link(target: string, place: string, days: number): void {
    fs.symlinkSync(target, path.join(this.root, place));
    fs.lutimesSync(path.join(this.root, place), this.at(days), this.at(days));
  }

  /** A folder's own times, once all is in it. */
  folder(place: string, days: number): void {
    fs.utimesSync(path.join(this.root, place), this.at(days), this.at(days));
  }

  copy(from: string, to: string, days: number): void {
    this.write(to, fs.readFileSync(path.join(this.root, from)), days);
  }
}

const places = ["skarn-north", "skarn-south", "hollow-stack", "gannet-ledge", "lee-harbour"];
const months = ["april", "may", "june", "july", "august", "september", "october"];
const species = ["kittiwake", "guillemot", "razorbill", "fulmar", "shag", "puffin"];

function tideTable(c: Chance, rows: number): string {
  const clock = (minutes: number) =>
    `${String(Math.floor(minutes / 60) % 24).padStart(2, "0")}:${String(Math.floor(minutes) % 60).padStart(2, "0")}`;
  let text = "date,first high,height m,second high,height m\n";
  const start = c.between(60, 240);
  for (let n = 1; n <= rows; n++) {
    const at = start + n * 49;
    text += `${String(n).padStart(2, "0")},${clock(at)},${(2.1 + Math.sin(n / 2.3) * 0.8).toFixed(2)},${clock(at + 745)},${(2 + Math.sin(n / 2.3 + 0.3) * 0.8).toFixed(2)}\n`;
  }
  return text;
}

function ringList(c: Chance, rows: number): string {
  let text = "ring,species,ledge,wing mm,weight g,note\n";
  for (let n = 0; n < rows; n++)
    text += `SK${c.whole(10000, 99999)},${c.one(species)},${c.one(["A", "B", "C", "D", "E"])}${c.whole(1, 40)},${c.whole(150, 330)},${c.whole(300, 1100)},${c.one(["", "", "", "recovered", "worn ring", "chick"])}\n`;
  return text;
}

function loggerDump(c: Chance, rows: number): string {
  let text = "time,temperature C,pressure hPa,humidity %\n";
  for (let n = 0; n < rows; n++)
    text += `${String(Math.floor(n / 6) % 24).padStart(2, "0")}:${String((n % 6) * 10).padStart(2, "0")},${c.between(4, 17).toFixed(1)},${c.between(985, 1030).toFixed(1)},${c.whole(55, 99)}\n`;
  return text;
}

function track(c: Chance, name: string): string {
  let text = `<?xml version="1.0" encoding="UTF-8"?>\n<gpx version="1.1" creator="field unit" xmlns="http://www.topografix.com/GPX/1/1">\n<trk><name>${name}</name><trkseg>\n`;
  let [lat, lon] = [c.between(61, 61.2), c.between(-9, -8.8)];
  for (let n = 0; n < 120; n++) {
    lat += c.between(-0.0004, 0.0004);
    lon += c.between(-0.0004, 0.0004);
    text += `<trkpt lat="${lat.toFixed(6)}" lon="${lon.toFixed(6)}"><ele>${c.whole(2, 180)}</ele></trkpt>\n`;
  }
  return `${text}</trkseg></trk>\n</gpx>\n`;
}

const sentences = [
  "The north ledge was counted twice, at low water and at dusk.",
  "Ring recoveries came from the lee side for the most part.",
  "The gauge at the harbour stood still for two days after the storm.",
  "We ask for one more season on the island, with two people.",
  "Chicks on the hollow stack fledged nine days later than last year.",
  "The logger was read out, cleaned and set back in its box.",
];

function prose(c: Chance, paragraphs: number, title: string): string {
  return `# ${title}\n\n${Array.from({ length: paragraphs }, () => Array.from({ length: c.whole(2, 5) }, () => c.one(sentences)).join(" ")).join("\n\n")}\n`;
}

function zip(entries: [string, Buffer][]): Promise<Buffer> {
  const file = new ZipFile();
  for (const [name, content] of entries) file.addBuffer(content, name, { mtime: new Date(2026, 5, 1) });
  file.end();
  return buffer(file.outputStream);
}

function tar(entries: [string, Buffer][]): Promise<Buffer> {
  const packed = pack();
  for (const [name, content] of entries) packed.entry({ name, mtime: new Date(2026, 5, 1) }, content);
  packed.finalize();
  return buffer(packed);
}

/** A package of Debian's (deb(5)) that would install a program of so many kilobytes. */
async function installer(c: Chance, file: string, kilobytes: number): Promise<Buffer> {
  const [name = file, version = "1"] = file.split("_");
  const member = (called: string, content: Buffer) =>
    Buffer.concat([
      Buffer.from(`${called.padEnd(16)}0           0     0     100644  ${String(content.length).padEnd(10)}\`\n`),
      content,
      Buffer.alloc(content.length % 2, 10),
    ]);
  const control = `Package: ${name}\nVersion: ${version}\nArchitecture: amd64\nMaintainer: Skarn station <all@station.example>\nDescription: ${name.replace("-", " ")} of the station\n`;
  const noise = Buffer.from(Array.from({ length: kilobytes * 1024 }, () => c.whole(0, 255)));
  return Buffer.concat([
    Buffer.from("!<arch>\n"),
    member("debian-binary", Buffer.from("2.0\n")),
    member("control.tar", await tar([["./control", Buffer.from(control)]])),
    member("data.tar", await tar([[`./usr/bin/${name}`, noise]])),
  ]);
}

const shortcut = (name: string, exec: string, category = "") =>
  `[Desktop Entry]\nType=Application\nVersion=1.5\nName=${name}\nExec=${exec}\nTerminal=false\n${category && `Categories=${category};\n`}`;

/** The programs of the station: what each is for, and how many days ago it was last used, where it says. */
const programs: { name: string; category: string; usedDays?: number }[] = [
  { name: "tide-plotter", category: "Science", usedDays: 1 },
  { name: "ring-reader", category: "Science", usedDays: 4 },
  { name: "wave-editor", category: "AudioVideo", usedDays: 190 },
  { name: "map-sheet", category: "Graphics", usedDays: 140 },
  { name: "mail-desk", category: "Office", usedDays: 1 },
  { name: "camera-import", category: "Graphics", usedDays: 240 },
  { name: "log-sheet", category: "Science" },
];
const webLink = (name: string, address: string) => `[Desktop Entry]\nType=Link\nVersion=1.5\nName=${name}\nURL=${address}\n`;

async function fillHomes(s: Sample): Promise<void> {
  const c = new Chance(12);
  for (let n = 0; n < 60; n++)
    s.write(
      `Documents/Station/Tides/high-water-${places[n % 5]}-${months[Math.floor(n / 5) % 7]}${n >= 35 ? "-2025" : ""}.csv`,
      tideTable(c, 30),
      40 + n * 9,
    );
  for (let n = 0; n < 40; n++)
    s.write(`Documents/Station/Weather/weather-week-${String(n + 1).padStart(2, "0")}.csv`, loggerDump(c, 60), 30 + n * 7);
  // Far too wide: two years of dumps in one folder.
  for (let n = 0; n < 240; n++)
    s.write(
      `Documents/Station/Logger/logger-${places[n % 5]}-${String(n + 1).padStart(3, "0")}.csv`,
      loggerDump(c, n < 30 ? 144 : 24),
      20 + n * 3,
    );
  for (let n = 0; n < 36; n++)
    s.write(
      `Documents/Season 12/Fieldwork/ring-list-week-${String(14 + (n % 24)).padStart(2, "0")}-${c.one(species)}-${n}.csv`,
      ringList(c, 25),
      15 + n * 5,
    );
  for (let n = 0; n < 24; n++)
    s.write(`Documents/Season 12/Ring recoveries/recovery-${c.one(species)}-${100 + n}.csv`, ringList(c, 8), 10 + n * 6);
  for (let n = 0; n < 14; n++)
    s.write(`Documents/Season 12/Tracks/track-${places[n % 5]}-${n + 1}.gpx`, track(c, `round ${n}`), 25 + n * 6);
  for (let n = 0; n < 30; n++)
    s.write(`Documents/Season 11/Fieldwork/ring-list-2025-week-${14 + (n % 24)}-${n}.csv`, ringList(c, 20), 380 + n * 4);
  for (let n = 0; n < 12; n++)
    s.write(`Documents/Reports/Grant/grant-report-2025-v${n + 1}.md`, prose(c, 6 + n, "Grant report"), 400 - n * 4);
  for (let n = 0; n < 16; n++)
    s.write(`Documents/Reports/Annual/annual-report-${2010 + n}.md`, prose(c, 8, `Annual report ${2010 + n}`), 300 + n * 365);
  for (let n = 0; n < 14; n++)
    s.write(`Documents/Teaching/Handouts/handout-${c.one(species)}-${n + 1}.md`, prose(c, 3, "Handout"), 60 + n * 20);
  for (let n = 0; n < 12; n++)
    s.write(`Documents/Teaching/Talks/talk-notes-${c.one(species)}-${n + 1}.txt`, prose(c, 4, "Talk"), 90 + n * 25);
  for (let n = 0; n < 20; n++)
    s.write(
      `Documents/Letters/letter-${c.one(["harbour", "council", "museum", "school"])}-${n + 1}.txt`,
      prose(c, 2, "Letter"),
      50 + n * 15,
    );
  for (let n = 0; n < 18; n++)
    s.write(
      `Documents/Accounts/invoice-${2024 + (n % 3)}-${String(n + 1).padStart(3, "0")}.txt`,
      prose(c, 1, "Invoice"),
      30 + n * 28,
    );
  for (let n = 0; n < 10; n++) s.write(`Documents/Maps/map-${places[n % 5]}-${n + 1}.svg`, tideMap(n, 400, 300), 200 + n * 10);
  const small = async (folder: string, stem: string, count: number, first: number, days: number) => {
    for (let n = 0; n < count; n++) {
      const scene = first + n;
      s.write(
        `${folder}/${stem}-${String.fromCharCode(65 + (n % 6))}-${200 + n}.jpg`,
        await jpeg(photograph(scene, 0, 240, 160), s.at(days + n)),
        days + n,
      );
    }
  };
  await small("Pictures/Season 12/Nest photographs", "nest", 40, 2000, 45);
  await small("Pictures/Season 12/Cliffs", "cliff", 24, 3000, 45);
  await small("Pictures/Season 11/Nest photographs", "nest-2025", 30, 4000, 400);
  for (let n = 0; n < 12; n++)
    s.write(
      `Pictures/Screens/screen-2026-0${1 + (n % 8)}-${10 + n}-1012.png`,
      await png(tideMap(700 + n, 640, 400)),
      100 + n * 12,
    );
  for (let n = 0; n < 18; n++)
    s.write(`Music/Calls/call-${species[n % 6]}-${String(n + 1).padStart(2, "0")}.wav`, call(n, 0.4), 60 + n * 6);
  for (let n = 0; n < 8; n++) s.write(`Documents/Station/Stores/stores-list-${n + 1}.txt`, prose(c, 1, "Stores"), 120 + n * 30);
}

async function fillDesktop(s: Sample): Promise<void> {
  const c = new Chance(34);
  const on = (name: string) => `Desktop/${name}`;
  for (let burst = 0; burst < 7; burst++)
    for (let frame = 0; frame < 4; frame++) {
      const days = 12 + burst * 9;
      const taken = new Date(s.at(days).getTime() + frame * 2000);
      s.write(
        on(`nest-${String.fromCharCode(65 + (burst % 6))}-${310 + burst * 12 + frame}.jpg`),
        await jpeg(photograph(50 + burst, frame, 1600, 1067), taken),
        days - frame / 40_000,
      );
    }
  for (let n = 0; n < 9; n++)
    s.write(
      on(`cliff-${places[n % 5]}-${n + 1}.jpg`),
      await jpeg(photograph(80 + n, 0, 1440, 960), s.at(20 + n * 14)),
      20 + n * 14,
    );
  for (let n = 0; n < 13; n++) {
    const at = s.at(2 + n * 6);
    const stamp = `${at.toISOString().slice(0, 10)}-${String(8 + (n % 9)).padStart(2, "0")}14`;
    s.write(on(`screen-${stamp}.png`), await png(tideMap(100 + n, 1280, 800)), 2 + n * 6);
  }
  for (let n = 0; n < 8; n++) s.write(on(`ring-list-week-${36 + n}-${species[n % 6]}.csv`), ringList(c, 30), 3 + n * 7);
  for (let n = 0; n < 6; n++)
    s.write(on(`high-water-${places[n % 5]}-${months[(n + 4) % 7]}${n > 4 ? "-new" : ""}.csv`), tideTable(c, 31), 5 + n * 11);
  for (let n = 0; n < 4; n++) s.write(on(`recovery-${species[n]}-${140 + n}.csv`), ringList(c, 9), 6 + n * 3);
  for (let n = 1; n <= 7; n++)
    s.write(on(`grant-report-v${n}${n === 7 ? "-final" : ""}.md`), prose(new Chance(77), 3 + n * 2, "Grant report"), 40 - n * 4);
  for (let n = 0; n < 4; n++) s.write(on(`track-${places[n]}-round.gpx`), track(c, "round"), 14 + n * 10);
  for (let n = 0; n < 6; n++) s.write(on(`call-survey-${String(n + 1).padStart(2, "0")}.wav`), call(200 + n, 3), 4 + n * 8);

  const dump: [string, Buffer][] = Array.from({ length: 8 }, (_, n) => [
    `logger-lee-harbour/day-${n + 1}.csv`,
    Buffer.from(loggerDump(new Chance(300 + n), 144)),
  ]);
  s.write(on("logger-lee-harbour.zip"), await zip(dump), 33);
  for (const [name, content] of dump) s.write(on(name), content, 33);
  const changed: [string, Buffer][] = Array.from({ length: 6 }, (_, n) => [
    `logger-gannet-ledge/day-${n + 1}.csv`,
    Buffer.from(loggerDump(new Chance(400 + n), 144)),
  ]);
  s.write(on("logger-gannet-ledge.zip"), await zip(changed), 51);
  for (const [n, [name, content]] of changed.entries())
    s.write(on(name), n === 2 ? `${content.toString()}23:50,9.9,1001.0,80\n` : content, 51);

  s.write(on("tide-plotter_4.2_amd64.deb"), await installer(c, "tide-plotter_4.2_amd64.deb", 180), 150);
  s.write(on("ring-reader_1.9_amd64.deb"), await installer(c, "ring-reader_1.9_amd64.deb", 120), 210);
  s.write(on("wave-editor_2.0_amd64.deb"), await installer(c, "wave-editor_2.0_amd64.deb", 90), 12);
  s.write(on("season-archive-2024.tar.gz.part"), Buffer.alloc(400_000, 7), 30);
  s.write(on("bathymetry-skarn.crdownload"), Buffer.alloc(250_000, 0x93), 44);
  s.write(on("notes.txt"), "", 18);
  s.write(on("untitled"), "", 61);
  s.write(on("ring-list-week-35.csv.tmp"), ringList(c, 3), 70);
  s.write(on("stores.txt~"), prose(c, 1, "Stores"), 90);

  for (const [n, { name, category }] of programs.entries())
    s.write(
      on(`${name}.desktop`),
      shortcut(name.replace("-", " "), path.join(s.root, ".local/bin", name), category),
      130 + n * 20,
    );
  for (const [n, name] of ["old-gauge-reader", "field-modem", "slide-scanner", "station-chat"].entries())
    s.write(on(`${name}.desktop`), shortcut(name, path.join(s.root, ".local/bin", name)), 400 + n * 30);
  s.write(
    on(
      "The programme that reads the gauge at the lee harbour and draws its curve beside the predicted tide (do not delete).desktop",
    ),
    shortcut("gauge", path.join(s.root, ".local/bin/tide-plotter")),
    260,
  );
  s.link("../Documents/Season 12/Fieldwork", on("fieldwork now"), 16);
  s.link("../Documents/Season 9", on("season 9 photographs"), 340);
  for (const [n, name] of [
    "harbour tides",
    "ring office",
    "bird call library",
    "ferry times",
    "grant portal",
    "weather for skarn",
  ].entries())
    s.write(
      on(n % 2 ? `${name}.url` : `${name}.desktop`),
      n % 2 ? `[InternetShortcut]\r\nURL=https://example.org/${n}\r\n` : webLink(name, `https://example.org/${n}`),
      80 + n * 17,
    );

  for (let n = 0; n < 6; n++) s.write(on(`kittiwake paper/draft-${n + 1}.md`), prose(c, 5 + n, "Kittiwakes"), 9 + n);
  for (let n = 0; n < 5; n++) s.write(on(`open day/poster-${n + 1}.svg`), tideMap(900 + n, 600, 800), 6 + n);
  for (const [name, days] of [
    ["logger-lee-harbour", 33],
    ["logger-gannet-ledge", 51],
    ["kittiwake paper", 9],
    ["open day", 6],
  ] as const)
    s.folder(on(name), days);
  s.write(on("poster-open-day.png"), await png(photograph(120, 0, 900, 1200)), 8);
  s.write(on("letter-council-harbour.txt"), prose(c, 2, "Letter"), 13);
  s.write(on("letter-museum-loan.txt"), prose(c, 2, "Letter"), 37);
  s.write(on("invoice-2026-019.txt"), prose(c, 1, "Invoice"), 21);
  s.write(on("handout-puffin-school.md"), prose(c, 3, "Handout"), 29);
  s.write(on("shopping for the boat.txt"), "rope\nlamp oil\nbatteries\ntea\n", 2);

  const [, ...text] = prose(c, 9, "Grant report").trim().split("\n\n");
  s.write(on("grant-report-v7-final.docx"), await fromTemplate("grant-report.docx", "Grant report", s.at(11)), 11);
  s.write(on("grant-report-v7-final.pdf"), pdf("Grant report", [text.slice(0, 5), text.slice(5)].map(wrapped)), 10);
  s.write(on("rota-season-13.docx"), await fromTemplate("rota.docx", "Rota", s.at(24)), 24);
  s.write(on("ring-totals-2026.xlsx"), await fromTemplate("ring-totals.xlsx", "Ring totals", s.at(7)), 7);
  s.write(
    on("stores-count.ods"),
    await ods("stores", [
      ["thing", "count"],
      ["rope", 4],
      ["lamp oil", 11],
      ["batteries", 64],
    ]),
    19,
  );
  s.write(on("open-day-talk.pptx"), await fromTemplate("open-day-talk.pptx", "Open day", s.at(26)), 26);
  s.write(
    on("Re ringing on Thursday.eml"),
    eml(
      {
        from: "Ada Fulmar <ada@station.example>",
        to: "all@station.example",
        subject: "Re: ringing on Thursday",
        at: s.at(5),
        lines: ["We meet at six at the lee harbour.", "Bring gloves, and the list that is attached."],
      },
      { name: "ring-list.csv", content: Buffer.from(ringList(c, 12)) },
    ),
    5,
  );
  s.write(on("supply-boat.ics"), ics("Supply boat", "Lee harbour", s.at(-9), 2), 17);
  s.write(on("gulls-at-the-gauge.webm"), fs.readFileSync(install("src/demo/gulls.webm")), 16);
  s.write(
    on("field-notes.rtf"),
    "{\\rtf1\\ansi\\ansicpg1252 {\\b North ledge}\\par Counted twice, at low water and at dusk.\\par}",
    28,
  );
  s.write(
    on("read-logger.py"),
    "# Reads the logger's dump and tells the coldest hour.\nimport csv, sys\n\nrows = list(csv.DictReader(open(sys.argv[1])))\nprint(min(rows, key=lambda row: float(row['temperature C'])))\n",
    120,
  );
  // What a program has open: a document with its lock file, and a recording that is written on while the demo runs.
  s.write(on("kittiwake-talk.md"), prose(c, 3, "Kittiwake talk"), 1);
  s.write(on(".~lock.kittiwake-talk.md#"), ",station,skarn,01.06.2026 09:00,;", 0);
  s.write(on(recordingName), Buffer.concat([recordingHead(), ...Array.from({ length: 5 }, (_, n) => surf(n))]), 0);

  // Hard names: longest, right to left, signs, a line break, no text at all, two ways to write one letter, a dash in front.
  s.write(on(`${"count-of-nests-on-the-north-ledge-".repeat(8).slice(0, 251)}.txt`), "long\n", 55);
  s.write(on("ספירת קנים.txt"), "right to left\n", 47);
  s.write(on("🐧 not from here.txt"), "signs\n", 35);
  s.write(on("two\nlines.txt"), "line break\n", 65);
  s.write(Buffer.concat([Buffer.from("Desktop/caf"), Buffer.from([0xe9]), Buffer.from("-menu.txt")]), "latin-1 name\n", 75);
  s.write(on("b\u00f6e.txt"), "composed\n", 58);
  s.write(on("bo\u0308e.txt"), "decomposed\n", 59);
  s.write(on("--help.txt"), "dash\n", 31);
  s.write(on("100% sure? <b>.txt"), "markup\n", 22);
}

/** Lines that fit a page. */
const wrapped = (paragraphs: string[]): string[] =>
  paragraphs.flatMap((text) => [...(text.match(/.{1,82}(\s|$)/g) ?? []).map((line) => line.trim()), ""]);

async function fillDownloads(s: Sample): Promise<void> {
  const c = new Chance(56);
  const into = (name: string) => `Downloads/${name}`;
  for (let n = 0; n < 12; n++)
    s.write(into(`tide-prediction-${months[n % 7]}${n > 6 ? ` (${n - 5})` : ""}.csv`), tideTable(c, 30), 3 + n * 12);
  for (let n = 0; n < 8; n++)
    s.write(into(`shared-photo-${n + 1}.jpg`), await jpeg(photograph(160 + n, 0, 900, 600), s.at(10 + n * 9)), 10 + n * 9);
  for (let n = 0; n < 7; n++) s.write(into(`statement-${2026 - n}.txt`), prose(c, 2, "Statement"), 40 + n * 50);
  for (let n = 0; n < 5; n++) s.write(into(`species-sheet-${species[n]}.md`), prose(c, 4, species[n]!), 15 + n * 20);
  for (let n = 0; n < 3; n++) s.write(into(`weather-week-${41 + n}.csv`), loggerDump(c, 60), 4 + n * 7);
  s.write(into("map-sheet_3.1_amd64.deb"), await installer(c, "map-sheet_3.1_amd64.deb", 100), 95);
  s.write(into("camera-import_1.2_amd64.deb"), await installer(c, "camera-import_1.2_amd64.deb", 60), 180);
  s.write(into("calls-pack.zip.part"), Buffer.alloc(300_000, 3), 25);
  s.copy("Desktop/grant-report-v7-final.md", into("grant-report-v7-final.md"), 11);
  s.copy("Desktop/nest-A-310.jpg", into("nest-A-310.jpg"), 10);
  s.copy("Desktop/nest-A-310.jpg", into("nest-A-310 (1).jpg"), 9);
  s.copy("Documents/Station/Tides/high-water-skarn-north-april.csv", into("high-water-skarn-north-april.csv"), 28);
  s.copy("Music/Calls/call-kittiwake-01.wav", into("call.wav"), 26);
}

function fillPrograms(s: Sample): void {
  for (const { name, category } of programs) {
    s.write(`.local/bin/${name}`, "#!/bin/sh\nexit 0\n", 300);
    fs.chmodSync(path.join(s.root, ".local/bin", name), 0o755);
    s.write(
      `.local/share/applications/${name}.desktop`,
      shortcut(name.replace("-", " "), path.join(s.root, ".local/bin", name), category),
      300,
    );
  }
  const noted = programs.flatMap(({ name, usedDays }) =>
    usedDays === undefined ? [] : [{ name, at: s.at(usedDays).toISOString() }],
  );
  s.write(".local/share/recently-used.xbel", recentlyUsed(s.root, noted), 1);
}

/** What programs note of the files they opened (Desktop Bookmark Specification). */
function recentlyUsed(root: string, noted: { name: string; at: string }[]): string {
  const marks = noted.map(({ name, at }) => {
    const file = `file://${encodeURI(path.join(root, "Documents", name))}`;
    const exec = `&apos;${path.join(root, ".local/bin", name)} %u&apos;`;
    return `  <bookmark href="${file}" added="${at}" modified="${at}" visited="${at}">
    <info>
      <metadata owner="http://freedesktop.org">
        <mime:mime-type type="text/plain"/>
        <bookmark:applications>
          <bookmark:application name="${name}" exec="${exec}" modified="${at}" count="3"/>
        </bookmark:applications>
      </metadata>
    </info>
  </bookmark>`;
  });
  return `<?xml version="1.0" encoding="UTF-8"?>
<xbel version="1.0" xmlns:bookmark="http://www.freedesktop.org/standards/desktop-bookmarks" xmlns:mime="http://www.freedesktop.org/standards/shared-mime-info">
${marks.join("\n")}
</xbel>
`;
}

function fillTrash(s: Sample): void {
  const stamp = (days: number) => s.at(days).toISOString().slice(0, 19);
  for (const [name, days] of [
    ["old-rota.txt", 9],
    ["blurred-nest.txt", 20],
    ["draft letter.txt", 31],
  ] as const) {
    s.write(`.local/share/Trash/files/${name}`, `${name}\n`, days + 100);
    s.write(
      `.local/share/Trash/info/${name}.trashinfo`,
      `[Trash Info]\nPath=${encodeURI(path.join(s.root, "Desktop", name))}\nDeletionDate=${stamp(days)}\n`,
      days,
    );
  }
  fs.chmodSync(path.join(s.root, ".local/share/Trash"), 0o700);
}

/** Icons where a person would have dropped them: most near a grid, some on top of others. */
function scatter(c: Chance): { x: number; y: number } {
  const nearGrid = c.next() < 0.72;
  const x = nearGrid ? 28 + c.whole(0, 16) * 110 + c.between(-9, 9) : c.between(20, 1780);
  const y = nearGrid ? 20 + c.whole(0, 8) * 116 + c.between(-7, 7) : c.between(10, 940);
  return { x: Math.round(x), y: Math.round(y) };
}

/**
 * Makes the sample account: a made-up seabird station at the end of its season, real files from a seed, ages counted back
 * from `now` (milliseconds since 1970). Its desktop gets positions; its data folder is marked as the sample's.
 */
export async function makeSample(folder: string, data: string, now: number): Promise<{ files: number; bytes: number }> {
  const root = path.join(folder, "account");
  // Whatever an interrupted making left is no account yet.
  fs.rmSync(root, { recursive: true, force: true });
  fs.mkdirSync(path.join(root, "Desktop"), { recursive: true });
  fs.mkdirSync(path.join(root, "Downloads"));
  const s = new Sample(root, now);
  s.write(
    ".config/user-dirs.dirs",
    ["DESKTOP=Desktop", "DOWNLOAD=Downloads", "DOCUMENTS=Documents", "PICTURES=Pictures", "MUSIC=Music", "VIDEOS=Videos"]
      .map((d) => `XDG_${d.split("=")[0]}_DIR="$HOME/${d.split("=")[1]}"`)
      .join("\n"),
    300,
  );
  fs.mkdirSync(path.join(root, "Videos"));
  await fillHomes(s);
  await fillDesktop(s);
  await fillDownloads(s);
  fillPrograms(s);
  fillTrash(s);
  // A folder outside the account that can serve as a depot at once.
  fs.mkdirSync(path.join(folder, "station-disk"), { recursive: true });
  makeDrives(folder);
  fs.mkdirSync(path.join(folder, "station-cloud"), { recursive: true });

  fs.mkdirSync(data, { recursive: true, mode: 0o700 });
  fs.writeFileSync(path.join(data, "sample"), "");
  const engine = await openEngine({ root: rawFromText(root), data });
  try {
    await engine.lookAgain("worktops");
    // All that lies on the desktop is a little more than it takes.
    // A name of other bytes than text is not found so; it is a few bytes long.
    const sizeOf = (file: string) => fs.lstatSync(file, { throwIfNoEntry: false })?.size ?? 0;
    const onDesktop = fs
      .readdirSync(path.join(root, "Desktop"), { recursive: true, withFileTypes: true })
      .reduce((sum, entry) => sum + (entry.isFile() ? sizeOf(path.join(entry.parentPath, entry.name)) : 0), 0);
    const cloudFile = path.join(folder, "station-cloud.json");
    writeCloudFile(cloudFile, { settings: { ...firstSettings, quota: Math.round((0.92 * onDesktop) / 1e6) * 1e6 } });
    const c = new Chance(90);
    engine.db.transaction(() => {
      for (const item of itemsOn(engine.db, "desktop")) writePosition(engine.db, item.id, scatter(c));
      // The files were made just now; on this desktop they arrived when they were last changed.
      engine.db.exec("UPDATE item SET arrived_at = CAST(mtime_ns AS INTEGER) / 1000000");
    })();
  } finally {
    await engine.close();
  }
  return { files: s.files, bytes: s.bytes };
}
