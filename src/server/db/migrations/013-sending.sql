-- Parcels on their way to a depot, or cut short on it: what is needed to go on from where it stopped.
CREATE TABLE sending (
  parcel TEXT PRIMARY KEY,      -- of record parcel:ID
  depot TEXT NOT NULL,          -- of record depot:ID
  part BLOB NOT NULL,           -- the name of its folder in the depot until it is committed; nobody else gives it
  bag BLOB,                     -- the name that it is given, written down before it is
  stage TEXT NOT NULL,          -- sending; sealed: all of it was sent; named: it has its last name
  state TEXT NOT NULL,          -- going, paused, failed; removing: what was sent is to go, and parcel is an id of its own
  problem TEXT,                 -- why it failed or waits, as JSON
  tags TEXT,                    -- SHA-256 of its tag manifest, once there is one
  at INTEGER NOT NULL           -- when it was begun; milliseconds since 1970
) STRICT;

-- The things in a parcel that is or was sent.
CREATE TABLE parcel_thing (
  parcel TEXT NOT NULL,
  item TEXT NOT NULL,
  payload TEXT NOT NULL,        -- its name below data/
  name BLOB,                    -- what it is called, and the folder that it lay in
  folder BLOB,
  state TEXT,                   -- in which it was packed, as treeState tells it; null before that
  entries TEXT,                 -- all that is in it, as things.json keeps it, checksums aside; JSON
  problem TEXT,                 -- why it is left out, as JSON
  PRIMARY KEY (parcel, item)
) STRICT, WITHOUT ROWID;

ALTER TABLE parcel_file ADD COLUMN seen TEXT;                      -- the state of the original when it was read
ALTER TABLE parcel_file ADD COLUMN proven_at INTEGER;              -- when it was last read back; milliseconds since 1970
ALTER TABLE parcel_file ADD COLUMN tries INTEGER NOT NULL DEFAULT 0; -- how often it was given back otherwise than sent

-- When a parcel was last read from end to end, and what was found then.
CREATE TABLE parcel_check (
  parcel TEXT PRIMARY KEY,
  at INTEGER NOT NULL,          -- milliseconds since 1970
  damaged TEXT NOT NULL         -- paths in the bag that were not as sent, as a JSON list; empty where it was whole
) STRICT, WITHOUT ROWID;

-- Parcels that lie in a depot and were not sent from here: what they say of themselves, as far as it was read.
CREATE TABLE found_parcel (
  parcel TEXT PRIMARY KEY,
  depot TEXT NOT NULL,
  bag BLOB NOT NULL,
  title TEXT NOT NULL,
  things INTEGER NOT NULL,
  files INTEGER NOT NULL,
  bytes INTEGER NOT NULL,
  at INTEGER NOT NULL
) STRICT, WITHOUT ROWID;

-- What checks have read of a depot in a month, for those with a bound.
CREATE TABLE checked_bytes (
  depot TEXT NOT NULL,
  month TEXT NOT NULL,          -- YYYY-MM
  bytes INTEGER NOT NULL,
  PRIMARY KEY (depot, month)
) STRICT, WITHOUT ROWID;

-- What a depot held when it was last in reach, for drawing it while it is away.
CREATE TABLE depot_seen (
  depot TEXT PRIMARY KEY,
  free INTEGER,
  total INTEGER,
  at INTEGER NOT NULL
) STRICT, WITHOUT ROWID;
