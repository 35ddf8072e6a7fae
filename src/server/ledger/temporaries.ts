import { randomBytes } from "node:crypto";
import { joinRaw, type Raw, rawFromBytes } from "@/core/names/raw";
import type { Db } from "../db/db";
import { bytes } from "../disk/disk";

/** What a temporary name is for: what a step makes, or what it puts out of the way. */
export type TemporaryRole = "copy" | "aside";

export interface Temporary {
  path: Raw;
  /** The inode of what lies there, once that is known. */
  ino?: string;
}

/** A name that nobody else has. */
export const temporaryName = (): string => `.vuoto-${randomBytes(16).toString("hex")}.part`;

export const isTemporaryName = (name: Raw): boolean => /^\.vuoto-[0-9a-f]{32}\.part$/.test(name);

/** The temporary names of steps, each written down before it is used. */
export class Temporaries {
  constructor(private readonly db: Db) {}

  of(entry: number, n: number, role: TemporaryRole): Temporary | undefined {
    const row = this.db
      .prepare<[number, number, string], { path: Buffer; ino: string | null }>(
        "SELECT path, ino FROM temporary WHERE entry = ? AND n = ? AND role = ?",
      )
      .get(entry, n, role);
    return row && { path: rawFromBytes(row.path), ino: row.ino ?? undefined };
  }

  make(entry: number, n: number, role: TemporaryRole, folder: Raw): Raw {
    const path = joinRaw(folder, temporaryName());
    this.db
      .prepare("INSERT OR REPLACE INTO temporary (entry, n, role, path, ino) VALUES (?, ?, ?, ?, NULL)")
      .run(entry, n, role, bytes(path));
    return path;
  }

  made(entry: number, n: number, role: TemporaryRole, ino: string | null): void {
    this.db.prepare("UPDATE temporary SET ino = ? WHERE entry = ? AND n = ? AND role = ?").run(ino, entry, n, role);
  }
}
