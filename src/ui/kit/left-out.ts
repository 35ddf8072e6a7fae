import { useState } from "react";

/** Which of some things are left out of what is about to be done, and how one is left out or taken in again. */
export function useLeftOut(): [ReadonlySet<string>, (id: string) => void] {
  const [leftOut, setLeftOut] = useState<ReadonlySet<string>>(new Set());
  const toggle = (id: string) =>
    setLeftOut((before) => {
      const next = new Set(before);
      if (!next.delete(id)) next.add(id);
      return next;
    });
  return [leftOut, toggle];
}
