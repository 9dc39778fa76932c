-- Pressure and ink of the same strokes, where a profile's response comes from them, and the pen whose lines they are.
ALTER TABLE profiles ADD COLUMN pairs jsonb;
ALTER TABLE profiles ADD COLUMN pairs_pen uuid REFERENCES pens (id) ON DELETE SET NULL;
CREATE INDEX profiles_pairs_pen ON profiles (pairs_pen) WHERE pairs_pen IS NOT NULL;
