-- Takes, decisions, what is called meant, pins; checks that can be stopped and run again.

ALTER TABLE deliveries
    ADD COLUMN run integer NOT NULL DEFAULT 1,
    ADD COLUMN stopped boolean NOT NULL DEFAULT false,
    ADD COLUMN rows jsonb NOT NULL DEFAULT '{}',
    ADD COLUMN sequence jsonb,
    ADD COLUMN sequence_run integer;

-- A file of the same name is a later take of the drawing: the earlier one stays.
ALTER TABLE drawings
    DROP CONSTRAINT drawings_delivery_id_file_key,
    ADD COLUMN added_at timestamptz NOT NULL DEFAULT clock_timestamp(),
    ADD COLUMN superseded boolean NOT NULL DEFAULT false,
    ADD COLUMN subject text NOT NULL DEFAULT '',
    ADD COLUMN summary jsonb,
    ADD COLUMN queued_at timestamptz;
UPDATE drawings SET subject = lower(CASE
    WHEN coalesce(manifest->>'shot', '') <> '' AND coalesce(manifest->>'drawing', '') <> ''
    THEN (manifest->>'shot') || '|' || coalesce(manifest->>'character', '') || '|' || (manifest->>'drawing')
    ELSE 'name:' || regexp_replace(file, '^.*[/\\]', '') END);
CREATE UNIQUE INDEX drawings_file ON drawings (delivery_id, file) WHERE NOT superseded;
CREATE INDEX drawings_delivery ON drawings (delivery_id);
CREATE INDEX drawings_subject ON drawings (subject, added_at);
CREATE INDEX drawings_waiting ON drawings (queued_at) WHERE state = 'waiting';

CREATE TABLE decisions (
    drawing_id uuid NOT NULL REFERENCES drawings,
    number integer NOT NULL,
    state text NOT NULL CHECK (state IN ('ready', 'return', 'open')),
    note text NOT NULL DEFAULT '',
    strokes jsonb NOT NULL DEFAULT '[]',
    by_id uuid NOT NULL REFERENCES members,
    at timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (drawing_id, number)
);

CREATE TABLE dismissals (
    id uuid PRIMARY KEY,
    drawing_id uuid NOT NULL REFERENCES drawings,
    finding jsonb NOT NULL,
    why text NOT NULL,
    by_id uuid NOT NULL REFERENCES members,
    at timestamptz NOT NULL DEFAULT now(),
    carried_from uuid REFERENCES dismissals,
    undone_at timestamptz,
    undone_by uuid REFERENCES members
);
CREATE INDEX dismissals_drawing ON dismissals (drawing_id) WHERE undone_at IS NULL;

CREATE TABLE pins (
    id uuid PRIMARY KEY,
    drawing_id uuid NOT NULL REFERENCES drawings,
    x double precision NOT NULL,
    y double precision NOT NULL,
    text text NOT NULL,
    by_id uuid NOT NULL REFERENCES members,
    at timestamptz NOT NULL DEFAULT now(),
    undone_at timestamptz,
    undone_by uuid REFERENCES members
);
CREATE INDEX pins_drawing ON pins (drawing_id) WHERE undone_at IS NULL;
