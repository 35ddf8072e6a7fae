-- The words at the beginning of a text and the heads of its columns (with a colon in front), parted by spaces; NULL where not
-- read yet. And the host it was downloaded from, where that is recorded. Homes are learned from these.
ALTER TABLE filed ADD COLUMN words TEXT;
ALTER TABLE filed ADD COLUMN sender TEXT;
-- Things on the worktops are read once more, for theirs.
UPDATE item SET kind_why = '' WHERE worktop IS NOT NULL AND type = 'file';
