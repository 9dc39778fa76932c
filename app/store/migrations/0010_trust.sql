-- Who may do what, what two people do at once, and what a machine keeps.

-- A session holds this stamp, which changes with the password; the password's hash stands in no session.
ALTER TABLE members
    ADD COLUMN stamp uuid NOT NULL DEFAULT gen_random_uuid(),
    ADD COLUMN disabled_at timestamptz,
    DROP COLUMN failures,
    DROP COLUMN locked_until;
DO $$ BEGIN
    IF to_regclass('tower_sessions.session') IS NOT NULL THEN DELETE FROM tower_sessions.session; END IF;
END $$;

-- Wrong passwords by address and network: a stranger elsewhere locks nobody out. Addresses that nobody has are counted alike.
CREATE TABLE sign_in_failures (
    address_sha256 text NOT NULL,
    network text NOT NULL,
    failures integer NOT NULL,
    locked_until timestamptz,
    last_at timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (address_sha256, network)
);
CREATE INDEX sign_in_failures_last ON sign_in_failures (last_at);

-- The codes that consoles printed while there was no member.
CREATE TABLE setup_codes (sha256 text PRIMARY KEY, at timestamptz NOT NULL DEFAULT now());

-- Which member an artist of the manifests is: a lead says so, a name alone gives no right.
CREATE TABLE artist_members (
    production_id uuid NOT NULL REFERENCES productions,
    -- In small letters, as manifests by several hands are not.
    artist text NOT NULL,
    member_id uuid NOT NULL REFERENCES members,
    linked_by uuid NOT NULL REFERENCES members,
    at timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (production_id, artist)
);
CREATE INDEX artist_members_member ON artist_members (member_id);

-- Unsaved work on a brush is a member's own, and knows the version that it began from. What was kept for all goes to who saved last.
CREATE TABLE brush_drafts (
    brush_id uuid NOT NULL REFERENCES brushes ON DELETE CASCADE,
    member_id uuid NOT NULL REFERENCES members,
    draft jsonb NOT NULL,
    from_version integer NOT NULL,
    at timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (brush_id, member_id)
);
INSERT INTO brush_drafts (brush_id, member_id, draft, from_version)
SELECT b.id, v.created_by, b.draft, b.current_version FROM brushes b
JOIN brush_versions v ON v.brush_id = b.id AND v.version = b.current_version WHERE b.draft IS NOT NULL;
ALTER TABLE brushes DROP COLUMN draft;

-- What is set as a whole carries the version that it started from.
ALTER TABLE brushes ADD COLUMN tags_version integer NOT NULL DEFAULT 1;
ALTER TABLE pens ADD COLUMN tags_version integer NOT NULL DEFAULT 1;
ALTER TABLE deliveries ADD COLUMN manifest_version integer NOT NULL DEFAULT 1;

-- Pictures: how large, since when a production holds them, what was made of them for a page; a production's share of the disk.
ALTER TABLE images ADD COLUMN size bigint GENERATED ALWAYS AS (octet_length(bytes)) STORED;
ALTER TABLE production_images ADD COLUMN at timestamptz NOT NULL DEFAULT now();
CREATE TABLE derived_images (
    sha256 text NOT NULL REFERENCES images ON DELETE CASCADE,
    kind text NOT NULL,
    bytes bytea NOT NULL,
    PRIMARY KEY (sha256, kind)
);
ALTER TABLE productions ADD COLUMN quota_bytes bigint NOT NULL DEFAULT 53687091200;

-- What is looked for by.
CREATE INDEX drawings_sha ON drawings (sha256);
CREATE INDEX production_images_sha ON production_images (sha256);
CREATE INDEX pens_production ON pens (production_id);
CREATE INDEX pens_scan ON pens (scan_sha256);
CREATE INDEX profiles_production ON profiles (production_id);
CREATE INDEX brushes_production ON brushes (production_id);
CREATE INDEX brushes_pen ON brushes (pen_id);
CREATE INDEX guides_production ON guides (production_id);
CREATE INDEX deliveries_production ON deliveries (production_id);
CREATE INDEX deliveries_guide ON deliveries (guide_id);
CREATE INDEX trial_pages_production ON trial_pages (production_id);
CREATE INDEX trial_pages_pictures ON trial_pages USING gin (pictures);
CREATE INDEX memberships_member ON memberships (member_id);
CREATE INDEX blind_proofs_brush ON blind_proofs (brush_id);
CREATE INDEX pen_roll_brush ON pen_roll (brush_id);
CREATE INDEX sign_ins_seen ON sign_ins (seen_at);

-- A way in for who forgot their password: a lead of all their productions gives it. Of the link's secret: the link itself is nowhere.
CREATE TABLE password_resets (
    secret_sha256 text PRIMARY KEY,
    member_id uuid NOT NULL REFERENCES members,
    by_id uuid NOT NULL REFERENCES members,
    expires_at timestamptz NOT NULL DEFAULT now() + interval '1 day'
);
CREATE INDEX password_resets_member ON password_resets (member_id);
