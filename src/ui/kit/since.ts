import { useEffect, useMemo, useState } from "react";
import type { Told } from "@/contract/told";
import type { SheetView, TilesSince, ViewSince } from "@/contract/views";
import { ask as askFor } from "./ask";
import { useLive } from "./live";

/** The things of a sheet as they are now: what is as it was is the very same. */
export const tilesNow = (before: SheetView["tiles"], since: TilesSince): SheetView["tiles"] =>
  since.flatMap((one) => (Array.isArray(one) ? before.slice(one[0], one[0] + one[1]) : [one]));

/** How the desktop and its screen are, since a mark. */
export const sinceMark = (mark: string) => askFor("quiet/since", { mark });

/** A view as it was told with its page; of very many things it is brought up to date by what changed. `ask`: that, since a mark. */
export function useSince<View extends { sheet?: SheetView }>(
  told: Told<View>,
  from: (told: Told<View>) => View,
  ask: (mark: string) => Promise<ViewSince<View>>,
): View {
  const { bringsItself } = useLive();
  const drawn = useMemo(() => from(told), [told, from]);
  const [later, setLater] = useState({ of: drawn, view: drawn });
  const view = later.of === drawn ? later.view : drawn;
  useEffect(() => {
    const { sheet } = view;
    const mark = sheet?.mark;
    if (!sheet || mark === undefined) return;
    return bringsItself(async () => {
      const now = await ask(mark);
      const tiles = tilesNow(sheet.tiles, now.tiles);
      setLater({ of: drawn, view: { ...now.view, sheet: now.view.sheet && { ...now.view.sheet, tiles } } });
    });
  }, [view, drawn, ask, bringsItself]);
  return view;
}
