-- What was told by the wording of messages and names stands in columns of its own.

-- A file that could not be taken in: a check has nothing to look at, however often it is begun anew.
ALTER TABLE drawings ADD COLUMN refused boolean NOT NULL DEFAULT false;
UPDATE drawings SET refused = true WHERE state = 'failed' AND message LIKE 'not taken in:%';

-- Known by its file's name alone: takes are told within its delivery, elsewhere the same name may be another drawing.
ALTER TABLE drawings ADD COLUMN by_name boolean NOT NULL DEFAULT false;
UPDATE drawings SET by_name = true, subject = substr(subject, 6) WHERE subject LIKE 'name:%';

-- The brushes that a trial page is inked with, and the pictures that it shows.
ALTER TABLE trial_pages
    ADD COLUMN brushes uuid[] NOT NULL DEFAULT '{}',
    ADD COLUMN pictures text[] NOT NULL DEFAULT '{}';
UPDATE trial_pages SET
    brushes = ARRAY(SELECT DISTINCT (s->>'brush_id')::uuid FROM jsonb_array_elements(page->'strokes') AS s),
    pictures = ARRAY(
        SELECT page->>'rough' WHERE page->>'rough' IS NOT NULL
        UNION SELECT jsonb_array_elements_text(coalesce(page->'neighbours', '[]'::jsonb)));

-- Two takes of one drawing, whatever lies between them: of one production, and of one delivery where only the name tells it.
CREATE VIEW takes AS
SELECT e.id AS earlier, l.id AS later, ed.production_id, e.added_at AS earlier_at, l.added_at AS later_at,
       e.state AS earlier_state, ed.archived_at AS earlier_archived_at
FROM drawings e
JOIN deliveries ed ON ed.id = e.delivery_id
JOIN drawings l ON l.subject = e.subject AND l.by_name = e.by_name AND l.added_at > e.added_at
JOIN deliveries ld ON ld.id = l.delivery_id AND ld.production_id = ed.production_id AND (ld.id = ed.id OR NOT e.by_name);
