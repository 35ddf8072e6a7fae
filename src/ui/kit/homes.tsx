"use client";
import { createContext, type ReactNode, useContext } from "react";
import type { HomeChoice } from "@/contract/views";

const HomesContext = createContext<HomeChoice[]>([]);

/** The homes there are, for whatever lets a person pick one. */
export const useHomes = () => useContext(HomesContext);

export function HomesProvider({ homes, children }: { homes: HomeChoice[]; children: ReactNode }) {
  return <HomesContext.Provider value={homes}>{children}</HomesContext.Provider>;
}
