//! PNG, TIFF and JPEG: sides, resolution, preview, scans, tips.
#![no_main]

use eddymist_formats::{LIMITS, images, preview::preview};

libfuzzer_sys::fuzz_target!(|bytes: &[u8]| {
    // Large sides are another question: they are refused by their header.
    if images::dimensions(bytes, &LIMITS).is_ok_and(|(w, h)| u64::from(w) * u64::from(h) < 1 << 18) {
        let _ = images::resolution(bytes);
        let _ = images::rgba(bytes, &LIMITS);
        let _ = preview(bytes, 32, true, &LIMITS);
        let _ = images::scan(bytes, Some(300.0), &LIMITS);
        let _ = images::tip(bytes, &LIMITS);
    }
});
