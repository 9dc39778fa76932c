//! The start command's build and the tests' compile each crate once for both: where the features of a crate differ between
//! `cargo build -p eddymist-cli` and `cargo test`, it and all above it would be compiled twice. The missing features are asked for
//! in `app/cli/Cargo.toml`.

use std::{
    collections::{BTreeMap, BTreeSet},
    process::Command,
};

/// The features that each crate is compiled with, by its name and version.
fn features(args: &[&str]) -> BTreeMap<String, BTreeSet<String>> {
    let out = Command::new(env!("CARGO"))
        .args(["tree", "--offline", "--locked", "--prefix", "none", "-f", "{p}|{f}"])
        .args(args)
        .current_dir(concat!(env!("CARGO_MANIFEST_DIR"), "/.."))
        .output()
        .expect("cargo tree runs");
    assert!(out.status.success(), "{}", String::from_utf8_lossy(&out.stderr));
    let mut all = BTreeMap::<_, BTreeSet<_>>::new();
    for line in String::from_utf8(out.stdout).expect("text").lines() {
        if let Some((package, features)) = line.trim_end_matches(" (*)").split_once('|') {
            all.entry(package.to_string()).or_default().insert(features.to_string());
        }
    }
    all
}

#[test]
fn the_start_command_and_the_tests_share_one_build() {
    let (start, tests) = (features(&["-p", "eddymist-cli", "-e", "normal,build"]), features(&["-e", "normal,build,dev"]));
    assert!(start.len() > 300, "{} crates", start.len());
    // What a macro is made with is compiled for the compiler, apart from what runs here; a test may use the same crate in its own way.
    let unlike: Vec<_> = start.iter().filter(|(p, f)| !tests.get(*p).is_some_and(|t| t.is_superset(f))).map(|(p, f)| (p, f, tests.get(p))).collect();
    assert!(unlike.is_empty(), "compiled twice: {unlike:#?}");
}

/// `cargo test --test NAME` runs every test file of that name: `bin/test rust CRATE` names the command beside the crate.
#[test]
fn no_two_test_files_have_one_name() {
    let root = std::path::Path::new(concat!(env!("CARGO_MANIFEST_DIR"), "/.."));
    let names = |folder: std::path::PathBuf| -> Vec<String> {
        let files = std::fs::read_dir(folder).into_iter().flatten().flatten();
        files.map(|f| f.file_name().to_string_lossy().into_owned()).filter(|f| f.ends_with(".rs")).collect()
    };
    let command = names(root.join("app/cli/tests"));
    assert!(command.len() > 4, "{command:?}");
    for folder in std::fs::read_dir(root.join("core")).expect("core").flatten() {
        let both: Vec<_> = names(folder.path().join("tests")).into_iter().filter(|n| command.contains(n)).collect();
        assert!(both.is_empty(), "{}: {both:?}", folder.path().display());
    }
}
