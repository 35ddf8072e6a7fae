-- When a thing was last opened, as far as the file system records it; milliseconds since 1970.
ALTER TABLE item ADD COLUMN opened_at INTEGER;

-- What lies in the homes, the protected places and the folders on the worktops: a row for each folder, with a checksum of
-- the names and states in it, so that one that is unchanged is not written again.
DROP TABLE filed;
DROP TABLE home_folder;
CREATE TABLE folder (
  id INTEGER PRIMARY KEY,
  place BLOB NOT NULL UNIQUE,
  key TEXT NOT NULL,            -- made from the place's bytes: the home's id
  home INTEGER NOT NULL,        -- 0 where it is in no home
  files INTEGER NOT NULL,
  state TEXT NOT NULL,
  walk INTEGER NOT NULL
) STRICT;
CREATE TABLE filed (
  folder INTEGER NOT NULL REFERENCES folder (id) ON DELETE CASCADE,
  name BLOB NOT NULL,
  kind TEXT NOT NULL,
  bytes INTEGER NOT NULL,
  mtime_ns TEXT NOT NULL,
  ino TEXT NOT NULL,
  sha256 TEXT,
  PRIMARY KEY (folder, name)
) STRICT, WITHOUT ROWID;
CREATE INDEX filed_bytes ON filed (bytes);
CREATE INDEX filed_sha256 ON filed (sha256) WHERE sha256 IS NOT NULL;
CREATE VIEW filed_at AS
  SELECT folder.id AS folder_id, folder.place AS folder, folder.home, filed.name, filed.kind, filed.bytes, filed.mtime_ns, filed.ino, filed.sha256
  FROM filed JOIN folder ON folder.id = filed.folder;

-- What comparing an archive with its unpacked folder came to, and the state of both at that time.
CREATE TABLE compared (
  item TEXT PRIMARY KEY,
  state TEXT NOT NULL,
  outcome TEXT NOT NULL         -- JSON
) STRICT, WITHOUT ROWID;

-- The figures of a worktop at the last look of each day, to compare with.
CREATE TABLE figures_of_day (
  day TEXT NOT NULL,            -- YYYY-MM-DD, the person's own
  worktop TEXT NOT NULL,
  figures TEXT NOT NULL,        -- JSON
  PRIMARY KEY (day, worktop)
) STRICT, WITHOUT ROWID;
