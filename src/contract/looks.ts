import { z } from "zod";
import type { Kind } from "@/core/survey/kinds";
import { itemRef } from "./items";

/** A sheet of a table: how large it is, and its beginning. */
export interface SheetLook {
  name: string;
  /** Missing where the table was not read to its end. */
  rows?: number;
  columns: number;
  cells: string[][];
}

export interface ArchiveEntry {
  name: string;
  bytes: number;
  folder?: true;
}

/** The tones of code: what a run of letters is there for. */
export const tones = ["plain", "word", "text", "number", "remark", "name"] as const;
export type Tone = (typeof tones)[number];

export interface SoundTags {
  title?: string;
  artist?: string;
  album?: string;
}

/** One thing in a folder. */
export interface FolderEntry {
  name: string;
  kind: Kind;
  bytes: number;
  /** Milliseconds since 1970. */
  mtimeMs: number;
}

/** What a thing's content looks like. */
export type LookView =
  | { form: "picture" }
  | {
      form: "text";
      lines: string[];
      whole: boolean;
      /** It is Markdown, and can be drawn. */
      markdown?: true;
      /** Of code: for each line runs of letters of one tone. */
      tones?: [tone: Tone, letters: number][][];
    }
  | { form: "table"; sheets: SheetLook[] }
  | { form: "pages"; count: number; text: string }
  | { form: "slides"; count: number; slides: { lines: string[]; pictures: string[] }[] }
  | {
      form: "letter";
      from: string;
      to: string;
      /** Milliseconds since 1970. */
      date?: number;
      subject: string;
      lines: string[];
      whole: boolean;
      attachments: { name: string; bytes: number }[];
    }
  | {
      form: "archive";
      entries: ArchiveEntry[];
      count: number;
      /** What all of it takes, unpacked. */
      bytes: number;
      /** It was listed to its end. */
      whole: boolean;
      locked?: boolean;
      /** Of what would be installed: what it is, and the version that is there. */
      program?: { name: string; version: string; words: string; there?: string };
    }
  | {
      form: "track";
      /** Ways as points in a square of 1000 by 1000, from the upper left. */
      ways: [x: number, y: number][][];
      points: number;
      metres: number;
      from?: number;
      to?: number;
      /** The width of the square, in metres. */
      width: number;
    }
  /** Seconds, where the container tells; the loudest of each part, from 0 to 255; what its tags say. */
  | { form: "sound"; type: string; seconds?: number; wave?: number[]; tags?: SoundTags }
  | { form: "video"; type: string; seconds?: number }
  /** Its letters are drawn as a picture. */
  | { form: "font" }
  | { form: "folder"; entries: FolderEntry[]; count: number; hidden: number; kinds: [Kind, number][] }
  | { form: "link"; target: string; isThere?: boolean }
  | { form: "shortcut"; target: string; isThere: boolean; runs?: string }
  /** What no form reads: the head of its bytes, and why, where that is known. */
  | { form: "bytes"; why?: string; head: { at: number; hex: string; text: string }[] };

/** What is needed to show a thing's content. */
export interface Shown {
  id: string;
  name: string;
  kind: Kind;
  facts: string[];
  look: LookView;
  /** It is not read yet: it takes a while, and can be waited for. */
  late?: true;
}

/** One thing looked at, by command: however long it takes. */
export const lookInput = z.object({ item: itemRef });

/** What a look told, as data; by its form the counts and the beginning of what there is. */
export interface LookAnswer {
  name: string;
  path: string;
  form: LookView["form"];
  kind: Kind;
  facts: string[];
  pages?: number;
  sheets?: { name: string; rows?: number; columns: number }[];
  /** Of an archive. */
  entries?: number;
  /** Of a sound or a video. */
  seconds?: number;
  /** Pixels of a picture. */
  width?: number;
  height?: number;
  /** The first 2,000 characters. */
  text?: string;
  /** Why it could not be shown, where that is known. */
  why?: string;
}

/** A thing, and the program that was shown, by its desktop file's id. */
export const inProgramInput = z.object({ item: z.string().min(1).max(64), program: z.string().min(1).max(255) });

/** The program that would open a thing, and its argument list. */
export interface ProgramAnswer {
  id: string;
  title: string;
  runs: string[];
}

export interface LooksAnswers {
  "looks/look": LookAnswer;
  "looks/program": ProgramAnswer;
  "looks/in-program": { started: string };
}
