//! ZIP archives of drawings, entry by entry.
//!
//! Limits: how many entries, how large each and all together; names that are no drawing's or lead out of the archive are passed over. An
//! OpenRaster file is a ZIP too, and is told by its `stack.xml`. How many entries there are is read from the archive's end before its
//! list is. Source: APPNOTE 6.3 of the ZIP format, sections 4.3.14 to 4.3.16.

use std::io::{Cursor, Read, Seek, SeekFrom, Write};

use zip::{ZipArchive, ZipWriter, read::ZipFile, write::SimpleFileOptions};

use crate::{
    Limits, ReadError,
    limits::{quoted, told},
};

/// Longer names are cut: no file system has them.
const NAME_CHARS: usize = 400;

/// How many entries an archive says it has: from the end of its list.
fn declared_entries(file: &mut (impl Read + Seek)) -> std::io::Result<u64> {
    let length = file.seek(SeekFrom::End(0))?;
    let mut tail = vec![0; length.min(22 + 65_535 + 20) as usize];
    file.seek(SeekFrom::Start(length - tail.len() as u64))?;
    file.read_exact(&mut tail)?;
    // The mark may stand in the comment too: its own comment reaches to the end of the file.
    let ends = |e: &usize| tail[*e..].starts_with(b"PK\x05\x06") && e + 22 + usize::from(u16::from_le_bytes([tail[e + 20], tail[e + 21]])) == tail.len();
    let Some(end) = (0..tail.len().saturating_sub(21)).rev().find(ends) else { return Ok(0) };
    let entries = u16::from_le_bytes([tail[end + 10], tail[end + 11]]);
    if entries != u16::MAX {
        return Ok(entries.into());
    }
    // The larger form: where its end lies stands before the end.
    let Some(locator) = end.checked_sub(20).filter(|l| tail[*l..].starts_with(b"PK\x06\x07")) else { return Ok(entries.into()) };
    let eight = |b: &[u8]| u64::from_le_bytes(std::array::from_fn(|i| b[i]));
    file.seek(SeekFrom::Start(eight(&tail[locator + 8..])))?;
    let mut large = [0; 56];
    file.read_exact(&mut large)?;
    Ok(if large.starts_with(b"PK\x06\x06") { eight(&large[32..]) } else { entries.into() })
}

/// Opens an archive whose list is not too long.
pub(crate) fn opened<'a>(bytes: &'a [u8], limits: &Limits) -> Result<ZipArchive<Cursor<&'a [u8]>>, String> {
    open(Cursor::new(bytes), limits)
}

fn open<R: Read + Seek>(mut file: R, limits: &Limits) -> Result<ZipArchive<R>, String> {
    let entries = declared_entries(&mut file).unwrap_or(0);
    if entries > limits.entries {
        return Err(format!("it says that it has {entries} entries; up to {} are read: send it in parts", limits.entries));
    }
    ZipArchive::new(file).map_err(told)
}

fn shown<R: Read + ?Sized>(entry: &ZipFile<R>) -> String {
    entry.name().map(|n| quoted(&n)).unwrap_or_default()
}

fn cleaned(name: &str) -> String {
    name.chars().filter(|c| !c.is_control()).take(NAME_CHARS).collect()
}

/// Unpacks an entry: no more than it declares, and no more than a file may have.
pub(crate) fn entry_bytes<R: Read + ?Sized>(mut entry: ZipFile<R>, limits: &Limits) -> Result<Vec<u8>, String> {
    let declared = entry.size();
    if declared > limits.bytes {
        return Err(format!("“{}” is larger than {} MB", shown(&entry), limits.bytes >> 20));
    }
    let mut data = Vec::with_capacity(declared as usize);
    (&mut entry).take(declared + 1).read_to_end(&mut data).map_err(told)?;
    if data.len() as u64 != declared {
        return Err(format!("“{}” has not the length that the archive says", shown(&entry)));
    }
    Ok(data)
}

/// Whether the bytes are a ZIP that is no OpenRaster file.
pub fn is_plain_zip(file: &mut (impl Read + Seek), limits: &Limits) -> bool {
    let mut head = [0; 2];
    let marked = file.seek(SeekFrom::Start(0)).is_ok() && file.read_exact(&mut head).is_ok() && &head == b"PK";
    // One that cannot be opened is none of OpenRaster's: why it was not read is said of the archive.
    marked && open(file, limits).map_or(true, |z| z.index_for_name("stack.xml").is_none())
}

