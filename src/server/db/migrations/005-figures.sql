-- How much is shown after an act of quiet: what the next undo takes back is told without reading its steps.
ALTER TABLE entry ADD COLUMN level TEXT;
UPDATE entry SET level = (
  SELECT plan -> '$.to' ->> 'level' FROM step WHERE step.entry = entry.id AND plan ->> 'type' = 'show'
) WHERE act = 'quiet' AND target = id;
-- Things on the worktops are read once more, for what containers hold.
UPDATE item SET kind_why = '' WHERE worktop IS NOT NULL AND type = 'file';
-- Who gave an act: window, command; and when a thing left the worktops. Neither can be made up later.
ALTER TABLE entry ADD COLUMN by TEXT;
ALTER TABLE item ADD COLUMN left_at INTEGER;
