"use client";
import { useEffect, useState } from "react";
import type { HomeChoice } from "@/contract/homes";
import { ask } from "./ask";
import { useLive } from "./live";

/** The homes there are, asked for while they are wanted, and anew as soon as anything changed; undefined until then. */
export function useHomes(wanted: boolean): HomeChoice[] | undefined {
  const { say, atOnce } = useLive();
  const [homes, setHomes] = useState<HomeChoice[]>();
  useEffect(() => {
    if (!wanted) return setHomes(undefined);
    let last = 0;
    const load = () => {
      const turn = ++last;
      ask("homes/list", {}).then((list) => turn === last && setHomes(list), say);
    };
    load();
    const end = atOnce(load);
    return () => {
      last = Number.POSITIVE_INFINITY;
      end();
    };
  }, [wanted, say, atOnce]);
  return homes;
}
