import type { ProposalJson, ProposeInput } from "@/contract/depots";
import type { ReportJson } from "@/contract/items";
import { type Ended, type Lying, type Proposal, proposals } from "@/core/depots/proposals";
import { shownName } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import { type ProjectRecord, readRecords, type VerdictRecord } from "../db/record";
import type { Engine } from "../engine";
import { archive } from "../sitting/archive";
import { type Item, itemsNamed, thingsOn } from "../survey/items";

export interface Proposed {
  proposal: Proposal;
  items: Item[];
  bytes: number;
}

/** What could go to a depot of what lies on the worktops: without what is collected already, waits, or is to stay for a time. */
export function proposed(engine: Engine): Proposed[] {
  const { db, wordsOf } = engine;
  const now = engine.now();
  const verdicts = readRecords<VerdictRecord>(db, "verdict");
  const projects = readRecords<ProjectRecord>(db, "project");
  const items = new Map(engine.account.worktops.flatMap((worktop) => thingsOn(db, worktop.id)).map((item) => [item.id, item]));
  const format = new Intl.DateTimeFormat("en", { year: "numeric", timeZone: wordsOf.timeZone });
  const yearOf = (ms: number) => Number(format.format(ms));
  const lying = [...items.values()].flatMap(({ id, bytes, identity }): Lying[] => {
    const verdict = verdicts.get(id);
    const underWay = verdict?.project !== undefined && projects.get(verdict.project)?.endedAt === undefined;
    const decided = verdict?.verdict === "archive" || verdict?.verdict === "wait" || verdict?.until !== undefined;
    if (decided || underWay) return [];
    const changedAt = Number(BigInt(identity.mtimeNs) / 1_000_000n);
    return [{ id, bytes, changedAt, year: yearOf(changedAt), stays: verdict?.verdict === "stay" && !verdict.project }];
  });
  const ended = [...projects].flatMap(([id, { title, endedAt, things }]): Ended[] =>
    endedAt === undefined ? [] : [{ id, title, endedAt, things: things ? [...things] : [] }],
  );
  return proposals(lying, ended, yearOf(now), now).map((proposal) => {
    const own = proposal.things.map((id) => items.get(id)!);
    return { proposal, items: own, bytes: own.reduce((sum, item) => sum + item.bytes, 0) };
  });
}

/** The title of the parcel that a proposal would become. */
export const proposalTitle = (proposal: Proposal): string =>
  proposal.kind === "project"
    ? proposal.title
    : proposal.kind === "year"
      ? `Left from ${proposal.year}`
      : "Not touched for half a year";

export const listProposals = (engine: Engine): ProposalJson[] =>
  proposed(engine).map(({ proposal, items, bytes }) => ({
    id: proposal.id,
    title: proposalTitle(proposal),
    kind: proposal.kind,
    things: items.map((item) => ({ id: item.id, name: item.label, path: shownName(item.path), bytes: item.bytes })),
    bytes,
  }));

/** Takes a proposal up: its things are collected in a parcel, but for those that are named. */
export async function propose(engine: Engine, input: ProposeInput): Promise<ReportJson> {
  const found = proposed(engine).find(
    ({ proposal }) => proposal.id === input.proposal || proposalTitle(proposal) === input.proposal,
  );
  if (!found) throw new Problem("unknown-proposal", { name: input.proposal });
  const except = new Set(itemsNamed(engine.db, input.except ?? []).flatMap((item) => (item ? [item.id] : [])));
  const items = found.items.map(({ id }) => id).filter((id) => !except.has(id));
  if (items.length === 0) throw new Problem("parcel-empty", { name: proposalTitle(found.proposal) });
  return archive(engine, { items, parcel: input.title ?? proposalTitle(found.proposal), dryRun: input.dryRun });
}
