//! ZIP archives of drawings, entry by entry.
//!
//! Limits: entries of up to 256 MB each; names that are no drawing's or lead out of the archive are passed over. An OpenRaster file is a ZIP
//! too, and is told by its `stack.xml`.

use std::io::{Cursor, Read};

use crate::ReadError;

/// An entry larger than this is refused.
const MAX_ENTRY: u64 = 256 << 20;

/// Whether the bytes are a ZIP that is no OpenRaster file.
pub fn is_plain_zip(bytes: &[u8]) -> bool {
    bytes.starts_with(b"PK") && zip::ZipArchive::new(Cursor::new(bytes)).is_ok_and(|z| z.index_for_name("stack.xml").is_none())
}

/// Whether a file's name is one that a drawing may have.
pub fn is_drawing_name(name: &str) -> bool {
    let lower = name.to_lowercase();
    ["png", "tif", "tiff", "svg", "ora"].iter().any(|e| lower.ends_with(&format!(".{e}")))
}

/// Calls `each` with every drawing's path and bytes, in the archive's order.
pub fn entries(bytes: &[u8], mut each: impl FnMut(String, Result<Vec<u8>, ReadError>)) -> Result<(), ReadError> {
    let bad = |e: String| ReadError::Archive(e);
    let mut zip = zip::ZipArchive::new(Cursor::new(bytes)).map_err(|e| bad(e.to_string()))?;
    for i in 0..zip.len() {
        let mut entry = zip.by_index(i).map_err(|e| bad(e.to_string()))?;
        // Only names that stay inside the archive; the rest is somebody's mischief.
        let Some(path) = entry.enclosed_name() else {
            continue;
        };
        let name = path.to_string_lossy().into_owned();
        if entry.is_dir() || !is_drawing_name(&name) {
            continue;
        }
        if entry.size() > MAX_ENTRY {
            each(name, Err(bad(format!("the entry is larger than {} MB", MAX_ENTRY >> 20))));
            continue;
        }
        let mut data = Vec::new();
        let read = (&mut entry).take(MAX_ENTRY).read_to_end(&mut data).map(|_| data).map_err(|e| bad(e.to_string()));
        each(name, read);
    }
    Ok(())
}
