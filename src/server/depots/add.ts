import { randomUUID } from "node:crypto";
import type { AddDepotInput, ChangeSignInInput } from "@/contract/depots";
import type { ReportJson } from "@/contract/items";
import type { Json } from "@/core/ledger/shapes";
import type { Step } from "@/core/ledger/step";
import { isWithin, joinRaw, nameOf, type Raw, rawFromText, shownName } from "@/core/names/raw";
import { Problem, unlessProblem } from "@/core/problem";
import { fromAccount } from "../account";
import { perform } from "../act";
import { type DepotRecord, readRecord } from "../db/record";
import { realFolder } from "../disk/around";
import type { Engine } from "../engine";
import { folderMeant } from "../folders";
import { homeRoots } from "../homes/homes";
import { isTemporaryName, temporaryName } from "../ledger/temporaries";
import { namedFolder } from "../named-folder";
import { depotMeant, depots } from "./depots";
import { drives, markFile, markOn, markText, newMark } from "./drives";
import { findParcels } from "./found";
import { withStore } from "./kinds/kinds";
import { forgetSignIn, keepSignIn, signInOf } from "./sign-ins";
import { contentOf, type DepotAddress, readWhole, retried, type SignIn } from "./store";

const isAddress = (location: unknown): location is string => typeof location === "string" && /^[a-z]+:\/\//i.test(location);

/**
 * Takes a place as a depot: a folder outside the worktops, homes and trash; a drive, by its mount point; or a cloud, by its
 * address, which is tried first. What lies in it already is read.
 */
export async function addDepot(engine: Engine, input: AddDepotInput): Promise<ReportJson> {
  const report = await (isAddress(input.location) ? addCloud(engine, input.location, input) : addFolder(engine, input));
  if (report.entry !== null) void findParcels(engine).catch(() => {});
  return report;
}

function record(engine: Engine, depot: DepotRecord, input: AddDepotInput, more: Step[] = [], id = newId()): Promise<ReportJson> {
  const { title } = depot;
  return perform(
    engine,
    "Adding a depot",
    () => {
      const same = (other: DepotRecord) =>
        other.title === title ||
        (depot.kind === "cloud" ? "url" in other && other.url === depot.url : "folder" in other && other.folder === depot.folder);
      if (depots(engine).some((other) => other.id !== id && same(other.record)))
        throw new Problem("depot-unsuitable", { place: title, detail: "there is a depot of that name or place" });
      const key = `depot:${id}`;
      return {
        act: "add-depot",
        words: () => `Made ${title} a depot`,
        steps: [{ type: "set", key, from: readRecord<Json>(engine.db, key), to: { ...depot } as unknown as Json }, ...more],
        left: [],
      };
    },
    { trial: input.dryRun },
  );
}

const newId = () => randomUUID().slice(0, 8);

async function addFolder(engine: Engine, input: AddDepotInput): Promise<ReportJson> {
  const asked = folderMeant(engine.account, input.location);
  const drive = drives(engine.account).find(({ point }) => point === realFolder(asked));
  const folder = checkedFolder(engine, asked, drive !== undefined);
  const title = input.title ?? shownName(nameOf(folder));
  if (!drive) return record(engine, { title, kind: "folder", folder }, input);

  const { uuid } = drive;
  const known = markOn(folder);
  const mark = known ?? newMark();
  const before = depots(engine).find(({ record: other }) => other.kind === "drive" && other.mark === mark);
  if (before?.record.kind === "drive" && before.record.uuid === uuid)
    throw new Problem("depot-unsuitable", { place: title, detail: `it is ${before.title}, which is on the list` });
  // The same mark on another file system: a copy of that drive, or one that was made anew and filled from it.
  if (before && !input.replace) throw new Problem("asks-drive", { place: title, name: before.title });
  const write: Step[] =
    known === undefined
      ? [{ type: "write", file: joinRaw(folder, markFile), before: null, after: { content: rawFromText(markText(mark)) } }]
      : [];
  const depot: DepotRecord = { title: before?.title ?? title, kind: "drive", folder, mark, uuid };
  return record(engine, depot, input, write, before?.id);
}

function checkedFolder(engine: Engine, asked: Raw, isDrive: boolean): Raw {
  const { account, disk } = engine;
  const place = fromAccount(account, shownName(asked));
  const unsuitable = (detail: string) => new Problem("depot-unsuitable", { place, detail });
  const real = realFolder(asked);
  if (!real) throw unsuitable("there is no such folder");
  const mine = [...account.worktops.map((w) => w.folder), ...homeRoots(engine), account.trash];
  if (real === "/" || mine.some((other) => isWithin(other, real) || isWithin(real, other)))
    throw unsuitable("it lies in, or holds, a worktop, a home or the trash");
  const folder = namedFolder(engine, real);
  // On a drive other things lie too, beside the parcels.
  const other = isDrive ? undefined : disk.list(folder)?.find(({ name }) => !mayLieInDepot(engine, folder, name));
  if (other) throw unsuitable(`it already holds other things, such as ${shownName(other.name)}`);
  return folder;
}

