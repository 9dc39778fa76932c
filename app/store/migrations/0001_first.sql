-- Members, productions and what they hold. Versions, profiles and checks are immutable rows; "current" is a pointer.
CREATE TABLE members (
    id uuid PRIMARY KEY,
    name text NOT NULL,
    email text NOT NULL UNIQUE,
    password_hash text NOT NULL,
    failures integer NOT NULL DEFAULT 0,
    locked_until timestamptz,
    created_at timestamptz NOT NULL DEFAULT now()
);

CREATE TABLE productions (
    id uuid PRIMARY KEY,
    name text NOT NULL,
    demo boolean NOT NULL DEFAULT false,
    created_at timestamptz NOT NULL DEFAULT now()
);

CREATE TABLE memberships (
    production_id uuid NOT NULL REFERENCES productions,
    member_id uuid NOT NULL REFERENCES members,
    part text NOT NULL CHECK (part IN ('lead', 'artist', 'viewer')),
    PRIMARY KEY (production_id, member_id)
);

CREATE TABLE images (
    sha256 text PRIMARY KEY,
    media_type text NOT NULL,
    bytes bytea NOT NULL
);

-- Which production may read an image: the same picture is stored once.
CREATE TABLE production_images (
    production_id uuid NOT NULL REFERENCES productions,
    sha256 text NOT NULL REFERENCES images,
    PRIMARY KEY (production_id, sha256)
);

CREATE TABLE pens (
    id uuid PRIMARY KEY,
    production_id uuid NOT NULL REFERENCES productions,
    name text NOT NULL,
    card jsonb NOT NULL,
    lines jsonb NOT NULL,
    scan_sha256 text NOT NULL REFERENCES images,
    created_by uuid NOT NULL REFERENCES members,
    created_at timestamptz NOT NULL DEFAULT now()
);

CREATE TABLE profiles (
    id uuid PRIMARY KEY,
    production_id uuid NOT NULL REFERENCES productions,
    artist text NOT NULL,
    tablet text NOT NULL,
    profile jsonb NOT NULL,
    used jsonb NOT NULL,
    warmup text NOT NULL,
    created_by uuid NOT NULL REFERENCES members,
    created_at timestamptz NOT NULL DEFAULT now()
);

CREATE TABLE brushes (
    id uuid PRIMARY KEY,
    production_id uuid NOT NULL REFERENCES productions,
    name text NOT NULL,
    pen_id uuid REFERENCES pens,
    profile_id uuid REFERENCES profiles,
    current_version integer NOT NULL,
    draft jsonb,
    created_at timestamptz NOT NULL DEFAULT now()
);

CREATE TABLE brush_versions (
    brush_id uuid NOT NULL REFERENCES brushes,
    version integer NOT NULL,
    brush jsonb NOT NULL,
    says text NOT NULL,
    created_by uuid NOT NULL REFERENCES members,
    created_at timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (brush_id, version)
);

CREATE TABLE guides (
    id uuid PRIMARY KEY,
    production_id uuid NOT NULL REFERENCES productions,
    current_version integer NOT NULL
);

CREATE TABLE guide_versions (
    guide_id uuid NOT NULL REFERENCES guides,
    version integer NOT NULL,
    guide jsonb NOT NULL,
    created_by uuid NOT NULL REFERENCES members,
    created_at timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (guide_id, version)
);

CREATE TABLE deliveries (
    id uuid PRIMARY KEY,
    production_id uuid NOT NULL REFERENCES productions,
    name text NOT NULL,
    pattern text NOT NULL,
    guide_id uuid NOT NULL REFERENCES guides,
    guide_version integer NOT NULL,
    created_by uuid NOT NULL REFERENCES members,
    created_at timestamptz NOT NULL DEFAULT now()
);

CREATE TABLE drawings (
    id uuid PRIMARY KEY,
    delivery_id uuid NOT NULL REFERENCES deliveries,
    file text NOT NULL,
    sha256 text NOT NULL REFERENCES images,
    manifest jsonb NOT NULL,
    state text NOT NULL DEFAULT 'waiting' CHECK (state IN ('waiting', 'done', 'failed')),
    message text,
    result jsonb,
    lines jsonb,
    UNIQUE (delivery_id, file)
);

CREATE TABLE audit (
    id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    production_id uuid REFERENCES productions,
    member_id uuid REFERENCES members,
    at timestamptz NOT NULL DEFAULT now(),
    action text NOT NULL,
    subject text NOT NULL
);
