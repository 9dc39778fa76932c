-- What lists ask of every drawing and trial page stands beside their documents, so that no list reads those.
ALTER TABLE drawings
    ADD COLUMN hand_on text GENERATED ALWAYS AS (result->>'hand_on') STORED,
    ADD COLUMN artist text GENERATED ALWAYS AS (btrim(manifest->>'artist')) STORED;
ALTER TABLE trial_pages ADD COLUMN strokes integer GENERATED ALWAYS AS (jsonb_array_length(page->'strokes')) STORED;

DROP INDEX drawings_artist;
CREATE INDEX drawings_artist ON drawings (lower(artist), delivery_id) WHERE NOT superseded;
CREATE INDEX drawings_listed ON drawings (delivery_id, id) INCLUDE (state, hand_on) WHERE NOT superseded;
-- Who drew for a delivery; and any drawing of it.
CREATE INDEX drawings_artists ON drawings (delivery_id, artist);
DROP INDEX drawings_delivery;
-- The room that a production's pictures take, without a look at the pictures.
ALTER TABLE production_images ADD COLUMN size bigint;
UPDATE production_images o SET size = i.size FROM images i WHERE i.sha256 = o.sha256;
ALTER TABLE production_images ALTER COLUMN size SET NOT NULL;
CREATE INDEX production_images_size ON production_images (production_id) INCLUDE (size);
-- Lists go by when something came in.
CREATE INDEX brushes_listed ON brushes (production_id, created_at, id) WHERE archived_at IS NULL;
CREATE INDEX pens_listed ON pens (production_id, created_at, id) WHERE archived_at IS NULL;
CREATE INDEX profiles_listed ON profiles (production_id, created_at, id) WHERE archived_at IS NULL;
CREATE INDEX trial_pages_listed ON trial_pages (production_id, changed_at DESC, id DESC) WHERE archived_at IS NULL;
CREATE INDEX deliveries_listed ON deliveries (production_id, created_at DESC, id DESC) WHERE archived_at IS NULL;
