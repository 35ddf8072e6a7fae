"use client";
import { setNonce } from "get-nonce";

/** Hands the page's nonce to what writes style elements at run time. */
export function Nonce({ value }: { value: string }) {
  if (typeof window !== "undefined") setNonce(value);
  return null;
}
