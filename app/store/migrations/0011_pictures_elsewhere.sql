-- A picture's bytes may lie in a store of their own, by their SHA-256: then they are null here.
ALTER TABLE images ALTER COLUMN size DROP EXPRESSION;
ALTER TABLE images ALTER COLUMN size SET NOT NULL;
ALTER TABLE images ALTER COLUMN bytes DROP NOT NULL;

-- What a drawing's artist is known by, and the last decision on it: both are asked for at every look at a desk.
CREATE INDEX drawings_artist ON drawings (lower(btrim(manifest->>'artist')), delivery_id) WHERE NOT superseded;
