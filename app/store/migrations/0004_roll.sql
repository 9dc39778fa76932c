-- Brushes are tagged and know when they were last used; a production has a pen roll; blind proofs are kept with the version.
ALTER TABLE brushes ADD COLUMN tags text[] NOT NULL DEFAULT '{}';
ALTER TABLE brushes ADD COLUMN used_at timestamptz;

CREATE TABLE pen_roll (
    production_id uuid NOT NULL REFERENCES productions,
    role text NOT NULL,
    place integer NOT NULL,
    brush_id uuid NOT NULL,
    version integer NOT NULL,
    colour text,
    weight_factor double precision NOT NULL,
    PRIMARY KEY (production_id, role),
    FOREIGN KEY (brush_id, version) REFERENCES brush_versions
);

CREATE TABLE blind_proofs (
    id uuid PRIMARY KEY,
    brush_id uuid NOT NULL,
    version integer NOT NULL,
    -- Which of the lines shown were the pen's, in the order shown.
    of_pen boolean[] NOT NULL,
    -- Absent until the artist has said of each which it is.
    answers boolean[],
    created_by uuid NOT NULL REFERENCES members,
    created_at timestamptz NOT NULL DEFAULT now(),
    FOREIGN KEY (brush_id, version) REFERENCES brush_versions
);
