import { randomUUID } from "node:crypto";
import type { Raw } from "@/core/names/raw";
import { rawFromBytes } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import type { Db } from "../db/db";
import { prepared } from "../db/prepared";
import { readRecord } from "../db/record";
import { bytes } from "../disk/disk";
import { ParcelFiles, type Said } from "./parcel-files";

export type Stage = "sending" | "sealed" | "named";
/** "removing": what was sent of a parcel is to go; such a row is no parcel's any more, and has an id of its own. */
export type SendingState = "going" | "paused" | "failed" | "removing";

/** A parcel that is on its way, or was cut short on it. */
export interface SendingRow {
  parcel: string;
  depot: string;
  /** The name of its folder in the depot until it is committed. */
  part: Raw;
  /** The name that it is given. */
  bag: Raw | null;
  stage: Stage;
  state: SendingState;
  problem: Said | null;
  tags: string | null;
  at: number;
}

interface Stored extends Omit<SendingRow, "part" | "bag" | "problem"> {
  part: Buffer;
  bag: Buffer | null;
  problem: string | null;
}

const fromStored = (row: Stored): SendingRow => ({
  ...row,
  part: rawFromBytes(row.part),
  bag: row.bag && rawFromBytes(row.bag),
  problem: row.problem === null ? null : JSON.parse(row.problem),
});

/** All parcels on their way, in the order in which they were begun. */
export const sendingRows = (db: Db): SendingRow[] =>
  prepared<[], Stored>(db, "SELECT * FROM sending ORDER BY at, parcel").all().map(fromStored);

export function sendingRow(db: Db, parcel: string): SendingRow | undefined {
  const row = prepared<[string], Stored>(db, "SELECT * FROM sending WHERE parcel = ?").get(parcel);
  return row && fromStored(row);
}

export function addSending(db: Db, row: Pick<SendingRow, "parcel" | "depot" | "part" | "at">): void {
  prepared<[string, string, Buffer, number]>(
    db,
    "INSERT INTO sending (parcel, depot, part, stage, state, at) VALUES (?, ?, ?, 'sending', 'going', ?)",
  ).run(row.parcel, row.depot, bytes(row.part), row.at);
}

export function changeSending(db: Db, parcel: string, change: Partial<Omit<SendingRow, "parcel" | "depot" | "at">>): void {
  const now = sendingRow(db, parcel);
  if (!now) return;
  const next = { ...now, ...change };
  prepared<[Buffer, Buffer | null, string, string, string | null, string | null, string]>(
    db,
    "UPDATE sending SET part = ?, bag = ?, stage = ?, state = ?, problem = ?, tags = ? WHERE parcel = ?",
  ).run(
    bytes(next.part),
    next.bag && bytes(next.bag),
    next.stage,
    next.state,
    next.problem && JSON.stringify(next.problem),
    next.tags,
    parcel,
  );
}

export function dropSending(db: Db, parcel: string): void {
  prepared<[string]>(db, "DELETE FROM sending WHERE parcel = ?").run(parcel);
}

const removalId = (): string => `gone-${randomUUID().slice(0, 8)}`;

/** What lies under a name that nobody else gives is to be taken away in a depot; answers by which id. */
export function addRemoval(db: Db, depot: string, part: Raw, at: number): string {
  const parcel = removalId();
  addSending(db, { parcel, depot, part, at });
  changeSending(db, parcel, { state: "removing" });
  return parcel;
}

/** A parcel is not sent after all: it is free at once, and what was sent of it is to be taken away. */
export function toRemoval(db: Db, row: SendingRow): SendingRow | undefined {
  const parcel = removalId();
  db.transaction(() => {
    addSending(db, { parcel, depot: row.depot, part: row.part, at: row.at });
    changeSending(db, parcel, { state: "removing", stage: row.stage, bag: row.bag, tags: row.tags });
    new ParcelFiles(db, row.parcel).forget();
    dropSending(db, row.parcel);
  })();
  return sendingRow(db, parcel);
}

/** Throws while a parcel is on its way to a depot, also where it rests there; or, with `now`, while it goes there just now. */
export function expectNoneOnItsWay(db: Db, depot: string, now = false): void {
  const stands: readonly SendingState[] = now ? ["going"] : ["going", "paused", "failed"];
  const row = sendingRows(db).find((one) => one.depot === depot && stands.includes(one.state));
  if (!row) return;
  const titleOf = (key: string) => readRecord<{ title: string }>(db, key)?.title;
  const parcel = titleOf(`parcel:${row.parcel}`);
  throw new Problem("on-its-way", {
    name: titleOf(`depot:${depot}`),
    detail: parcel === undefined ? "a parcel" : `the parcel ${parcel}`,
  });
}
