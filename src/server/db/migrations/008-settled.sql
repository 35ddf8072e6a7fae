-- What a thing took when a verdict was given on it: of a folder that cannot be told any more once it has left.
ALTER TABLE sitting_verdict ADD COLUMN bytes INTEGER;
