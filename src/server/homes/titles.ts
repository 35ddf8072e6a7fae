import type { NewTitleAnswer, RetitleInput, TitlesInput } from "@/contract/homes";
import type { ItemRef, ReportJson } from "@/contract/items";
import { type NewTitle, newTitles, readPattern, type TitledThing } from "@/core/homes/titles";
import type { Step } from "@/core/ledger/step";
import { joinRaw, nameOf, type Raw, shownName } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import { perform } from "../act";
import type { Engine } from "../engine";
import { type Item, itemsNamed } from "../survey/items";
import { type Home, homeMeant, isAtHome } from "./homes";

/** A pattern, and when each thing was taken or changed, by its id. */
export interface Titling {
  parts: NonNullable<ReturnType<typeof readPattern>>;
  taken: ReadonlyMap<string, number>;
}

const day = (at: Date, utc: boolean) =>
  [
    utc ? at.getUTCFullYear() : at.getFullYear(),
    (utc ? at.getUTCMonth() : at.getMonth()) + 1,
    utc ? at.getUTCDate() : at.getDate(),
  ]
    .map((n) => String(n).padStart(2, "0"))
    .join("-");

/** Reads the pattern, and of the pictures when they were taken. Undefined without a pattern. */
export async function titlingOf(engine: Engine, refs: ItemRef[], pattern: string | undefined): Promise<Titling | undefined> {
  if (pattern === undefined) return undefined;
  const parts = readPattern(pattern);
  if (!parts) throw new Problem("bad-pattern", { name: pattern });
  const usesDates = parts.some((part) => "word" in part && (part.word === "date" || part.word === "number"));
  const pictures = usesDates ? itemsNamed(engine.db, refs, "anywhere").filter((item) => item.kind === "picture") : [];
  const taken = new Map<string, number>();
  if (pictures.length > 0)
    await engine.jobs.run("Reading when the pictures were taken", "things", pictures.length, async (job) => {
      const found = await engine.workers.run(
        "takenAt",
        pictures.map((item) => item.path),
        { part: job.more, signal: job.signal },
      );
      if (job.signal.aborted) throw new Problem("cancelled", { name: "Reading" });
      for (const [n, at] of found.entries()) if (at !== null) taken.set(pictures[n]!.id, at);
    });
  return { parts, taken };
}

/** The names that things get, in their order, in a folder of which `lying` are the names; without titling their own. */
export function namesGiven(items: readonly Item[], titling: Titling, lying: ReadonlySet<Raw>): NewTitle[] {
  const titled = items.map((item): TitledThing => {
    const taken = titling.taken.get(item.id);
    const at = taken ?? item.mtimeMs;
    return {
      name: item.name,
      kind: item.kind,
      folder: item.identity.type === "folder",
      date: day(new Date(at), taken !== undefined),
      at,
    };
  });
  return newTitles(titled, titling.parts, (name) => lying.has(name));
}

const namesIn = (engine: Engine, folder: Raw) => new Set(engine.disk.list(folder)?.map((entry) => entry.name) ?? []);

/** What things would be called where they lie, each with its new name. */
function whereTheyLie(engine: Engine, items: readonly Item[], titling: Titling): { item: Item; given: NewTitle }[] {
  const folders = new Set(items.map((item) => item.folder));
  return [...folders].flatMap((folder) => {
    const of = items.filter((item) => item.folder === folder);
    const given = namesGiven(of, titling, namesIn(engine, folder));
    return of.map((item, n) => ({ item, given: given[n]! }));
  });
}

/** What things would be called in a home; those that lie there already are not taken there, and keep their names. */
function inHome(engine: Engine, items: readonly Item[], home: Home, titling: Titling): { item: Item; given: NewTitle }[] {
  const going = items.filter((item) => !isAtHome(item.path, home));
  const given = namesGiven(going, titling, namesIn(engine, home.folder));
  const byId = new Map(going.map((item, n) => [item.id, given[n]!]));
  return items.map((item) => ({ item, given: byId.get(item.id) ?? { name: item.name, numbered: false } }));
}

/** The trial of a pattern: what each thing would be called, in a home or where it lies. */
export async function titles(engine: Engine, input: TitlesInput): Promise<NewTitleAnswer[]> {
  const titling = (await titlingOf(engine, input.items, input.title))!;
  const items = itemsNamed(engine.db, input.items, "anywhere");
  const home = input.home && homeMeant(engine, input.home).home;
  const given = home ? inHome(engine, items, home, titling) : whereTheyLie(engine, items, titling);
  return given.map(({ item, given: { name, numbered } }) => ({
    id: item.id,
    name: item.label,
    title: shownName(name),
    numbered,
  }));
}

/** Gives things new titles where they lie, as one act. */
export async function retitle(engine: Engine, input: RetitleInput): Promise<ReportJson> {
  const titling = (await titlingOf(engine, input.items, input.title))!;
  return perform(
    engine,
    "Giving new titles",
    () => {
      const steps = whereTheyLie(engine, itemsNamed(engine.db, input.items, "anywhere"), titling).flatMap(
        ({ item, given }): Step[] =>
          given.name === item.name
            ? []
            : [{ type: "move", item: item.id, from: item.path, to: joinRaw(item.folder, given.name), identity: item.identity }],
      );
      return {
        act: "retitle",
        words: (done) => {
          const moved = done.filter((step) => step.type === "move");
          const only = moved.length === 1 ? moved[0]! : undefined;
          return only?.type === "move"
            ? `Called ${shownName(nameOf(only.from))} ${shownName(nameOf(only.to))}`
            : `Gave ${engine.words().counted(moved.length, "thing")} new titles`;
        },
        steps,
        left: [],
      };
    },
    { trial: input.dryRun },
  );
}
