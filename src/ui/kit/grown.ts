import { useCallback, useSyncExternalStore } from "react";

/** Sizes of things that grew since the page was drawn, in bytes, by id: told with the event, so that nothing is asked for them. */
let sizes: ReadonlyMap<string, number> = new Map();
const listeners = new Set<() => void>();

export function noteGrown(items: readonly { id: string; bytes: number }[]): void {
  sizes = new Map([...sizes, ...items.map(({ id, bytes }) => [id, bytes] as const)]);
  for (const listener of listeners) listener();
}

function subscribe(listener: () => void): () => void {
  listeners.add(listener);
  return () => listeners.delete(listener);
}

/** A thing with its size as it was told last. */
export function useGrown<T extends { id: string; bytes: number }>(of: T): T;
export function useGrown<T extends { id: string; bytes: number }>(of: T | undefined): T | undefined;
export function useGrown<T extends { id: string; bytes: number }>(of: T | undefined): T | undefined {
  const id = of?.id ?? "";
  const grown = useSyncExternalStore(
    subscribe,
    useCallback(() => sizes.get(id) ?? 0, [id]),
    () => 0,
  );
  return of && grown > of.bytes ? { ...of, bytes: grown } : of;
}
