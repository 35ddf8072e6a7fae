-- When a thing was last opened, as far as the file system records it; milliseconds since 1970.
ALTER TABLE item ADD COLUMN opened_at INTEGER;

-- What lies in protected places is listed with what lies in the homes; 0 where it lies in no home.
ALTER TABLE filed ADD COLUMN home INTEGER NOT NULL DEFAULT 1;
CREATE INDEX filed_sha256 ON filed (sha256) WHERE sha256 IS NOT NULL;

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
