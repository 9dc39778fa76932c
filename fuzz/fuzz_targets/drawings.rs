//! Drawings of any kind: PNG, TIFF, SVG, OpenRaster.
#![no_main]

use eddymist_formats::LIMITS;

libfuzzer_sys::fuzz_target!(|bytes: &[u8]| {
    let small = eddymist_formats::images::dimensions(bytes, &LIMITS).map_or(true, |(w, h)| u64::from(w) * u64::from(h) < 1 << 18);
    if small {
        let _ = eddymist_formats::drawings::read(bytes, true, &LIMITS);
    }
});
