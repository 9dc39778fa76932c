-- A profile's suggested smoothing is of any kind now: what was kept so far is adaptive.
UPDATE profiles
SET profile = jsonb_set(
    profile,
    '{suggested_smoothing}',
    jsonb_build_object(
        'smoothing', jsonb_build_object(
            'kind', 'adaptive',
            'min_cutoff_hz', profile #> '{suggested_smoothing,min_cutoff_hz}',
            'speed_coefficient', profile #> '{suggested_smoothing,speed_coefficient}'
        ),
        'lag_ms', profile #> '{suggested_smoothing,lag_ms}',
        'noise_um', profile #> '{suggested_smoothing,noise_um}'
    )
)
WHERE profile #> '{suggested_smoothing,min_cutoff_hz}' IS NOT NULL;
