//! What the command's tests share.

use std::{
    fs,
    path::{Path, PathBuf},
    process::{Command, Output},
};

use serde_json::Value;

/// A folder that goes when the test is done.
pub struct Folder(pub PathBuf);

impl Folder {
    pub fn new(name: &str) -> Self {
        let path = std::env::temp_dir().join(format!("eddymist-{name}-{}", std::process::id()));
        fs::create_dir_all(&path).expect("a folder");
        Self(path)
    }
    pub fn put(&self, name: &str, bytes: impl AsRef<[u8]>) -> String {
        let path = self.0.join(name);
        fs::write(&path, bytes).expect("written");
        path.to_string_lossy().into_owned()
    }
    pub fn path(&self, name: &str) -> String {
        self.0.join(name).to_string_lossy().into_owned()
    }
}

impl Drop for Folder {
    fn drop(&mut self) {
        let _ = fs::remove_dir_all(&self.0);
    }
}

pub fn eddymist(args: &[&str]) -> Output {
    Command::new(env!("CARGO_BIN_EXE_eddymist")).args(args).env_remove("DATABASE_URL").output().expect("it runs")
}

/// The document on standard output, held against its published schema.
pub fn document(out: &Output, name: &str) -> Value {
    assert!(out.status.code().is_some_and(|c| c == 0 || c == 2 || c == 3), "{}", String::from_utf8_lossy(&out.stderr));
    let value: Value = serde_json::from_slice(&out.stdout).expect("JSON and nothing else");
    let path = Path::new(env!("CARGO_MANIFEST_DIR")).join(format!("../../docs/formats/{name}.schema.json"));
    let schema: Value = serde_json::from_str(&fs::read_to_string(path).expect("a schema")).expect("JSON");
    if let Err(e) = jsonschema::validate(&schema, &value) {
        panic!("{name}: {e} at {}", e.instance_path());
    }
    value
}

/// One line on standard error, nothing on standard output, status 2.
pub fn refused(args: &[&str], says: &str) {
    let out = eddymist(args);
    let err = String::from_utf8_lossy(&out.stderr);
    assert_eq!(out.status.code(), Some(2), "{args:?}: {err}");
    assert!(out.stdout.is_empty() && err.trim_end().lines().count() == 1 && err.contains(says), "{args:?} said: {err}");
}
