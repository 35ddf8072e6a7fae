/**
 * The part of a file that a request asks for, its first and last byte (RFC 9110, section 14); undefined where it asks for all
 * of it, or in a way that is not understood, and "none" where there is no such part.
 */
export function rangeOf(header: string | null, bytes: number): { from: number; to: number } | "none" | undefined {
  const asked = /^bytes=(\d{0,15})-(\d{0,15})$/.exec(header?.trim() ?? "");
  if (!asked || (asked[1] === "" && asked[2] === "")) return undefined;
  const last = bytes - 1;
  if (asked[1] === "") {
    const length = Number(asked[2]);
    return length === 0 || bytes === 0 ? "none" : { from: Math.max(0, bytes - length), to: last };
  }
  const from = Number(asked[1]);
  const to = asked[2] === "" ? last : Math.min(last, Number(asked[2]));
  if (asked[2] !== "" && Number(asked[2]) < from) return undefined;
  return from > last ? "none" : { from, to };
}
