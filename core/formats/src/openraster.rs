//! OpenRaster: a ZIP with its layers, their stack, and a merged picture of its own.

use std::io::{Cursor, Read};

use crate::ReadError;

/// The merged picture of an OpenRaster file as PNG, and the resolution that its stack states.
pub(crate) fn merged(bytes: &[u8]) -> Result<(Vec<u8>, Option<f64>), ReadError> {
    let bad = |e: &dyn std::fmt::Display| ReadError::Ora(e.to_string());
    let mut zip = zip::ZipArchive::new(Cursor::new(bytes)).map_err(|e| bad(&e))?;
    let mut entry = |name: &str, most: u64| -> Result<Vec<u8>, ReadError> {
        let file = zip.by_name(name).map_err(|_| bad(&format!("it has no {name}")))?;
        let mut data = Vec::new();
        file.take(most).read_to_end(&mut data).map_err(|e| bad(&e))?;
        Ok(data)
    };
    let merged = entry("mergedimage.png", 256 << 20)?;
    let xml = String::from_utf8(entry("stack.xml", 1 << 20)?).unwrap_or_default();
    let stated = roxmltree::Document::parse(&xml).ok().and_then(|d| d.root_element().attribute("xres")?.parse::<f64>().ok());
    Ok((merged, stated.filter(|d| *d >= 100.0)))
}
