-- A plan is written once, and may hold a tree of very many; how each of its steps stands changes, and lies beside it: to change a row
-- is to write all of it anew.
CREATE TABLE step_state (
  entry INTEGER NOT NULL REFERENCES entry (id),
  n INTEGER NOT NULL,
  state TEXT NOT NULL,          -- planned, done, undone, refused
  note TEXT,                    -- JSON: what doing it found out
  PRIMARY KEY (entry, n)
) STRICT, WITHOUT ROWID;
INSERT INTO step_state (entry, n, state, note) SELECT entry, n, state, note FROM step;
ALTER TABLE step DROP COLUMN state;
ALTER TABLE step DROP COLUMN note;

-- Whether an act can be undone is asked with every frame: what it moved may have been destroyed since. Few acts destroy.
CREATE INDEX entry_destroying ON entry (id) WHERE act IN ('empty', 'parcel-delete');
