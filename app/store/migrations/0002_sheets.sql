-- Pens that came from a sampler sheet keep its reading; a sheet's number finds its pen again. Pens can be tagged.
ALTER TABLE pens ADD COLUMN sheet jsonb;
ALTER TABLE pens ADD COLUMN sheet_number text;
ALTER TABLE pens ADD COLUMN tags text[] NOT NULL DEFAULT '{}';
CREATE INDEX pens_by_sheet ON pens (production_id, sheet_number);
