"use client";
import { setNonce } from "get-nonce";

let given = false;

/** Hands the page's nonce to what writes style elements at run time. A view that is asked for anew comes with another one, which this document's policy does not know. */
export function Nonce({ value }: { value: string }) {
  if (typeof window !== "undefined" && !given) {
    given = true;
    setNonce(value);
  }
  return null;
}
