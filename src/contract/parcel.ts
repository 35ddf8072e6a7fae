import { z } from "zod";
import { rawJson } from "./raw-json";

/** `things.json` in a parcel: what its payload alone does not say. Version 1. */
export const parcelThing = z.object({
  item: z.string(),
  name: rawJson,
  /** The folder it lay in, absolute. */
  folder: rawJson,
  position: z.object({ x: z.number(), y: z.number() }).nullable(),
  entries: z
    .array(
      z.object({
        /** Below the thing; empty for the thing itself. */
        rel: rawJson,
        type: z.enum(["file", "folder", "link"]),
        mode: z.int().min(0).max(0o7777),
        mtimeNs: z.string().regex(/^-?\d+$/),
        bytes: z.number(),
        /** A file's path in the bag, beginning with data/. */
        payload: z.string().startsWith("data/").optional(),
        sha256: z
          .string()
          .regex(/^[0-9a-f]{64}$/)
          .optional(),
        target: rawJson.optional(),
        xattrs: z.array(z.tuple([rawJson, rawJson])).optional(),
      }),
    )
    .min(1),
});

export const parcelThings = z.object({
  version: z.literal(1),
  parcel: z.object({ id: z.string(), title: z.string(), madeAt: z.string() }),
  things: z.array(parcelThing),
});

export type ParcelThings = z.infer<typeof parcelThings>;
export type ParcelThingJson = z.infer<typeof parcelThing>;
