"use client";
import { usePathname } from "next/navigation";
import { useEffect } from "react";
import { useLive } from "../kit/live";
import { awayWords } from "../quiet/away-words";

/** The page's title and its icon say whether it is quiet: they are seen while another page is in front. */
export function TabSign() {
  const { level, outOfSight, believed } = useLive().frame;
  // Going to another page writes the title anew.
  const path = usePathname();
  return level !== "everything" || outOfSight > 0 ? (
    <Sign key={path} words={`${awayWords(outOfSight, believed)} · Vuoto`} />
  ) : null;
}

function Sign({ words }: { words: string }) {
  useEffect(() => {
    const before = document.title;
    document.title = words;
    return () => {
      document.title = before;
    };
  }, [words]);
  useEffect(() => {
    const icon = document.querySelector<HTMLLinkElement>("link[rel=icon]");
    const before = icon?.href;
    if (icon) icon.href = "/icon-quiet.svg";
    return () => {
      if (icon && before) icon.href = before;
    };
  }, []);
  return null;
}
