import path from "node:path";

/** A file of the installation itself: the folder of the command sets VUOTO_ROOT; tests run in the checkout. */
export function install(...parts: string[]): string {
  return path.join(/* turbopackIgnore: true */ process.env.VUOTO_ROOT ?? process.cwd(), ...parts);
}
