"use client";
import { usePathname } from "next/navigation";
import { useLive } from "../kit/live";
import { awayWords } from "../quiet/away-words";

/**
 * The page's title and its icon: which view it is, and whether it is quiet, which is seen while another page is in front.
 * Both are written here alone: a title that Next.js wrote would be set again with each refresh of the view.
 */
export function TabSign() {
  const { level, outOfSight, believed } = useLive().frame;
  const view = usePathname().split("/")[1];
  const quiet = level !== "everything" || outOfSight > 0;
  return (
    <>
      <title>{[...(quiet ? [awayWords(outOfSight, believed)] : []), view, "Vuoto"].join(" · ")}</title>
      <link rel="icon" href={quiet ? "/icon-quiet.svg" : "/icon.svg"} type="image/svg+xml" />
    </>
  );
}
