//! ZIP archives, entry by entry.
#![no_main]

libfuzzer_sys::fuzz_target!(|bytes: &[u8]| {
    let _ = eddymist_formats::archive::is_plain_zip(bytes);
    let _ = eddymist_formats::archive::entries(bytes, |_, _| {});
});
