import type { DepotsView, DepotView, ParcelView, ProposalView } from "@/contract/views";
import { Problem } from "@/core/problem";
import type { Engine } from "../engine";
import { type Item, itemById } from "../survey/items";
import { bytesOf } from "./arrived";
import { lastCheck } from "./checks";
import { collectedIn, type DepotNow, depotTitle, type Parcel, parcels } from "./depots";
import { depotState, parcelJson, parcelState, placeOf } from "./list";
import { type HowFar, ParcelFiles, type Said } from "./parcel-files";
import { proposalTitle, proposed } from "./propose";
import { lastSeen } from "./seen";
import { type SendingRow, sendingRow, sendingRows } from "./sending-row";
import { besideSample, drivesOfSample, sampleCloud } from "./standins";
import type { Capacity } from "./store";
import { depotsSeen } from "./watch";

/** Depots as vessels, and parcels: those being collected or on their way, and those that arrived. */
export async function depotsView(engine: Engine): Promise<DepotsView> {
  const seen = await depotsSeen(engine);
  const all = parcels(engine);
  const far = new Map(sendingRows(engine.db).map(({ parcel }) => [parcel, new ParcelFiles(engine.db, parcel).howFar()]));
  const sent = all.filter((parcel) => parcel.state === "sent");
  const waiting = all
    .filter((parcel) => parcel.state === "collecting")
    .map((parcel) => ({ parcel, items: collectedIn(engine, parcel.id), row: sendingRow(engine.db, parcel.id) }))
    .filter(({ items, row }) => items.length > 0 || row);
  return {
    depots: seen.map((depot) => depotView(engine, depot, sent, far)),
    waiting: waiting.map(({ parcel, items, row }) => waitingView(engine, parcel, items, row, far.get(parcel.id))),
    sent: sent.map((parcel) => sentView(engine, parcel)),
    proposals: proposalViews(engine),
    drives: drivesOfSample(engine.account).map(({ name, pluggedIn, point }) => ({ name, pluggedIn, point })),
    suggestions: suggestions(engine, seen),
  };
}

/** Where a sending stands still, why; where it waits, that and for how long. */
function standing(engine: Engine, row: SendingRow, far: HowFar): { words: string; problem?: Said } {
  const words = engine.words();
  const { running, rate, waitsUntil, waitsFor } = engine.sendings.underWay(row.parcel);
  if (row.state === "paused") return { words: "paused; it goes on from where it stopped" };
  if (row.state === "failed") return { words: "stopped", problem: row.problem ?? undefined };
  if (waitsUntil !== undefined && waitsFor) {
    const left = Math.max(1000, waitsUntil - engine.now());
    return { words: `it is tried again in ${words.duration(left)}`, problem: waitsFor };
  }
  if (!running) return { words: "it waits until the parcel before it has arrived" };
  const left = 2 * far.bytes - far.writtenBytes - far.provenBytes;
  const what = row.stage === "named" ? "being read back" : "being sent";
  if (rate === undefined || rate === 0) return { words: what };
  return { words: `${what}, ${words.bytes(rate)} a second, about ${words.duration((1000 * left) / rate)} left` };
}

function waitingView(engine: Engine, parcel: Parcel, items: Item[], row?: SendingRow, far?: HowFar): ParcelView {
  const words = engine.words();
  const bytes = far?.bytes || bytesOf(engine, parcel.id);
  const what = `${words.counted(items.length, "thing")}, ${words.bytes(bytes)}`;
  const now = row && far && standing(engine, row, far);
  const problem = now?.problem && new Problem(now.problem.code, now.problem.facts);
  return {
    id: parcel.id,
    title: parcel.title,
    state: parcelState(engine, parcel),
    words: now ? `${what}; ${now.words}` : `${what}; not sent yet, everything still lies where it was`,
    depot: row && { id: row.depot, title: depotTitle(engine, row.depot) },
    ticks: row && far && ticksOf(far, row, items.length),
    leftOut: row && leftOutOf(engine, parcel.id),
    problem: problem && `${problem.title} ${problem.remedy}`,
    asks: problem && asksFor(problem),
    things: row ? [] : items.map((item) => ({ id: item.id, name: item.label, size: words.bytes(item.bytes) })),
    largest: row ? undefined : largestOf(items),
    bytes,
  };
}

