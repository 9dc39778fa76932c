-- The team: what a drawing keeps for it, trims; invitations, sign-ins, the log's versions, archiving.

ALTER TABLE drawings ADD COLUMN measured jsonb;

CREATE TABLE trims (
    id uuid PRIMARY KEY,
    production_id uuid NOT NULL REFERENCES productions,
    artist text NOT NULL,
    role text NOT NULL,
    guide_id uuid NOT NULL REFERENCES guides,
    trim jsonb NOT NULL,
    -- What it is carried onto: a brush's weight curve or a profile's response, with the curve as it would be.
    onto text NOT NULL CHECK (onto IN ('brush', 'profile')),
    brush_id uuid NOT NULL REFERENCES brushes,
    brush_version integer NOT NULL,
    profile_id uuid REFERENCES profiles,
    curve jsonb NOT NULL,
    says text NOT NULL,
    state text NOT NULL DEFAULT 'offered' CHECK (state IN ('offered', 'taken', 'declined', 'withdrawn')),
    offered_by uuid NOT NULL REFERENCES members,
    offered_at timestamptz NOT NULL DEFAULT now(),
    answered_by uuid REFERENCES members,
    answered_at timestamptz,
    -- The brush or the profile that was made of it.
    made uuid
);
CREATE INDEX trims_production ON trims (production_id, offered_at);
CREATE UNIQUE INDEX trims_open ON trims (production_id, artist, role) WHERE state = 'offered';

CREATE TABLE invitations (
    id uuid PRIMARY KEY,
    production_id uuid NOT NULL REFERENCES productions,
    email text NOT NULL,
    part text NOT NULL CHECK (part IN ('lead', 'artist', 'viewer')),
    -- Of the link's secret: the link itself is nowhere.
    secret_sha256 text NOT NULL UNIQUE,
    by_id uuid NOT NULL REFERENCES members,
    at timestamptz NOT NULL DEFAULT now(),
    expires_at timestamptz NOT NULL DEFAULT now() + interval '14 days',
    accepted_by uuid REFERENCES members,
    withdrawn_at timestamptz
);
CREATE UNIQUE INDEX invitations_open ON invitations (production_id, email) WHERE accepted_by IS NULL AND withdrawn_at IS NULL;

CREATE TABLE sign_ins (
    id uuid PRIMARY KEY,
    member_id uuid NOT NULL REFERENCES members,
    at timestamptz NOT NULL DEFAULT now(),
    seen_at timestamptz NOT NULL DEFAULT now(),
    agent text NOT NULL,
    ended_at timestamptz
);
CREATE INDEX sign_ins_member ON sign_ins (member_id) WHERE ended_at IS NULL;

ALTER TABLE audit ADD COLUMN from_version integer, ADD COLUMN to_version integer;
CREATE INDEX audit_production ON audit (production_id, id DESC);

ALTER TABLE pens ADD COLUMN archived_at timestamptz;
ALTER TABLE profiles ADD COLUMN archived_at timestamptz;
ALTER TABLE brushes ADD COLUMN archived_at timestamptz;
ALTER TABLE guides ADD COLUMN archived_at timestamptz;
ALTER TABLE deliveries ADD COLUMN archived_at timestamptz;
ALTER TABLE trial_pages ADD COLUMN archived_at timestamptz;
