"use client";
import { useEffect, useState } from "react";
import type { HomeChoice } from "@/contract/homes";
import { ask } from "./ask";
import { useLive } from "./live";

/** The homes there are, asked for while they are wanted; undefined until then. */
export function useHomes(wanted: boolean): HomeChoice[] | undefined {
  const { say } = useLive();
  const [homes, setHomes] = useState<HomeChoice[]>();
  useEffect(() => {
    if (!wanted) return setHomes(undefined);
    let current = true;
    ask("homes/list", {}).then((list) => current && setHomes(list), say);
    return () => {
      current = false;
    };
  }, [wanted, say]);
  return homes;
}
