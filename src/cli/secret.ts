import fs from "node:fs";
import { Problem } from "@/core/problem";

const most = 5000;

/** The first line of a file, or of the standard input where that is `-`: a password is never a word of the command line. */
export function secretFrom(file: string): string {
  let text: string;
  try {
    text = fs.readFileSync(file === "-" ? 0 : file, "utf8");
  } catch {
    throw new Problem("bad-words", { detail: `The password file ${file} cannot be read.` });
  }
  const line = text.split(/\r?\n/)[0]!;
  if (line.length > most) throw new Problem("bad-words", { detail: "That is too long for a password." });
  return line;
}
