import { isDeepStrictEqual } from "node:util";
import type { ReportJson } from "@/contract/items";
import { type ImportLayoutInput, type LayoutDocument, layoutDocument } from "@/contract/layouts";
import { rawFromJson, rawToJson } from "@/contract/raw-json";
import type { Layout } from "@/core/layouts/layout";
import { isName } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import { iconBoxes, iconSizes } from "@/core/screen/state";
import { perform } from "../act";
import type { Engine } from "../engine";
import { itemById } from "../survey/items";
import { layoutMeant, planKeep } from "./layouts";

/** The content of larger files is not read for a document; name and size tell them there. */
const mostSummed = 64_000_000;

/** A layout as one document for another computer. What has no checksum yet gets one, as long as that does not take long. */
export async function exportLayout(engine: Engine, { layout: named }: { layout: string }): Promise<LayoutDocument> {
  const [, layout] = layoutMeant(engine, named);
  const { title, at, size, level, kinds, icons } = layout;
  const unsummed = icons.flatMap(({ item, sha256, type, bytes }) => {
    const lies =
      item !== undefined && sha256 === undefined && type === "file" && bytes <= mostSummed && itemById(engine.db, item);
    return lies && lies.identity.bytes === bytes ? [lies] : [];
  });
  const total = unsummed.reduce((sum, item) => sum + item.identity.bytes, 0);
  const sums = await engine.jobs.run("Reading what lies on the desktop", "bytes", total, async (job) => {
    const paths = unsummed.map(({ path }) => path);
    const part = ((read: number) => void job.step(read).catch(() => {})) as (part: never) => void;
    const read = await engine.workers.run("hashFiles", paths, { signal: job.signal, part });
    // Stopped in the middle it answers what it had.
    if (job.signal.aborted) throw new Problem("cancelled", { name: `Saving the layout “${title}”` });
    return read;
  });
  const sumOf = new Map(unsummed.map(({ id, path }) => [id, sums.get(path)]));
  return {
    format: "vuoto-layout",
    version: 1,
    title,
    madeAt: new Date(at).toISOString(),
    screen: size,
    level,
    kinds,
    icons: icons.map(({ item, name, type, kind, bytes, sha256, x, y }) => {
      const sum = sha256 ?? (item === undefined ? undefined : sumOf.get(item));
      return { name: rawToJson(name), type, kind, bytes, ...(sum ? { sha256: sum } : {}), x, y };
    }),
  };
}

/** Puts a layout of a document on the list. @throws Problem "no-layout", with what is wrong; "layout-newer" */
export function importLayout(engine: Engine, input: ImportLayoutInput): Promise<ReportJson> {
  return perform(engine, "Reading a layout", () => planKeep(engine, layoutFrom(engine, input)), { trial: input.dryRun });
}

function layoutFrom(engine: Engine, { document, title }: ImportLayoutInput): Layout {
  const { version, format } = (typeof document === "object" && document !== null ? document : {}) as Record<string, unknown>;
  if (format === "vuoto-layout" && typeof version === "number" && version > 1)
    throw new Problem("layout-newer", { detail: `its version is ${version}` });
  const read = layoutDocument.safeParse(document);
  if (!read.success) {
    const issue = read.error.issues[0];
    throw new Problem("no-layout", { detail: issue && `${issue.path.join(".") || "it"}: ${issue.message}` });
  }
  const { screen, madeAt, icons, level, kinds } = read.data;
  const size = iconSizes.find((one) => one === screen.icon.width);
  if (!size || !isDeepStrictEqual({ icon: screen.icon, label: screen.label }, iconBoxes(size)))
    throw new Problem("no-layout", { detail: "screen.icon: icons are not drawn in that size" });
  return {
    title: title ?? read.data.title,
    at: Math.min(Date.parse(madeAt), engine.now()),
    size: screen,
    level,
    kinds,
    icons: icons.map(({ name, ...icon }) => {
      const raw = rawFromJson(name);
      if (!isName(raw)) throw new Problem("no-layout", { detail: "one of its names cannot be one" });
      return { ...icon, name: raw };
    }),
  };
}
