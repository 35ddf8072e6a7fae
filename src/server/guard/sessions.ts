import { createHash, randomBytes } from "node:crypto";
import type { SessionLine } from "@/contract/guard";
import { Problem } from "@/core/problem";
import type { Db } from "../db/db";
import type { Engine, Reading } from "../engine";
import { browserOf } from "./browser";

/** A session that was not used for so long is over. */
const lives = 30 * 86_400_000;
/** When it was last used is written down this often at most. */
const noteEvery = 3_600_000;

const hashOf = (token: string) => createHash("sha256").update(token).digest("hex");

/** Lets a browser in; answers the token that its cookie holds. The record keeps only its hash. */
export function makeSession(db: Db, now: number, userAgent: string): string {
  const token = randomBytes(32).toString("base64url");
  db.prepare("DELETE FROM session WHERE used_at <= ?").run(now - lives);
  db.prepare("INSERT INTO session (id, hash, made_at, used_at, browser) VALUES (?, ?, ?, ?, ?)").run(
    randomBytes(6).toString("hex"),
    hashOf(token),
    now,
    now,
    browserOf(userAgent),
  );
  return token;
}

/** The id of the session whose token this is; undefined where there is none, or it was not used for thirty days. */
export function findSession(db: Db, now: number, token: string): string | undefined {
  const row = db
    .prepare<[string, number], { id: string; usedAt: number }>(
      "SELECT id, used_at AS usedAt FROM session WHERE hash = ? AND used_at > ?",
    )
    .get(hashOf(token), now - lives);
  if (row && now - row.usedAt > noteEvery) db.prepare("UPDATE session SET used_at = ? WHERE id = ?").run(now, row.id);
  return row?.id;
}

/** The browsers that are let in, the last used first. */
export function sessions(engine: Reading, own?: string): SessionLine[] {
  const words = engine.words();
  return engine.db
    .prepare<[number], { id: string; madeAt: number; usedAt: number; browser: string }>(
      "SELECT id, made_at AS madeAt, used_at AS usedAt, browser FROM session WHERE used_at > ? ORDER BY used_at DESC, id",
    )
    .all(engine.now() - lives)
    .map(({ id, madeAt, usedAt, browser }) => ({
      id,
      browser,
      made: words.ago(madeAt),
      used: words.ago(usedAt),
      own: id === own,
    }));
}

/** Ends one session, or all: their pages are shut out at once. */
export function endSessions(engine: Engine, which: { session?: string }): { ended: number } {
  const { session } = which;
  const ended = engine.db
    .prepare<[string | null, string | null], string>("DELETE FROM session WHERE ? IS NULL OR id = ? RETURNING id")
    .pluck()
    .all(session ?? null, session ?? null);
  if (session !== undefined && ended.length === 0) throw new Problem("unknown-session", { name: session });
  engine.events.emit({ type: "ended", sessions: ended });
  return { ended: ended.length };
}
