#!/usr/bin/env bash
# A production with 100,000 drawings: how long the queries of the pages take on it, and which of them read a table from end to end.
# bench/many.sh [DELIVERIES 200]: 500 drawings in each.
# Two read a table whole because they need a tenth of it or all of it: the first takes of a team, and the hourly sweep.
set -euo pipefail
. "$(dirname "${BASH_SOURCE[0]}")/../bin/lib.sh"
cd "$root"
PG_FSYNC=off start_postgres "$data/test" eddymist_many CREATEDB
trap 'drop_database eddymist_many; stop_postgres' EXIT
drop_database eddymist_many; as_owner postgres -c 'CREATE DATABASE eddymist_many OWNER eddymist'
for f in app/store/migrations/*.sql; do psql -q -v ON_ERROR_STOP=1 "$DATABASE_URL" -f "$f" >/dev/null; done
psql -q -v ON_ERROR_STOP=1 -v n="${1:-200}" "$DATABASE_URL" <<'SQL'
SET client_min_messages = error;
INSERT INTO members (id, name, email, password_hash) VALUES ('00000000-0000-4000-8000-000000000001', 'm', 'm', '');
INSERT INTO productions (id, name) SELECT ('00000000-0000-4000-8000-0000000001' || lpad(k::text, 2, '0'))::uuid, 'p' || k FROM generate_series(10, 19) k;
INSERT INTO guides (id, production_id, current_version) VALUES ('00000000-0000-4000-8000-000000000002', '00000000-0000-4000-8000-000000000110', 1);
INSERT INTO guide_versions (guide_id, version, guide, created_by) VALUES ('00000000-0000-4000-8000-000000000002', 1, '{}', '00000000-0000-4000-8000-000000000001');
-- Nine tenths of it is other productions'.
INSERT INTO deliveries (id, production_id, name, pattern, guide_id, guide_version, created_by)
SELECT gen_random_uuid(), ('00000000-0000-4000-8000-0000000001' || (10 + k % 10))::uuid, 'd' || k, '', '00000000-0000-4000-8000-000000000002', 1, '00000000-0000-4000-8000-000000000001'
FROM generate_series(1, :n) k;
INSERT INTO images (sha256, media_type, bytes, size) SELECT encode(sha256(k::text::bytea), 'hex'), 'image/png', 'x', 1 FROM generate_series(1, :n * 500) k;
INSERT INTO production_images (production_id, sha256, at, size)
SELECT ('00000000-0000-4000-8000-0000000001' || (10 + k % 10))::uuid, encode(sha256(k::text::bytea), 'hex'), now() - interval '2 days', 1 FROM generate_series(1, :n * 500) k;
INSERT INTO drawings (id, delivery_id, file, sha256, manifest, state, subject, measured, summary, result)
SELECT gen_random_uuid(), d.id, k || '.png', encode(sha256(((row_number() OVER ())::text)::bytea), 'hex'), jsonb_build_object('artist', (ARRAY['dov', 'ilse', 'wanda'])[1 + k % 3]), 'done',
  d.id || '|' || k, '{}', '{}', jsonb_build_object('hand_on', CASE WHEN k % 2 = 0 THEN 'return' ELSE 'ready' END, 'findings', f.found)
-- As large as a drawing with some thirty findings is, and as hard to pack.
FROM deliveries d, generate_series(1, 500) k, LATERAL (SELECT string_agg(md5(d.id::text || k || j), '') AS found FROM generate_series(1, 128) j) f;
INSERT INTO decisions (drawing_id, number, state, by_id) SELECT id, 1, 'return', '00000000-0000-4000-8000-000000000001' FROM drawings WHERE random() < 0.5;
INSERT INTO artist_members VALUES ('00000000-0000-4000-8000-000000000110', 'dov', '00000000-0000-4000-8000-000000000001', '00000000-0000-4000-8000-000000000001');
VACUUM ANALYZE;
SQL
psql -q -v ON_ERROR_STOP=1 "$DATABASE_URL" -tA <<'SQL' | python3 -c '
import re, sys
for one in sys.stdin.read().split("## ")[1:]:
    name, plan = one.split("\n", 1)
    ms = float(re.search(r"Execution Time: ([\d.]+)", plan).group(1))
    ends = sorted(set(re.findall(r"Seq Scan on (drawings|images|decisions|production_images)", plan)))
    print(name, "ms", f"{ms:.1f}", "reads from end to end: " + ", ".join(ends) if ends else "by indexes", sep="\t")
'
\set p '''00000000-0000-4000-8000-000000000110'''
\set m '''00000000-0000-4000-8000-000000000001'''
SELECT id AS d FROM deliveries WHERE production_id = :p LIMIT 1 \gset
SELECT id AS w, sha256 AS s FROM drawings WHERE delivery_id = :'d' LIMIT 1 \gset
SELECT '## deliveries of a production';
EXPLAIN ANALYZE SELECT d.id, d.name, d.created_at, count(w.id), count(w.id) FILTER (WHERE w.state = 'done'), count(w.id) FILTER (WHERE w.hand_on = 'return' AND coalesce(c.state, 'open') = 'open') FROM (SELECT id, name, created_at FROM deliveries WHERE production_id = :p AND archived_at IS NULL
  ORDER BY created_at DESC, id DESC LIMIT 100) d LEFT JOIN drawings w ON w.delivery_id = d.id AND NOT w.superseded
  LEFT JOIN LATERAL (SELECT state FROM decisions WHERE drawing_id = w.id ORDER BY number DESC LIMIT 1) c ON true GROUP BY d.id, d.name, d.created_at;
SELECT '## drawings of a delivery';
EXPLAIN ANALYZE SELECT w.id, EXISTS (SELECT FROM takes WHERE later = w.id), EXISTS (SELECT FROM takes WHERE earlier = w.id) FROM drawings w
  LEFT JOIN LATERAL (SELECT * FROM decisions WHERE drawing_id = w.id ORDER BY number DESC LIMIT 1) c ON true WHERE w.delivery_id = :'d' AND NOT w.superseded;
SELECT '## other files with the same picture';
EXPLAIN ANALYZE SELECT o.file FROM drawings w JOIN drawings o ON o.sha256 = w.sha256 AND o.id <> w.id JOIN deliveries od ON od.id = o.delivery_id AND od.production_id = :p WHERE w.id = :'w' ORDER BY o.added_at LIMIT 5;
SELECT '## returned to a member';
EXPLAIN ANALYZE SELECT d.id, count(*) FROM drawings w JOIN deliveries d ON d.id = w.delivery_id
  JOIN artist_members a ON a.production_id = d.production_id AND a.artist = lower(w.artist) AND a.member_id = :m
  JOIN LATERAL (SELECT state FROM decisions WHERE drawing_id = w.id ORDER BY number DESC LIMIT 1) c ON c.state = 'return'
  WHERE d.production_id = :p AND NOT w.superseded AND NOT EXISTS (SELECT FROM takes WHERE earlier = w.id) GROUP BY d.id;
SELECT '## the team: the first takes';
EXPLAIN ANALYZE SELECT w.id, w.measured FROM drawings w JOIN deliveries d ON d.id = w.delivery_id WHERE d.production_id = :p AND d.guide_id = '00000000-0000-4000-8000-000000000002' AND w.state = 'done'
  AND NOT EXISTS (SELECT FROM takes WHERE later = w.id AND earlier_archived_at IS NULL AND earlier_state = 'done');
SELECT '## a picture by its hash';
EXPLAIN ANALYZE SELECT i.bytes FROM images i JOIN production_images p USING (sha256) WHERE p.production_id = :p AND i.sha256 = :'s';
SELECT '## what waits (each worker, every three seconds)';
EXPLAIN ANALYZE SELECT w.id FROM drawings w JOIN deliveries d ON d.id = w.delivery_id WHERE w.state = 'waiting' AND NOT w.superseded AND NOT d.stopped AND w.queued_at IS NULL;
SELECT '## deliveries without a sequence (the same)';
EXPLAIN ANALYZE SELECT d.id FROM deliveries d WHERE (d.sequence IS NULL OR d.sequence_run IS DISTINCT FROM d.run) AND EXISTS (SELECT FROM drawings WHERE delivery_id = d.id AND state = 'done')
  AND NOT EXISTS (SELECT FROM drawings WHERE delivery_id = d.id AND NOT superseded AND state = 'waiting');
SELECT '## space used (once a minute and production, while pictures come)';
EXPLAIN ANALYZE SELECT coalesce(sum(size), 0), count(*) FROM production_images WHERE production_id = :p;
SELECT '## artists of the manifests';
EXPLAIN ANALYZE SELECT DISTINCT w.artist FROM drawings w JOIN deliveries d ON d.id = w.delivery_id WHERE d.production_id = :p;
SELECT '## pictures that nothing refers to (hourly)';
EXPLAIN ANALYZE SELECT FROM production_images i WHERE i.at < now() - interval '1 day'
  AND NOT EXISTS (SELECT FROM drawings w JOIN deliveries d ON d.id = w.delivery_id WHERE d.production_id = i.production_id AND w.sha256 = i.sha256)
  AND NOT EXISTS (SELECT FROM pens p WHERE p.production_id = i.production_id AND p.scan_sha256 = i.sha256)
  AND NOT EXISTS (SELECT FROM trial_pages t WHERE t.production_id = i.production_id AND t.pictures @> ARRAY[i.sha256]);
SQL
