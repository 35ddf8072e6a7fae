import { AsyncLocalStorage } from "node:async_hooks";

/** Where a command says what it has to say. */
export interface Voice {
  out(text: string): void;
  err(text: string): void;
}

const own: Voice = {
  out: (text) => void process.stdout.write(text),
  err: (text) => void process.stderr.write(text),
};
const given = new AsyncLocalStorage<Voice>();

/** Runs a command whose words another than this process's own streams hears. */
export const heardBy = <A>(voice: Voice, run: () => A): A => given.run(voice, run);

export const out = (text: string): void => (given.getStore() ?? own).out(text);
export const err = (text: string): void => (given.getStore() ?? own).err(text);

/** Where whoever reads has enough, as with head, or there is no room for what is said, this process ends. */
export function endWithReader(status: () => number): void {
  if (given.getStore()) return;
  process.stdout.on("error", (error: NodeJS.ErrnoException) => {
    if (error.code !== "EPIPE") process.stderr.write(`What Vuoto says could not be written: ${error.code}.\n`);
    process.exit(error.code === "EPIPE" ? status() : 3);
  });
}

const longMs = 20_000;

/** Says once that what is waited for takes long, where it does: on a slow computer that is no failure. Answers how not to. */
export function patiently(): () => void {
  const timer = setTimeout(() => err("This takes longer than usual; it goes on.\n"), longMs);
  return () => clearTimeout(timer);
}
