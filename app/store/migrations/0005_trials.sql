-- Trial pages: strokes over a rough, each with the brush version that it was inked with.
CREATE TABLE trial_pages (
    id uuid PRIMARY KEY,
    production_id uuid NOT NULL REFERENCES productions,
    name text NOT NULL,
    page jsonb NOT NULL,
    revision integer NOT NULL,
    created_by uuid NOT NULL REFERENCES members,
    changed_at timestamptz NOT NULL DEFAULT now()
);