/** The largest of things that are sent in one piece. */
function largestOf(items: Item[]): ParcelView["largest"] {
  const files = items.filter(({ identity }) => identity.type === "file");
  const largest = files.reduce<Item | undefined>((most, item) => (most && most.bytes >= item.bytes ? most : item), undefined);
  return largest && { name: largest.label, bytes: largest.bytes };
}

function ticksOf({ packed, sent, readBack }: HowFar, { stage }: SendingRow, count: number): ParcelView["ticks"] {
  // What has no file in it is read back with the list of things, once that has its name.
  return { things: Math.max(count, packed), packed, sent, readBack: stage === "named" ? readBack : 0, letGo: 0 };
}

const leftOutOf = (engine: Engine, parcel: string): ParcelView["leftOut"] =>
  new ParcelFiles(engine.db, parcel).leftOut().map(({ item, said }) => ({
    name: itemById(engine.db, item)?.label ?? "a thing",
    why: new Problem(said.code, said.facts).title,
  }));

const asksFor = ({ code }: Problem): ParcelView["asks"] =>
  code === "sign-in-refused" || code === "sign-in-needed"
    ? "sign-in"
    : code === "certificate-changed" || code === "certificate-unknown"
      ? "certificate"
      : undefined;

function sentView(engine: Engine, parcel: Parcel): ParcelView {
  const words = engine.words();
  const json = parcelJson(engine, parcel);
  const check = lastCheck(engine.db, parcel.id);
  const what = `${words.counted(parcel.things ?? 0, "thing")}, ${words.counted(parcel.files ?? 0, "file")}, ${words.bytes(parcel.bytes ?? 0)}`;
  const isBad = (check?.damaged.length ?? 0) > 0;
  const since = parcel.found
    ? "found there, not sent from here"
    : `sent ${parcel.sentAt ? words.ago(parcel.sentAt) : ""}${isBad ? "" : ", read back, every checksum the same"}`;
  return {
    id: parcel.id,
    title: parcel.title,
    state: json.state,
    words: `${what}; ${since}`,
    depot: parcel.depot ? { id: parcel.depot, title: depotTitle(engine, parcel.depot) } : undefined,
    things: [],
    bytes: parcel.bytes ?? 0,
    bag: placeOf(engine, parcel) ?? undefined,
    checked: check ? words.ago(check.at) : undefined,
    damaged: check?.damaged.slice(0, mostNamed),
    found: parcel.found,
  };
}

const mostNamed = 6;

function depotView(
  engine: Engine,
  depot: DepotNow & { before?: Capacity },
  sent: Parcel[],
  onTheirWay: ReadonlyMap<string, HowFar>,
): DepotView {
  const words = engine.words();
  const { record, problem } = depot;
  const capacity = depot.before ?? depot.capacity;
  const here = sent.filter((parcel) => parcel.depot === depot.id).sort((a, b) => (a.sentAt ?? a.madeAt) - (b.sentAt ?? b.madeAt));
  const held = here.reduce((sum, parcel) => sum + (parcel.bytes ?? 0), 0);
  const row = sendingRows(engine.db).find((one) => one.depot === depot.id && one.state !== "removing");
  const far = row && onTheirWay.get(row.parcel);
  const { free, total } = capacity;
  const whole = total ?? (free === undefined ? 0 : free + held);
  const share = (bytes: number) => (whole > 0 ? Math.min(1, bytes / whole) : 0);
  const coming =
    row && far ? { there: share(far.writtenBytes), whole: share(far.bytes || bytesOf(engine, row.parcel)) } : undefined;
  const other = total === undefined || free === undefined ? 0 : Math.max(0, share(total - free - held) - (coming?.there ?? 0));
  const parcelsIn = here.length === 0 ? "nothing of yours in it yet" : words.counted(here.length, "parcel");
  const room =
    free === undefined
      ? "it does not say how much is free"
      : total === undefined
        ? `${words.bytes(free)} free`
        : `${words.bytes(free)} of ${words.bytes(total)} free`;
  return {
    id: depot.id,
    title: depot.title,
    kind: record.kind,
    standIn: isStandIn(engine, depot) || undefined,
    location: depot.location,
    state: depotState(depot),
    words: problem ? `${away(record.kind, problem)}; ${parcelsIn}` : `${room}; ${parcelsIn}`,
    free: problem ? undefined : free,
    total,
    layers: here.map(({ title, bytes }) => ({ title, share: share(bytes ?? 0) })),
    other,
    coming,
    checks: record.checks ?? { on: record.kind !== "cloud" },
    rate: lastSeen(engine.db, depot.id)?.rate,
    certificate: certificateOf(problem),
  };
}

