-- Names and paths are BLOBs: Linux names are bytes.
CREATE TABLE item (
  id TEXT PRIMARY KEY,
  worktop TEXT,                 -- desktop, downloads; NULL once it has left
  folder BLOB NOT NULL,
  name BLOB NOT NULL,
  type TEXT NOT NULL,           -- file, folder, link, special
  ino TEXT NOT NULL,
  dev TEXT NOT NULL,            -- holds for one boot
  bytes INTEGER NOT NULL,
  mtime_ns TEXT NOT NULL,
  kind TEXT NOT NULL,
  kind_why TEXT NOT NULL,
  facts TEXT NOT NULL,          -- JSON: what the kind's reader found (target of a shortcut, width, rows …)
  label TEXT NOT NULL,          -- the name as shown
  arrived_at INTEGER NOT NULL,  -- milliseconds since 1970
  read_at INTEGER NOT NULL,
  sha256 TEXT,                  -- of the state above
  moved TEXT,                   -- JSON: the identity under which the ledger last put it where it lies
  seen INTEGER NOT NULL DEFAULT 1
) STRICT;
CREATE UNIQUE INDEX item_place ON item (folder, name) WHERE seen = 1;
CREATE INDEX item_worktop ON item (worktop) WHERE seen = 1;
CREATE INDEX item_ino ON item (ino);

CREATE TABLE position (
  item TEXT PRIMARY KEY,
  x REAL NOT NULL,
  y REAL NOT NULL
) STRICT;

-- What lies in the homes, to learn from and to find twins among.
CREATE TABLE filed (
  folder BLOB NOT NULL,
  name BLOB NOT NULL,
  kind TEXT NOT NULL,
  bytes INTEGER NOT NULL,
  mtime_ns TEXT NOT NULL,
  ino TEXT NOT NULL,
  sha256 TEXT,
  walk INTEGER NOT NULL,
  PRIMARY KEY (folder, name)
) STRICT, WITHOUT ROWID;

CREATE TABLE home_folder (
  id TEXT PRIMARY KEY,          -- made from the folder's bytes
  folder BLOB NOT NULL UNIQUE,
  files INTEGER NOT NULL,
  walk INTEGER NOT NULL
) STRICT;
CREATE INDEX filed_bytes ON filed (bytes);

-- What the person decided, by a key such as verdict:ID, home:ID, depot:ID, parcel:ID, setting:NAME, shown. JSON values.
-- Written by the ledger only.
CREATE TABLE record (
  key TEXT PRIMARY KEY,
  value TEXT NOT NULL
) STRICT, WITHOUT ROWID;

CREATE TABLE entry (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
  act TEXT NOT NULL,
  words TEXT NOT NULL,
  at INTEGER NOT NULL,
  state TEXT NOT NULL,          -- running, done, undone
  target INTEGER NOT NULL,      -- the entry whose steps are worked on: itself, or the one undone or redone
  direction TEXT NOT NULL,      -- do, undo
  sitting TEXT,
  said TEXT NOT NULL            -- JSON: what was refused or left, and what recovery did
) STRICT;
CREATE INDEX entry_running ON entry (state) WHERE state = 'running';
CREATE INDEX entry_target ON entry (target);
CREATE INDEX entry_sitting ON entry (sitting) WHERE sitting IS NOT NULL;

CREATE TABLE step (
  entry INTEGER NOT NULL REFERENCES entry (id),
  n INTEGER NOT NULL,
  version INTEGER NOT NULL,     -- of the plan's format
  plan TEXT NOT NULL,           -- JSON
  state TEXT NOT NULL,          -- planned, done, undone, refused
  note TEXT,                    -- JSON: what doing it found out
  PRIMARY KEY (entry, n)
) STRICT, WITHOUT ROWID;

CREATE TABLE sitting_verdict (
  sitting TEXT NOT NULL,
  item TEXT NOT NULL,
  took_ms INTEGER NOT NULL,
  entry INTEGER NOT NULL REFERENCES entry (id),
  PRIMARY KEY (sitting, item, entry)
) STRICT;