/**
 * Throws where somebody else can change a depot by now that lies on this computer.
 * @throws Problem "place-unsuitable"
 */
export function expectOwn(engine: Engine, address: DepotAddress): void {
  if (address.kind !== "cloud" && address.folder !== undefined) namedFolder(engine, address.folder);
}

/** A bag, what is left of one that was cut short, or what a file system keeps at its top for itself. */
function mayLieInDepot({ disk }: Engine, folder: Raw, name: Raw): boolean {
  if (name === "lost+found" || name === markFile || isTemporaryName(name)) return true;
  const declaration = unlessProblem(() => disk.readSmall(joinRaw(folder, name, rawFromText("bagit.txt")), 4096));
  return declaration?.toString("utf8").startsWith("BagIt-Version:") ?? false;
}

/** The address of a cloud as it is kept: HTTPS, or HTTP to this very computer; with its last slash, and no sign-in in it. */
function cloudUrl(location: string): string {
  const unsuitable = (detail: string) => new Problem("depot-unsuitable", { place: shownAddress(location), detail });
  if (!URL.canParse(location)) throw unsuitable("it is no address");
  const url = new URL(location);
  if (url.username || url.password) throw unsuitable("the sign-in does not belong into the address, but beside it");
  if (url.search || url.hash) throw unsuitable("it has more in it than a place");
  const near = url.protocol === "http:" && url.hostname === "127.0.0.1";
  if (url.protocol !== "https:" && !near)
    throw unsuitable("what is sent there could be read on the way; an address begins with https://");
  return url.href.endsWith("/") ? url.href : `${url.href}/`;
}

/** Without what may be a password in it. */
const shownAddress = (location: string): string => location.replace(/\/\/[^/]*@/, "//");

async function addCloud(engine: Engine, location: string, input: AddDepotInput): Promise<ReportJson> {
  const url = cloudUrl(location);
  const title = input.title ?? new URL(url).hostname;
  const signIn: SignIn | undefined = input.user === undefined ? undefined : { user: input.user, password: input.password ?? "" };
  const pin = pinOf(input.accept);
  const address: DepotAddress = { kind: "cloud", title, url, signIn, pin };
  // A trial writes nothing there either.
  if (input.dryRun) await withStore(address, engine.disk, (store) => store.reach());
  else await tryCloud(engine, address);
  const id = newId();
  // First the sign-in: where that cannot be kept there is no depot either.
  if (signIn && !input.dryRun) keepSignIn(engine.db, id, signIn, until(input.keep));
  try {
    return await record(engine, { title, kind: "cloud", url, ...(pin ? { pin } : {}) }, input, [], id);
  } catch (error) {
    forgetSignIn(engine.db, id);
    throw error;
  }
}

const pinOf = (accept: string | undefined) => accept?.replace(/[:\s]/g, "").toLowerCase();

const until = (keep: AddDepotInput["keep"]) => (keep === "end" ? "the end" : "changed") as "changed" | "the end";

/** Reaches it, signed in, and writes a small file there that is read back and taken away again. */
async function tryCloud(engine: Engine, address: DepotAddress & { kind: "cloud" }): Promise<void> {
  await withStore(address, engine.disk, async (store) => {
    await store.reach();
    const part = rawFromText(temporaryName());
    const text = `Vuoto tries whether it can write here. ${randomUUID()}\n`;
    await store.makeFolder(part);
    try {
      const file = joinRaw(part, rawFromText("try.txt"));
      await retried(() => store.write(file, contentOf(text), { replaces: true }));
      if ((await readWhole(store, file, 1000))?.toString() !== text)
        throw new Problem("depot-keeps-not", { place: address.title, name: "a small file", detail: "when it was tried" });
    } finally {
      await store.remove(part);
    }
  });
}

/** Another sign-in for a cloud, or a certificate that is accepted; tried before it is kept. */
export async function changeSignIn(engine: Engine, input: ChangeSignInInput): Promise<{ words: string }> {
  const depot = depotMeant(engine, input.depot);
  if (depot.record.kind !== "cloud") throw new Problem("depot-unsuitable", { place: depot.title, detail: "it needs no sign-in" });
  const before = signInOf(engine.db, depot.id);
  const signIn =
    input.user === undefined && input.password === undefined
      ? before
      : { user: input.user ?? before?.user ?? "", password: input.password ?? before?.password ?? "" };
  const pin = input.accept ?? depot.record.pin;
  await tryCloud(engine, { kind: "cloud", title: depot.title, url: depot.record.url, signIn, pin });
  if (signIn) keepSignIn(engine.db, depot.id, signIn, until(input.keep));
  if (pin !== depot.record.pin) await record(engine, { ...depot.record, pin }, { location: depot.record.url }, [], depot.id);
  engine.sendings.hurry();
  return { words: `Signed in to ${depot.title}` };
}
