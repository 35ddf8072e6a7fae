import { shownName, textOfRaw } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import type { Account } from "../account";
import { install } from "../install";

/** The words that run a command of Vuoto for an account, from wherever it is started. @throws where its name is no text */
export function commandWords({ root, data }: Pick<Account, "root" | "data">): string[] {
  const text = textOfRaw(root);
  if (text === undefined) throw new Problem("bad-name", { name: shownName(root) });
  // With its record: another one of the same account would know nothing of this one's acts.
  return [process.execPath, install("bin/vuoto.mjs"), "--account", text, "--data", data];
}

/** Words as a POSIX shell takes them for just these: quoted where one needs it (Shell Command Language, 2.2.2). */
export const shellLine = (words: readonly string[]): string =>
  words.map((word) => (/^[\w@%+=:,./-]+$/.test(word) ? word : `'${word.replaceAll("'", "'\\''")}'`)).join(" ");