function away(kind: DepotView["kind"], problem: Problem): string {
  switch (problem.code) {
    case "sign-in-refused":
      return "it does not accept the sign-in";
    case "certificate-changed":
      return "it shows another certificate than the one you accepted, so nothing goes there";
    case "certificate-unknown":
      return "this computer cannot tell whether it is who it says it is";
    case "depot-gone":
      return kind === "drive"
        ? "not plugged in"
        : kind === "cloud"
          ? (problem.facts.detail ?? "it does not answer")
          : "it is not there";
    default:
      return problem.facts.detail ?? problem.title;
  }
}

function certificateOf(problem: Problem | undefined): DepotView["certificate"] {
  if (problem?.code !== "certificate-changed" && problem?.code !== "certificate-unknown") return undefined;
  return { sha256: problem.facts.name ?? "", words: problem.facts.detail ?? "" };
}

function isStandIn(engine: Engine, { record, location }: DepotNow): boolean {
  if (!engine.account.sample) return false;
  if (record.kind === "cloud") return sampleCloud(engine.account)?.url === record.url;
  return location.startsWith(besideSample(engine.account, "station-"));
}

const mostProposed = 500;

function proposalViews(engine: Engine): ProposalView[] {
  const words = engine.words();
  return proposed(engine).map(({ proposal, items, bytes }) => {
    const why =
      proposal.kind === "project"
        ? `a project that ended ${words.ago(proposal.endedAt)}`
        : proposal.kind === "year"
          ? `last changed in ${proposal.year}, and not decided about`
          : "not changed since";
    return {
      id: proposal.id,
      title: proposalTitle(proposal),
      words: `${words.counted(items.length, "thing")}, ${words.bytes(bytes)}; ${why}`,
      things: items
        .slice(0, mostProposed)
        .map((item) => ({ id: item.id, name: item.label, size: words.bytes(item.bytes), bytes: item.bytes })),
      more: Math.max(0, items.length - mostProposed),
      bytes,
    };
  });
}

/** What lies beside the sample account and could be added at once. */
function suggestions(engine: Engine, seen: DepotNow[]): DepotsView["suggestions"] {
  const { account } = engine;
  if (!account.sample) return [];
  const known = new Set(seen.map(({ location }) => location));
  const cloud = sampleCloud(account);
  const folder = besideSample(account, "station-disk");
  return [
    ...(cloud && !known.has(cloud.url)
      ? [{ location: cloud.url, words: "the station cloud, a stand-in", user: cloud.user, password: cloud.password }]
      : []),
    ...drivesOfSample(account).flatMap(({ pluggedIn, point, name }) =>
      pluggedIn && !known.has(point) ? [{ location: point, words: `the ${name}, a stand-in` }] : [],
    ),
    ...(known.has(folder) ? [] : [{ location: folder, words: "a folder beside the sample account" }]),
  ];
}