/// What a desktop puts beside files for itself: anything hidden by a dot, and its folder of resources.
fn is_hidden(path: &str) -> bool {
    path.split(['/', '\\']).any(|part| part == "__MACOSX" || part.starts_with('.') && !matches!(part, "." | ".."))
}

/// Whether a file's name, or its path, is one that a drawing may have.
pub fn is_drawing_name(name: &str) -> bool {
    let lower = name.to_lowercase();
    !is_hidden(name) && ["png", "tif", "tiff", "jpg", "jpeg", "svg", "ora"].iter().any(|e| lower.ends_with(&format!(".{e}")))
}

/// The drawings of an archive, in its order: which entry, and its path.
pub fn names<R: Read + Seek>(file: R, limits: &Limits) -> Result<Vec<(usize, String)>, ReadError> {
    let bad = |e: String| ReadError::Archive(e);
    let mut zip = open(file, limits).map_err(bad)?;
    let mut unpacked = 0u64;
    let mut out = Vec::new();
    for i in 0..zip.len() {
        let entry = zip.by_index_raw(i).map_err(|e| bad(told(e)))?;
        // Only names that stay inside the archive; the rest is somebody's mischief.
        let Some(name) = entry.enclosed_name().map(|p| cleaned(&p.to_string_lossy())) else { continue };
        if entry.is_dir() || !is_drawing_name(&name) {
            continue;
        }
        unpacked = unpacked.saturating_add(entry.size());
        out.push((i, name));
    }
    if unpacked > limits.entries_bytes {
        return Err(bad(format!(
            "its drawings have {} MB together, unpacked; up to {} are read: send it in parts",
            unpacked >> 20,
            limits.entries_bytes >> 20
        )));
    }
    Ok(out)
}

/// The text of an archive's only table, if it has one: a manifest that came with its drawings.
pub fn table<R: Read + Seek>(file: R, limits: &Limits) -> Option<(String, String)> {
    /// A manifest is no longer than this.
    const MOST: u64 = 4 << 20;
    let mut zip = open(file, limits).ok()?;
    let mut found = (0..zip.len()).filter_map(|i| {
        let entry = zip.by_index_raw(i).ok()?;
        let name = cleaned(&entry.enclosed_name()?.to_string_lossy());
        let lower = name.to_lowercase();
        (!entry.is_dir() && !is_hidden(&name) && (lower.ends_with(".csv") || lower.ends_with(".tsv")) && entry.size() <= MOST).then_some((i, name))
    });
    let (i, name) = found.next()?;
    if found.next().is_some() {
        return None;
    }
    drop(found);
    let bytes = entry_bytes(zip.by_index(i).ok()?, limits).ok()?;
    Some((name, crate::manifest::text(&bytes)))
}

/// One entry of an archive, unpacked.
pub fn entry<R: Read + Seek>(file: R, index: usize, limits: &Limits) -> Result<Vec<u8>, ReadError> {
    let bad = |e: String| ReadError::Archive(e);
    let mut zip = open(file, limits).map_err(bad)?;
    let entry = zip.by_index(index).map_err(|e| bad(told(e)))?;
    entry_bytes(entry, limits).map_err(bad)
}

/// Calls `each` with every drawing's path and bytes, in the archive's order, one at a time; `each` says whether to go on.
pub fn entries<R: Read + Seek>(mut file: R, limits: &Limits, mut each: impl FnMut(String, Result<Vec<u8>, ReadError>) -> bool) -> Result<(), ReadError> {
    let bad = |e: String| ReadError::Archive(e);
    let names = names(&mut file, limits)?;
    let mut zip = open(file, limits).map_err(bad)?;
    for (i, name) in names {
        let data = zip.by_index(i).map_err(told).and_then(|e| entry_bytes(e, limits));
        if !each(name, data.map_err(bad)) {
            break;
        }
    }
    Ok(())
}

/// An archive of these entries.
pub fn zip(entries: &[(String, Vec<u8>)]) -> Result<Vec<u8>, ReadError> {
    let bad = |e: String| ReadError::Archive(e);
    let mut out = ZipWriter::new(Cursor::new(Vec::new()));
    for (name, bytes) in entries {
        out.start_file(name.as_str(), SimpleFileOptions::default()).map_err(|e| bad(e.to_string()))?;
        out.write_all(bytes).map_err(|e| bad(e.to_string()))?;
    }
    out.finish().map(Cursor::into_inner).map_err(|e| bad(e.to_string()))
}
