//! Build steps: the WebAssembly module, and the words on the screen.
//!
//! `xtask wasm` builds it where its sources changed and keeps it under `web/engine/prebuilt/` with the hash of the
//! sources; a machine without the target uses the kept one if the hash fits. `xtask wasm --check` only compares.
//! `xtask words` lists what people read into `docs/words.txt`; `--check` says whether it is so, and what is written in words that are gone.

mod words;

use std::{
    fs,
    path::{Path, PathBuf},
    process::{Command, ExitCode},
};

use sha2::{Digest, Sha256};

const KEPT: &str = "web/engine/prebuilt";

fn main() -> ExitCode {
    let args: Vec<String> = std::env::args().skip(1).collect();
    let done = match args.iter().map(String::as_str).collect::<Vec<_>>()[..] {
        ["wasm"] => wasm(),
        ["wasm", "--check"] => check(),
        ["words"] => words::run(false),
        ["words", "--check"] => words::run(true),
        _ => Err("usage: xtask wasm|words [--check]".into()),
    };
    match done {
        Ok(()) => ExitCode::SUCCESS,
        Err(e) => {
            eprintln!("xtask: {e}");
            ExitCode::FAILURE
        }
    }
}

/// SHA-256 over all sources of the module and the versions that they are built with.
fn sources_hash() -> Result<String, String> {
    let mut files = vec![PathBuf::from("app/wasm/Cargo.toml"), PathBuf::from("core/ink/Cargo.toml"), PathBuf::from("app/wasm/src/lib.rs")];
    walk(Path::new("core/ink/src"), &mut files)?;
    files.sort();
    let mut hash = Sha256::new();
    for f in &files {
        hash.update(f.to_string_lossy().as_bytes());
        hash.update(fs::read(f).map_err(|e| format!("{}: {e}", f.display()))?);
    }
    Ok(hash.finalize().iter().map(|b| format!("{b:02x}")).collect())
}

fn walk(dir: &Path, out: &mut Vec<PathBuf>) -> Result<(), String> {
    for entry in fs::read_dir(dir).map_err(|e| format!("{}: {e}", dir.display()))?.flatten() {
        let path = entry.path();
        if path.is_dir() { walk(&path, out)? } else { out.push(path) }
    }
    Ok(())
}

fn kept_hash() -> String {
    fs::read_to_string(Path::new(KEPT).join("sources.sha256")).unwrap_or_default().trim().to_string()
}

fn check() -> Result<(), String> {
    if kept_hash() == sources_hash()? {
        Ok(())
    } else {
        Err(format!("the module under {KEPT} was built from other sources; run `cargo run --release -p xtask -- wasm` and commit what it writes"))
    }
}

fn wasm() -> Result<(), String> {
    let hash = sources_hash()?;
    if kept_hash() == hash { Ok(()) } else { build(hash) }
}

/// Starts again with the part that can build: it takes minutes to compile and is rarely needed.
#[cfg(not(feature = "build"))]
fn build(_: String) -> Result<(), String> {
    let again =
        Command::new("cargo").args(["run", "-q", "--release", "-p", "xtask", "--features", "build", "--", "wasm"]).status().map_err(|e| e.to_string())?;
    if again.success() { Ok(()) } else { Err("the module was not built".into()) }
}

#[cfg(feature = "build")]
fn build(hash: String) -> Result<(), String> {
    let target = "wasm32-unknown-unknown";
    let installed = Command::new("rustc").args(["--print", "target-libdir", "--target", target]).output().map_err(|e| e.to_string())?;
    let there = Path::new(String::from_utf8_lossy(&installed.stdout).trim()).exists();
    if !there {
        let added = Command::new("rustup").args(["target", "add", target]).status();
        if !added.is_ok_and(|s| s.success()) {
            return Err(format!(
                "the target {target} is missing and cannot be fetched, and the kept module is of other sources; leave core/ink as it was, or build on a machine that has the target"
            ));
        }
    }
    eprintln!("· building the ink engine for the browser");
    let built = Command::new("cargo").args(["build", "-q", "--release", "-p", "eddymist-wasm", "--target", target]).status().map_err(|e| e.to_string())?;
    if !built.success() {
        return Err("the module does not build".into());
    }
    let target_dir = std::env::var("CARGO_TARGET_DIR").unwrap_or_else(|_| "target".into());
    wasm_bindgen_cli_support::Bindgen::new()
        .input_path(Path::new(&target_dir).join(target).join("release/eddymist_wasm.wasm"))
        .web(true)
        .map_err(|e| e.to_string())?
        .typescript(true)
        .generate(KEPT)
        .map_err(|e| e.to_string())?;
    fs::write(Path::new(KEPT).join("sources.sha256"), hash + "\n").map_err(|e| e.to_string())
}
