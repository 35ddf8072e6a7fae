-- Of parcels with very many files it is asked again and again how far they are, and where content lies.
CREATE INDEX parcel_file_item ON parcel_file (parcel, item, state, bytes);
CREATE INDEX parcel_file_sha256 ON parcel_file (sha256) WHERE sha256 IS NOT NULL;
CREATE INDEX item_sha256 ON item (sha256) WHERE sha256 IS NOT NULL;

-- Bytes a second, there and back taken together, when something was last on its way to a depot.
ALTER TABLE depot_seen ADD COLUMN rate REAL;
