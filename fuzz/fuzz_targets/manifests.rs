//! Manifests and patterns of file names.
#![no_main]

libfuzzer_sys::fuzz_target!(|text: &str| {
    let _ = eddymist_formats::manifest::read(text);
    if let Some((pattern, name)) = text.split_once('\n')
        && let Ok(p) = eddymist_check::NamePattern::parse(pattern)
    {
        let _ = p.read(name);
    }
});
