-- The browsers that were let in. Only a hash of what their cookie holds.
CREATE TABLE session (
  id TEXT PRIMARY KEY,
  hash TEXT NOT NULL UNIQUE,
  made_at INTEGER NOT NULL,     -- milliseconds since 1970
  used_at INTEGER NOT NULL,
  browser TEXT NOT NULL
) STRICT, WITHOUT ROWID;
