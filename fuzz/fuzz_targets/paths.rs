//! Lines of an SVG.
#![no_main]

use eddymist_formats::LIMITS;

libfuzzer_sys::fuzz_target!(|text: &str| {
    let _ = eddymist_formats::svg_paths::read(text, &LIMITS);
});
