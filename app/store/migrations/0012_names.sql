-- Names of a brush's fields follow the words on the screen: names alone change, in versions, drafts, profiles and what was offered.
CREATE FUNCTION pg_temp.renamed(d jsonb) RETURNS jsonb LANGUAGE plpgsql AS $$
DECLARE
    out jsonb := '{}';
    k text;
    v jsonb;
    kind text;
    brush boolean;
BEGIN
    IF jsonb_typeof(d) = 'array' THEN
        RETURN coalesce((SELECT jsonb_agg(pg_temp.renamed(e) ORDER BY n) FROM jsonb_array_elements(d) WITH ORDINALITY AS a (e, n)), '[]');
    ELSIF jsonb_typeof(d) <> 'object' THEN
        RETURN d;
    END IF;
    kind := d->>'kind';
    brush := d ? 'nib' AND d ? 'weight';
    FOR k, v IN SELECT * FROM jsonb_each(d) LOOP
        v := pg_temp.renamed(v);
        IF brush AND k = 'lay' THEN
            k := 'stroke';
            v := CASE v->>'kind'
                WHEN 'bent' THEN v || '{"kind": "shaped", "ends": "stretch"}'
                WHEN 'capped-run' THEN v || '{"kind": "shaped", "ends": "keep"}'
                WHEN 'bristled' THEN (v - 'stiffness' - 'load') || jsonb_build_object('kind', 'dry-brush', 'snap', v->'stiffness', 'ink_held', v->'load')
                ELSE v
            END;
        ELSIF brush AND k = 'jitter' THEN k := 'chance';
        ELSIF kind = 'average' AND k = 'window_ms' THEN k := 'span_ms';
        ELSIF kind = 'tow' AND k = 'radius_mm' THEN k := 'slack_mm';
        ELSIF kind = 'stamped' AND k = 'scatter' THEN k := 'stray';
        ELSIF kind = 'stamped' AND k = 'tooth_png' THEN k := 'paper_png';
        ELSIF kind = 'stamped' AND k = 'tooth_high_is_light' THEN k := 'paper_high_is_light';
        END IF;
        out := out || jsonb_build_object(k, v);
    END LOOP;
    RETURN out;
END $$;

UPDATE brush_versions SET brush = pg_temp.renamed(brush) WHERE brush <> pg_temp.renamed(brush);
UPDATE brush_drafts SET draft = pg_temp.renamed(draft) WHERE draft <> pg_temp.renamed(draft);
UPDATE profiles SET profile = pg_temp.renamed(profile) WHERE profile <> pg_temp.renamed(profile);
UPDATE trims SET trim = pg_temp.renamed(trim) WHERE trim <> pg_temp.renamed(trim);
DROP FUNCTION pg_temp.renamed;
