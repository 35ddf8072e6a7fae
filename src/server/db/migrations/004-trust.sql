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
