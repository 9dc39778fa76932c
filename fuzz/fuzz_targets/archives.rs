//! ZIP archives, entry by entry.
#![no_main]

use eddymist_formats::LIMITS;

libfuzzer_sys::fuzz_target!(|bytes: &[u8]| {
    let _ = eddymist_formats::archive::is_plain_zip(&mut std::io::Cursor::new(bytes), &LIMITS);
    let _ = eddymist_formats::archive::entries(std::io::Cursor::new(bytes), &LIMITS, |_, _| true);
});
