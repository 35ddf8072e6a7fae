import { z } from "zod";
import type { Step } from "@/core/ledger/step";
import { type Raw, rawFromText } from "@/core/names/raw";

/** Steps as they are stored, version 2. Byte strings are stored as they are: one code unit a byte. */
export const planVersion = 2;

const raw = z.custom<Raw>((value) => typeof value === "string" && /^[\u0000-\u00ff]*$/.test(value));
const identity = z.object({
  type: z.enum(["file", "folder", "link", "special"]),
  ino: z.string(),
  bytes: z.number(),
  mtimeNs: z.string(),
});
const point = z.object({ x: z.number(), y: z.number() });
const shown = z.object({
  level: z.enum(["everything", "some kinds", "what stays", "bare"]),
  since: z.number(),
  hidden: z.array(z.string()),
});
const treeEntry = z.object({
  rel: raw,
  type: z.enum(["file", "folder", "link"]),
  mode: z.number(),
  mtimeNs: z.string(),
  bytes: z.number(),
  source: raw.optional(),
  sha256: z.string().optional(),
  target: raw.optional(),
  xattrs: z.array(z.tuple([raw, raw])).optional(),
  sameAs: raw.optional(),
});

/** Version 1 kept a text alone. */
const smallFile = z.union([
  z.object({ content: raw, mode: z.number().optional(), xattrs: z.array(z.tuple([raw, raw])).optional() }),
  z.string().transform((text) => ({ content: rawFromText(text) })),
]);

const proof = z.discriminatedUnion("kind", [
  z.object({ kind: z.literal("twins"), other: raw, sha256: z.string() }),
  z.object({ kind: z.literal("spent archive"), folder: raw }),
  z.object({ kind: z.literal("dead shortcut") }),
  z.object({ kind: z.literal("empty") }),
  z.object({ kind: z.literal("half download") }),
]);

export const storedStep: z.ZodType<Step> = z.discriminatedUnion("type", [
  z.object({ type: z.literal("move"), item: z.string().optional(), from: raw, to: raw, identity }),
  z.object({ type: z.literal("copy"), item: z.string().optional(), to: raw, tree: z.array(treeEntry) }),
  z.object({
    type: z.literal("trash"),
    item: z.string().optional(),
    from: raw,
    trash: raw,
    name: raw,
    info: z.string(),
    identity,
    sentBy: z.number().optional(),
    proof: proof.optional(),
  }),
  z.object({
    type: z.literal("restore"),
    item: z.string().optional(),
    trash: raw,
    name: raw,
    info: z.string(),
    to: raw,
    identity,
  }),
  z.object({
    type: z.literal("erase"),
    item: z.string().optional(),
    trash: raw,
    name: raw,
    info: z.string(),
    identity,
    copy: z.array(treeEntry).optional(),
    state: z.string().optional(),
  }),
  z.object({
    type: z.literal("make-folder"),
    folder: raw,
    mode: z.number().optional(),
    shared: z.literal(true).optional(),
    named: z.literal(true).optional(),
  }),
  z.object({ type: z.literal("remove-empty-folder"), folder: raw, mode: z.number(), mtimeNs: z.string() }),
  z.object({ type: z.literal("write"), file: raw, before: smallFile.nullable(), after: smallFile.nullable() }),
  z.object({ type: z.literal("place"), item: z.string(), from: point.nullable(), to: point.nullable() }),
  z.object({ type: z.literal("show"), from: shown, to: shown }),
  z.object({ type: z.literal("set"), key: z.string(), from: z.json(), to: z.json(), shared: z.literal(true).optional() }),
  z.object({
    type: z.literal("send"),
    parcel: z.string(),
    depotId: z.string(),
    depot: raw,
    bag: raw,
    title: z.string(),
    madeAt: z.string(),
    things: z.array(z.object({ item: z.string(), from: raw, payload: z.string(), identity, position: point.nullable() })),
  }),
]);

/** Reads a stored step of any version this program knows. */
export function readStoredStep(version: number, json: string): Step {
  if (version !== 1 && version !== planVersion) throw new Error(`a plan of version ${version} is not known`);
  return storedStep.parse(JSON.parse(json));
}
