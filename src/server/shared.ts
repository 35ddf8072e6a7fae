/**
 * What all copies of a module remember together, by its owner: the server's modules are bundled more than once, and what one
 * copy has read the others need not read again.
 */
export function sharedMemory<Owner extends object, Value>(name: string): WeakMap<Owner, Value> {
  const held = globalThis as { [key: symbol]: WeakMap<Owner, Value> | undefined };
  const key = Symbol.for(`vuoto: ${name}`);
  held[key] ??= new WeakMap();
  return held[key];
}
