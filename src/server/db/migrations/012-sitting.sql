-- What lay there when a sitting began, for what was won by it: figures, and where things lay on the desktop.
CREATE TABLE sitting (
  id TEXT PRIMARY KEY,
  began_at INTEGER NOT NULL,    -- milliseconds since 1970
  lay TEXT NOT NULL             -- JSON
) STRICT, WITHOUT ROWID;
