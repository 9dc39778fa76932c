//! The house: no two files of a crate import one another, and no room knows one above it.

use std::{
    collections::BTreeMap,
    fs,
    path::{Path, PathBuf},
};

mod walk;

use walk::{Crate, circles, read};

fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).parent().expect("the workspace").to_path_buf()
}

fn crates() -> Vec<(String, Crate)> {
    let mut out = Vec::new();
    for room in ["core", "app"] {
        for entry in fs::read_dir(root().join(room)).expect("a folder").flatten() {
            let name = entry.file_name().to_string_lossy().into_owned();
            out.push((name, read(&entry.path().join("src")).expect("a crate that parses")));
        }
    }
    out
}

#[test]
fn no_files_import_one_another() {
    for (name, it) in crates() {
        assert!(it.files.len() > 1 || ["wasm", "journeys"].contains(&name.as_str()), "{name} was not walked");
        assert_eq!(circles(&it), Vec::<Vec<&Path>>::new(), "files of {name} that import one another");
    }
}

/// Which crates each may name; what is not listed is above it.
#[test]
fn crates_name_only_those_below_them() {
    let below = BTreeMap::from([
        ("ink", vec![]),
        ("measure", vec![]),
        ("calibrate", vec!["ink", "measure"]),
        ("check", vec!["ink", "measure"]),
        ("formats", vec!["ink", "measure", "calibrate", "check"]),
        ("sim", vec!["ink", "measure", "calibrate", "check", "formats"]),
        ("journeys", vec!["measure", "sim"]),
        ("wasm", vec!["ink"]),
        ("reader", vec!["ink", "measure", "check", "formats"]),
        ("store", vec!["ink", "measure", "calibrate", "check", "formats"]),
        ("server", vec!["ink", "measure", "calibrate", "check", "formats", "sim", "reader", "store"]),
        ("cli", vec!["ink", "measure", "calibrate", "check", "formats", "sim", "reader", "server"]),
    ]);
    for (name, it) in crates() {
        let may = &below[name.as_str()];
        for used in &it.crates {
            let used = used.trim_start_matches("eddymist_");
            assert!(may.contains(&used), "{name} names {used}, which is not below it");
        }
    }
}

/// Computation knows neither the database nor the network.
#[test]
fn the_core_depends_on_no_server_and_no_database() {
    for entry in fs::read_dir(root().join("core")).expect("a folder").flatten() {
        let text = fs::read_to_string(entry.path().join("Cargo.toml")).expect("a manifest");
        for line in text.lines() {
            let name = line.split(['.', '=', ' ']).next().unwrap_or_default();
            assert!(!["sqlx", "axum", "tokio", "eddymist-store", "eddymist-server"].contains(&name), "{}: {line}", entry.path().display());
        }
    }
}

/// The server from the ground up. The demo comes in from above: nothing but the library's front door knows it.
#[test]
fn rooms_of_the_server_know_only_those_below_them() {
    let floors = [
        "error", "problem", "drain", "plain", "address", "metrics", "heavy", "room", "listen", "kept", "state", "figures", "access", "work", "etag", "routes",
        "describe", "app", "demo", "backup", "keeper", "lib",
    ];
    let it = read(&root().join("app/server/src")).expect("the server");
    let floor = |file: &Path| {
        let inside = file.strip_prefix(root().join("app/server/src")).expect("inside");
        let room = inside.iter().next().expect("a room").to_string_lossy().trim_end_matches(".rs").to_string();
        floors.iter().position(|f| *f == room).unwrap_or_else(|| panic!("{} is in no room", file.display()))
    };
    for (from, to) in &it.arrows {
        let (from, to) = (&it.files[*from], &it.files[*to]);
        assert!(floor(from) >= floor(to), "{} knows {}, which is above it", from.display(), to.display());
    }
}

/// The walk itself, on a crate of which every arrow is known.
#[test]
fn a_circle_is_found_through_re_exports_and_aliases() {
    let dir = std::env::temp_dir().join(format!("eddymist-house-{}", std::process::id()));
    let write = |name: &str, text: &str| {
        let path = dir.join(name);
        fs::create_dir_all(path.parent().expect("a folder")).expect("a folder");
        fs::write(path, text).expect("a file");
    };
    write("lib.rs", "mod a; mod b; pub mod deep; pub use a::A; pub use deep::leaf::Leaf; pub struct Own;");
    // By a re-export at the root, and back by an inline path behind an alias.
    write("a.rs", "use crate::b; pub struct A; pub fn f() -> b::B { b::B } #[cfg(test)] mod tests { use crate::deep::*; }");
    write("b.rs", "use crate::{A, Own}; pub struct B; impl B { pub fn g(_: A, _: Own) {} }");
    write("deep/mod.rs", "pub mod leaf; mod other; pub use other::Other;");
    write("deep/leaf.rs", "pub struct Leaf;");
    write("deep/other.rs", "use super::leaf::Leaf; pub struct Other(pub Leaf);");
    let it = read(&dir).expect("a crate");
    let name = |i: usize| it.files[i].strip_prefix(&dir).expect("inside").to_string_lossy().into_owned();
    let arrows: Vec<(String, String)> = it.arrows.iter().map(|(a, b)| (name(*a), name(*b))).collect();
    let want = [("a.rs", "b.rs"), ("b.rs", "a.rs"), ("b.rs", "lib.rs"), ("deep/other.rs", "deep/leaf.rs")];
    for (a, b) in want {
        assert!(arrows.contains(&(a.into(), b.into())), "{a} → {b} is missing from {arrows:?}");
    }
    assert_eq!(arrows.len(), want.len(), "{arrows:?}");
    assert_eq!(circles(&it), vec![vec![dir.join("a.rs").as_path(), dir.join("b.rs").as_path()]]);
    fs::remove_dir_all(&dir).expect("removed");
}
