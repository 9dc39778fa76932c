//! Drawings to be checked: PNG and TIFF flat, OpenRaster by layers, SVG drawn large first.

use std::io::{Cursor, Read};

use resvg::{tiny_skia, usvg};

use crate::{
    ReadError,
    images::{self, MAX_PIXELS, Rgba},
};

/// A vector drawing is drawn at this many px for one of its own, then measured.
const OVERSAMPLED: f64 = 4.0;

/// A drawing as pictures, bottom layer first.
#[derive(Debug, Clone, PartialEq)]
pub struct Drawing {
    /// Layer name and picture; a flat drawing has one without a name.
    pub layers: Vec<(Option<String>, Rgba)>,
    /// Px of the pictures for one px of the drawing.
    pub oversampled: f64,
}

/// Reads a drawing by its content.
pub fn read(bytes: &[u8]) -> Result<Drawing, ReadError> {
    if bytes.is_empty() {
        return Err(ReadError::Empty);
    }
    if bytes.starts_with(b"PK") {
        return open_raster(bytes);
    }
    let head = String::from_utf8_lossy(&bytes[..bytes.len().min(1024)]).to_lowercase();
    if head.contains("<svg") || head.trim_start().starts_with("<?xml") {
        return svg(bytes);
    }
    match image::guess_format(bytes) {
        Ok(image::ImageFormat::Png | image::ImageFormat::Tiff) => Ok(Drawing { layers: vec![(None, images::rgba(bytes)?)], oversampled: 1.0 }),
        _ => Err(ReadError::Kind("this is no drawing that can be read; PNG, TIFF, SVG and OpenRaster are".into())),
    }
}

fn svg(bytes: &[u8]) -> Result<Drawing, ReadError> {
    let tree = usvg::Tree::from_data(bytes, &usvg::Options::default()).map_err(|e| ReadError::Svg(e.to_string()))?;
    let size = tree.size();
    // Small pictures are drawn larger still: a line must be several px wide to be weighed finely.
    let oversampled = if size.width() < 256.0 { 16.0 } else { OVERSAMPLED };
    let (w, h) = ((f64::from(size.width()) * oversampled).round(), (f64::from(size.height()) * oversampled).round());
    if w * h > MAX_PIXELS as f64 {
        return Err(ReadError::TooLarge { width: w as u64, height: h as u64 });
    }
    let mut map = tiny_skia::Pixmap::new(w as u32, h as u32).ok_or_else(|| ReadError::Svg("its size is 0".into()))?;
    resvg::render(&tree, tiny_skia::Transform::from_scale(oversampled as f32, oversampled as f32), &mut map.as_mut());
    let data = map
        .pixels()
        .iter()
        .flat_map(|p| {
            let c = p.demultiply();
            [c.red(), c.green(), c.blue(), c.alpha()]
        })
        .collect();
    Ok(Drawing { layers: vec![(None, Rgba { width: w as usize, height: h as usize, data })], oversampled })
}

/// OpenRaster: `stack.xml` names the layers, top first.
fn open_raster(bytes: &[u8]) -> Result<Drawing, ReadError> {
    let bad = |e: String| ReadError::Ora(e);
    let mut zip = zip::ZipArchive::new(Cursor::new(bytes)).map_err(|e| bad(e.to_string()))?;
    let mut text = String::new();
    zip.by_name("stack.xml").map_err(|_| bad("there is no stack.xml in it".into()))?.take(1 << 20).read_to_string(&mut text).map_err(|e| bad(e.to_string()))?;
    let document = roxmltree::Document::parse(&text).map_err(|e| bad(format!("stack.xml: {e}")))?;
    let root = document.root_element();
    let number = |n: &roxmltree::Node, a: &str| n.attribute(a).and_then(|v| v.parse::<i64>().ok());
    let (w, h) = number(&root, "w").zip(number(&root, "h")).ok_or_else(|| bad("stack.xml gives no size".into()))?;
    if w <= 0 || h <= 0 || (w as u64).saturating_mul(h as u64) > MAX_PIXELS {
        return Err(ReadError::TooLarge { width: w.max(0) as u64, height: h.max(0) as u64 });
    }
    let (w, h) = (w as usize, h as usize);
    let mut layers = Vec::new();
    for node in root.descendants().filter(|n| n.has_tag_name("layer")) {
        if node.ancestors().any(|a| a.attribute("visibility") == Some("hidden")) {
            continue;
        }
        let Some(source) = node.attribute("src") else {
            continue;
        };
        let mut data = Vec::new();
        zip.by_name(source)
            .map_err(|_| bad(format!("the layer picture {source} is missing")))?
            .take(256 << 20)
            .read_to_end(&mut data)
            .map_err(|e| bad(e.to_string()))?;
        let picture = images::rgba(&data)?;
        let mut full = vec![0u8; w * h * 4];
        let (dx, dy) = (number(&node, "x").unwrap_or(0), number(&node, "y").unwrap_or(0));
        for y in 0..picture.height {
            let Some(ty) = usize::try_from(y as i64 + dy).ok().filter(|t| *t < h) else {
                continue;
            };
            for x in 0..picture.width {
                let Some(tx) = usize::try_from(x as i64 + dx).ok().filter(|t| *t < w) else {
                    continue;
                };
                let (i, j) = (4 * (y * picture.width + x), 4 * (ty * w + tx));
                full[j..j + 4].copy_from_slice(&picture.data[i..i + 4]);
            }
        }
        layers.push((Some(node.attribute("name").unwrap_or("").to_string()), Rgba { width: w, height: h, data: full }));
    }
    layers.reverse();
    if layers.is_empty() { Err(bad("no layer in it is visible".into())) } else { Ok(Drawing { layers, oversampled: 1.0 }) }
}
