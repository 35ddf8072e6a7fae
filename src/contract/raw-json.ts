import { z } from "zod";
import { type Raw, rawFromText, textOfRaw } from "@/core/names/raw";

/** A name or path in JSON: its text where its bytes are UTF-8, else base64 of the bytes. */
export const rawJson = z.union([z.string(), z.object({ base64: z.base64() })]);
export type RawJson = z.infer<typeof rawJson>;

export function rawToJson(raw: Raw): RawJson {
  return textOfRaw(raw) ?? { base64: btoa(raw) };
}

export function rawFromJson(json: RawJson): Raw {
  return typeof json === "string" ? rawFromText(json) : (atob(json.base64) as Raw);
}
