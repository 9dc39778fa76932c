-- A production that is over: looked at, and not changed, until a lead restores it.
ALTER TABLE productions ADD COLUMN archived_at timestamptz;
-- What a row of the log is a picture of: so many drawings, a pen or a brush.
ALTER TABLE audit ADD COLUMN shows text, ADD COLUMN shown uuid[] NOT NULL DEFAULT '{}';
