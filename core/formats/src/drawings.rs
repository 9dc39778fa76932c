//! Drawings to be checked: PNG and TIFF flat, OpenRaster by layers, SVG drawn large first.

use std::io::{Cursor, Read};

use eddymist_check::{
    CheckError, LineGuide, Manifest, NamedLayer, WeighedDrawing, check_lines,
    model::{self, ModelError, ModelSheet},
    plan::{self, Across},
};
use eddymist_measure::Picture;
use resvg::{tiny_skia, usvg};

use crate::{
    ReadError,
    images::{self, Rgba},
    limits::MAX_PIXELS,
    svg_paths::within_itself,
};

/// A vector drawing is drawn at this many px for one of its own, then measured.
const OVERSAMPLED: f64 = 4.0;

/// A drawing as pictures, bottom layer first.
#[derive(Debug, Clone, PartialEq)]
pub struct Drawing {
    /// Layer name, after the names of the groups that it lies in, with `/` between; a flat drawing has one without a name.
    pub layers: Vec<(Option<String>, Rgba)>,
    /// Px of the pictures for one px of the drawing.
    pub oversampled: f64,
}

/// Why a drawing has no weights.
#[derive(Debug, thiserror::Error)]
pub enum WeighError {
    #[error(transparent)]
    Read(#[from] ReadError),
    #[error(transparent)]
    Check(#[from] CheckError),
    #[error(transparent)]
    Model(#[from] ModelError),
}

/// Reads a drawing and holds it against the guide.
pub fn weigh(guide: &LineGuide, file: &str, bytes: &[u8], manifest: &Manifest) -> Result<WeighedDrawing, WeighError> {
    let drawing = read(bytes, guide.roles.iter().any(|r| r.from.layer.is_some()))?;
    Ok(check_lines(guide, file, &named(&drawing), drawing.oversampled, manifest)?)
}

/// The ink across a line at a place in px of the drawing, the normal in degrees.
pub fn across(guide: &LineGuide, bytes: &[u8], at: [f64; 2], normal_deg: f64) -> Result<Across, ReadError> {
    let drawing = read(bytes, guide.roles.iter().any(|r| r.from.layer.is_some()))?;
    Ok(plan::across(guide, &named(&drawing), drawing.oversampled, at, normal_deg))
}

/// The lines of a model sheet, by the colours that are found on it.
pub fn model_sheet(bytes: &[u8]) -> Result<ModelSheet, WeighError> {
    let drawing = read(bytes, false)?;
    Ok(model::read(&named(&drawing), drawing.oversampled)?)
}

fn named(drawing: &Drawing) -> Vec<NamedLayer<'_>> {
    drawing.layers.iter().filter_map(|(name, p)| Some(NamedLayer { name: name.as_deref(), picture: Picture::new(p.width, p.height, &p.data)? })).collect()
}

/// Reads a drawing by its content. A vector drawing's named groups are told apart only when asked: each is drawn on its own.
pub fn read(bytes: &[u8], by_group: bool) -> Result<Drawing, ReadError> {
    if bytes.is_empty() {
        return Err(ReadError::Empty);
    }
    if bytes.starts_with(b"PK") {
        return open_raster(bytes);
    }
    let head = String::from_utf8_lossy(&bytes[..bytes.len().min(1024)]).to_lowercase();
    if head.contains("<svg") || head.trim_start().starts_with("<?xml") {
        return svg(bytes, by_group);
    }
    match image::guess_format(bytes) {
        Ok(image::ImageFormat::Png | image::ImageFormat::Tiff) => Ok(Drawing { layers: vec![(None, images::rgba(bytes)?)], oversampled: 1.0 }),
        _ => Err(ReadError::Kind("this is no drawing that can be read; PNG, TIFF, SVG and OpenRaster are".into())),
    }
}

fn svg(bytes: &[u8], by_group: bool) -> Result<Drawing, ReadError> {
    let bad = |e: String| ReadError::Svg(e);
    let text = std::str::from_utf8(bytes).map_err(|e| bad(format!("it is not UTF-8 text: {e}")))?;
    let mut layers = Vec::new();
    let mut oversampled = OVERSAMPLED;
    for (name, text) in if by_group { groups(text)? } else { vec![(None, text.to_string())] } {
        let tree = usvg::Tree::from_str(&text, &within_itself()).map_err(|e| bad(e.to_string()))?;
        let size = tree.size();
        // Small pictures are drawn larger still: a line must be several px wide to be weighed finely.
        oversampled = if size.width() < 256.0 { 16.0 } else { OVERSAMPLED };
        layers.push((name, draw(&tree, oversampled)?));
    }
    Ok(Drawing { layers, oversampled })
}

fn draw(tree: &usvg::Tree, oversampled: f64) -> Result<Rgba, ReadError> {
    let (w, h) = ((f64::from(tree.size().width()) * oversampled).round(), (f64::from(tree.size().height()) * oversampled).round());
    if w * h > MAX_PIXELS as f64 {
        return Err(ReadError::TooLarge { width: w as u64, height: h as u64 });
    }
    let mut map = tiny_skia::Pixmap::new(w as u32, h as u32).ok_or_else(|| ReadError::Svg("its size is 0".into()))?;
    resvg::render(tree, tiny_skia::Transform::from_scale(oversampled as f32, oversampled as f32), &mut map.as_mut());
    let mut data = map.take();
    for p in data.as_chunks_mut::<4>().0.iter_mut().filter(|p| p[3] < 255 && p[3] > 0) {
        let a = u32::from(p[3]);
        for c in &mut p[..3] {
            *c = ((u32::from(*c) * 255 + a / 2) / a).min(255) as u8;
        }
    }
    Ok(Rgba { width: w as usize, height: h as usize, data })
}

/// The drawing once for each of its outermost groups that has an id, with all other such groups cut out, and once for
/// what lies in none. A group that holds the whole drawing is looked into.
fn groups(text: &str) -> Result<Vec<(Option<String>, String)>, ReadError> {
    let document = roxmltree::Document::parse(text).map_err(|e| ReadError::Svg(format!("not well-formed XML: {e}")))?;
    let drawn = |n: &roxmltree::Node| n.is_element() && !["defs", "style", "title", "desc", "metadata"].contains(&n.tag_name().name());
    let mut inside = document.root_element();
    let mut path = String::new();
    loop {
        let mut children = inside.children().filter(drawn);
        match (children.next(), children.next()) {
            (Some(only), None) if only.tag_name().name() == "g" => {
                if let Some(id) = only.attribute("id") {
                    path = format!("{path}{id}/");
                }
                inside = only;
            }
            _ => break,
        }
    }
    let named: Vec<_> = inside.children().filter(|n| n.tag_name().name() == "g" && n.attribute("id").is_some()).collect();
    let without = |cut: &mut dyn Iterator<Item = std::ops::Range<usize>>| {
        let (mut out, mut from) = (String::with_capacity(text.len()), 0);
        for r in cut {
            out.push_str(&text[from..r.start]);
            from = r.end;
        }
        out + &text[from..]
    };
    let mut out = Vec::new();
    if named.len() < inside.children().filter(drawn).count() {
        let rest = path.trim_end_matches('/');
        out.push(((!rest.is_empty()).then(|| rest.to_string()), without(&mut named.iter().map(|n| n.range()))));
    }
    for group in &named {
        let others = without(&mut inside.children().filter(|n| drawn(n) && n != group).map(|n| n.range()));
        out.push((Some(format!("{path}{}", group.attribute("id").unwrap_or_default())), others));
    }
    Ok(out)
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
        let mut names: Vec<&str> = node.ancestors().filter(|a| a.has_tag_name("stack") || *a == node).filter_map(|a| a.attribute("name")).collect();
        names.reverse();
        layers.push((Some(names.join("/")), Rgba { width: w, height: h, data: full }));
    }
    layers.reverse();
    if layers.is_empty() { Err(bad("no layer in it is visible".into())) } else { Ok(Drawing { layers, oversampled: 1.0 }) }
}

#[cfg(test)]
mod tests {
    #[test]
    fn a_vector_drawing_falls_apart_by_its_groups() {
        let svg = r##"<svg xmlns="http://www.w3.org/2000/svg" width="300" height="20"><defs/><g id="cleanup" transform="translate(0 5)">
            <g id="contour"><path d="M10 5H290" stroke="#000"/></g><g id="inner"><path d="M10 10H290" stroke="#000"/></g><path d="M10 0H290" stroke="#000"/></g></svg>"##;
        let ink = |l: &super::Rgba| l.data.chunks(4).enumerate().filter(|p| p.1[3] > 128).map(|p| p.0 / l.width / 4).collect::<std::collections::BTreeSet<_>>();
        let apart = super::read(svg.as_bytes(), true).expect("it reads");
        let names: Vec<_> = apart.layers.iter().map(|l| l.0.as_deref().unwrap_or("-")).collect();
        assert_eq!(names, ["cleanup", "cleanup/contour", "cleanup/inner"]);
        let rows: Vec<Vec<usize>> = apart.layers.iter().map(|l| ink(&l.1).into_iter().collect()).collect();
        assert_eq!(rows, [vec![4, 5], vec![9, 10], vec![14, 15]]);
        let flat = super::read(svg.as_bytes(), false).expect("it reads");
        assert_eq!(ink(&flat.layers[0].1).into_iter().collect::<Vec<_>>(), [4, 5, 9, 10, 14, 15]);
    }
}
