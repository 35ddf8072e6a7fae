-- The files of each parcel, and how far each is on its way: known before the first is sent.
CREATE TABLE parcel_file (
  parcel TEXT NOT NULL,         -- of record parcel:ID
  path TEXT NOT NULL,           -- in the parcel, beginning with data/
  item TEXT NOT NULL,           -- the thing that it is, or is in
  bytes INTEGER NOT NULL,
  state TEXT NOT NULL,          -- waiting; written: it lies in the depot; proven: it was read back and is the same
  sha256 TEXT,                  -- of what was read from the original, once it was
  PRIMARY KEY (parcel, path)
) STRICT, WITHOUT ROWID;
