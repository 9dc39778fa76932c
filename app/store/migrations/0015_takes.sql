-- Takes told by number, what is set aside, who handed a drawing in and with which note, and what a lead chose to have fixed.

ALTER TABLE drawings
    -- Where a drawing belongs, where shot and drawing are known: shot and character.
    ADD COLUMN place text GENERATED ALWAYS AS (CASE
        WHEN btrim(coalesce(manifest->>'shot', '')) <> '' AND btrim(coalesce(manifest->>'drawing', '')) <> ''
        THEN lower(btrim(manifest->>'shot')) || '|' || lower(btrim(coalesce(manifest->>'character', ''))) || '|' END) STORED,
    -- Removed, or no drawing at all: it is in no count, no lane and no sequence, and can be restored.
    ADD COLUMN aside text CHECK (aside IN ('removed', 'no-drawing')),
    ADD COLUMN aside_by uuid REFERENCES members,
    ADD COLUMN aside_at timestamptz,
    -- It may be the next take of one of these: somebody says which.
    ADD COLUMN asks uuid[] NOT NULL DEFAULT '{}',
    ADD COLUMN note text NOT NULL DEFAULT '',
    ADD COLUMN added_by uuid REFERENCES members;
CREATE INDEX drawings_place ON drawings (place) WHERE place IS NOT NULL;
CREATE INDEX drawings_aside ON drawings (delivery_id) WHERE aside IS NOT NULL;

-- What must be fixed of a returned drawing: kinds, roles and places. None: all that the guide says must be.
ALTER TABLE decisions ADD COLUMN fix jsonb;

-- What was known by shot and number keeps what it was known by: drawings of one delivery are never joined by this.
CREATE OR REPLACE VIEW takes AS
SELECT e.id AS earlier, l.id AS later, ed.production_id, e.added_at AS earlier_at, l.added_at AS later_at,
       e.state AS earlier_state, ed.archived_at AS earlier_archived_at
FROM drawings e
JOIN deliveries ed ON ed.id = e.delivery_id
JOIN drawings l ON l.subject = e.subject AND l.by_name = e.by_name AND l.added_at > e.added_at
JOIN deliveries ld ON ld.id = l.delivery_id AND ld.production_id = ed.production_id AND (ld.id = ed.id OR NOT e.by_name)
WHERE e.aside IS NULL AND l.aside IS NULL;

-- Why a version of a guide was made.
ALTER TABLE guide_versions ADD COLUMN note text NOT NULL DEFAULT '';

-- What is left out of one drawing, in px of the guide's page; it goes with its takes.
CREATE TABLE regions (
    id uuid PRIMARY KEY,
    drawing_id uuid NOT NULL REFERENCES drawings ON DELETE CASCADE,
    region jsonb NOT NULL,
    by_id uuid NOT NULL REFERENCES members,
    at timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX regions_drawing ON regions (drawing_id);
