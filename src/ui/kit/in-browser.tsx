"use client";
import { type ReactNode, useSyncExternalStore } from "react";

const never = () => () => {};

/**
 * What is drawn in the browser alone. Nothing of a view works without its script, and the server that draws it has files to
 * move: it sends what is to be shown, once.
 */
export function InBrowser({ children }: { children: ReactNode }) {
  const here = useSyncExternalStore(
    never,
    () => true,
    () => false,
  );
  return here ? children : null;
}
