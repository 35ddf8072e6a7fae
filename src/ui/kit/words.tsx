"use client";
import { createContext, type ReactNode, useContext, useState } from "react";
import type { Tile, WordsOf } from "@/contract/views";
import { makeWords, type Words } from "@/core/words/words";

const WordsContext = createContext<Words | undefined>(undefined);

/** Numbers, sizes and dates in words, as the server would say them. */
export function useWords(): Words {
  const words = useContext(WordsContext);
  if (!words) throw new Error("outside the frame");
  return words;
}

/** "3 minutes ago" may be behind by so much before everything is said anew. */
const behind = 10 * 60_000;

export function WordsProvider({ of, children }: { of: WordsOf; children: ReactNode }) {
  const [said, setSaid] = useState(() => ({ of, words: makeWords(of.locale, of.timeZone, of.now) }));
  if (of.now - said.of.now > behind) setSaid({ of, words: makeWords(of.locale, of.timeZone, of.now) });
  return <WordsContext.Provider value={said.words}>{children}</WordsContext.Provider>;
}

/** How large a thing is: a folder by what lies in it. */
export const tileSize = (tile: Pick<Tile, "entries" | "bytes">, words: Words): string =>
  tile.entries === undefined ? words.bytes(tile.bytes) : words.counted(tile.entries, "entry", "entries");
