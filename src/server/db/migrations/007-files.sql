-- Files that are known get an id of their own, which stays while they lie where they lie.
DROP VIEW filed_at;
CREATE TABLE filed_before AS SELECT * FROM filed;
DROP TABLE filed;
CREATE TABLE filed (
  id INTEGER PRIMARY KEY,
  folder INTEGER NOT NULL REFERENCES folder (id) ON DELETE CASCADE,
  name BLOB NOT NULL,
  kind TEXT NOT NULL,
  bytes INTEGER NOT NULL,
  mtime_ns TEXT NOT NULL,
  ino TEXT NOT NULL,
  sha256 TEXT,
  words TEXT,
  sender TEXT,
  UNIQUE (folder, name)
) STRICT;
INSERT INTO filed (folder, name, kind, bytes, mtime_ns, ino, sha256, words, sender)
  SELECT folder, name, kind, bytes, mtime_ns, ino, sha256, words, sender FROM filed_before;
DROP TABLE filed_before;
CREATE INDEX filed_bytes ON filed (bytes);
CREATE INDEX filed_sha256 ON filed (sha256) WHERE sha256 IS NOT NULL;
CREATE VIEW filed_at AS
  SELECT filed.id, folder.id AS folder_id, folder.place AS folder, folder.home, filed.name, filed.kind, filed.bytes, filed.mtime_ns, filed.ino, filed.sha256
  FROM filed JOIN folder ON folder.id = filed.folder;
