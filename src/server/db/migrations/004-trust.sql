-- The browsers that were let in. Only a hash of what their cookie holds.
CREATE TABLE session (
  id TEXT PRIMARY KEY,
  hash TEXT NOT NULL UNIQUE,
  made_at INTEGER NOT NULL,     -- milliseconds since 1970
  used_at INTEGER NOT NULL,
  browser TEXT NOT NULL
) STRICT, WITHOUT ROWID;

-- The temporary names of steps under way: random, and written down before they are used. Entry 0 is the sizes of a trash.
CREATE TABLE temporary (
  entry INTEGER NOT NULL,
  n INTEGER NOT NULL,
  role TEXT NOT NULL,           -- copy, aside
  path BLOB NOT NULL,
  ino TEXT,                     -- of what lies there, once that is known
  PRIMARY KEY (entry, n, role)
) STRICT, WITHOUT ROWID;

-- Verdicts as they were given in a sitting: answered once they stand here, and done from here in this order.
CREATE TABLE given (
  n INTEGER PRIMARY KEY AUTOINCREMENT,
  id TEXT NOT NULL UNIQUE,      -- made by the page: what is sent twice is done once
  act TEXT NOT NULL,
  input TEXT NOT NULL,          -- JSON
  at INTEGER NOT NULL,
  answer TEXT                   -- JSON, once it is done
) STRICT;
CREATE INDEX given_open ON given (n) WHERE answer IS NULL;
-- The verdict that an entry does, where it was given so.
ALTER TABLE entry ADD COLUMN given TEXT;
CREATE INDEX entry_given ON entry (given) WHERE given IS NOT NULL;
