//! InkML, as strokes and as a warm-up.
#![no_main]

libfuzzer_sys::fuzz_target!(|text: &str| {
    if let Ok(file) = eddymist_formats::inkml::read(text, &eddymist_formats::LIMITS) {
        let _ = file.strokes().count();
        let _ = file.warmup();
    }
});
