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

/** What a thing's content looks like. */
export type LookView =
  | { form: "picture" }
  | { form: "text"; lines: string[]; whole: boolean }
  | { form: "table"; sheets: SheetLook[] }
  | { form: "pages"; count: number; text: string }
  | { form: "slides"; count: number; slides: string[][] }
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
  /** Seconds, where the container tells. */
  | { form: "sound"; type: string; seconds?: number }
  | { form: "video"; type: string; seconds?: number }
  /** Its letters are drawn as a picture. */
  | { form: "font" }
  | { form: "folder"; names: string[]; more: number }
  | { form: "link"; target: string; isThere?: boolean }
  | { form: "shortcut"; target: string; isThere: boolean; runs?: string }
  /** What no form reads: the head of its bytes, and why, where that is known. */
  | { form: "bytes"; why?: string; head: { at: number; hex: string; text: string }[] };

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

export interface LooksAnswers {
  "looks/look": LookAnswer;
}
