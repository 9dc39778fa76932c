//! Drawings to be checked: PNG, TIFF and JPEG flat, OpenRaster by layers, SVG drawn large first.

use eddymist_check::{
    CheckError, LineGuide, Manifest, NamedLayer, WeighedDrawing, check_lines,
    model::{self, ModelError, ModelSheet},
    plan::{self, Across},
};
use eddymist_measure::{
    Picture,
    colour::linear_of,
    drawing::signs::Signs,
    scan::beside::Beside,
    source::{self, Origin, Origins, Source},
};

use crate::{
    Given, Limits, ReadError,
    heads::{format, jpeg_quality},
    images::{self, NamedPicture},
    kind::vote,
    openraster, svg_drawing,
};

/// A drawing as pictures, bottom layer first.
#[derive(Debug, Clone, PartialEq)]
pub struct Drawing {
    /// Layer name, after the names of the groups that it lies in, with `/` between; a flat drawing has one without a name.
    pub layers: Vec<NamedPicture>,
    /// Px of the pictures for one px of the drawing.
    pub oversampled: f64,
    /// What kind of picture it is, in which light, and how that is known.
    pub source: Source,
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

/// Whether a guide tells roles by layer, so that a drawing's named groups are looked at apart.
pub fn by_group(guide: &LineGuide) -> bool {
    guide.roles.iter().any(|r| r.from.layer.is_some())
}

/// Reads a drawing and holds it against the guide.
pub fn weigh(guide: &LineGuide, file: &str, bytes: &[u8], manifest: &Manifest, limits: &Limits) -> Result<WeighedDrawing, WeighError> {
    weigh_given(guide, file, bytes, manifest, None, limits)
}

/// The same by an ICC profile in the place of the file's own.
pub fn weigh_given(
    guide: &LineGuide,
    file: &str,
    bytes: &[u8],
    manifest: &Manifest,
    icc: Option<Vec<u8>>,
    limits: &Limits,
) -> Result<WeighedDrawing, WeighError> {
    let drawing = read_as(bytes, by_group(guide), &Given { kind: stated(guide, manifest)?, dpi: None, icc }, limits)?;
    let mut weighed = check_lines(guide, file, &named(&drawing), drawing.oversampled, manifest)?;
    weighed.check.source = Some(drawing.source);
    Ok(weighed)
}

/// The ink across a line at a place in px of the drawing, the normal in degrees.
pub fn across(guide: &LineGuide, bytes: &[u8], at: [f64; 2], normal_deg: f64, limits: &Limits) -> Result<Across, ReadError> {
    let drawing = read_as(bytes, by_group(guide), &Given::kind(guide.picture_kind), limits)?;
    Ok(plan::across(guide, &named(&drawing), drawing.oversampled, at, normal_deg))
}

/// The lines of a model sheet, by the colours that are found on it.
pub fn model_sheet(bytes: &[u8], limits: &Limits) -> Result<ModelSheet, WeighError> {
    let drawing = read(bytes, false, limits)?;
    Ok(model::read(&named(&drawing), drawing.oversampled)?)
}

fn named(drawing: &Drawing) -> Vec<NamedLayer<'_>> {
    drawing
        .layers
        .iter()
        .filter_map(|(name, p)| Some(NamedLayer { name: name.as_deref(), picture: Picture::new(p.width, p.height, &p.data)?.of_kind(drawing.source.kind) }))
        .collect()
}

/// Reads a drawing by its content. A vector drawing's named groups are told apart only when asked: each is drawn on its own.
pub fn read(bytes: &[u8], by_group: bool, limits: &Limits) -> Result<Drawing, ReadError> {
    read_as(bytes, by_group, &Given::default(), limits)
}

/// The same for a picture of which a person has said what it is.
pub fn read_as(bytes: &[u8], by_group: bool, given: &Given, limits: &Limits) -> Result<Drawing, ReadError> {
    limits.file(bytes.len() as u64)?;
    // Layers and vectors are no lens's.
    let made = Source { from: Origins { kind: Origin::File, light: Origin::File, resolution: None }, ..Source::default() };
    match kind(bytes)? {
        Kind::OpenRaster => Ok(Drawing { layers: openraster::layers(bytes, limits)?, oversampled: 1.0, source: made }),
        Kind::Svg => svg_drawing::layers(bytes, by_group, limits).map(|(layers, oversampled)| Drawing { layers, oversampled, source: made }),
        Kind::Flat => flat(bytes, given, limits),
    }
}

fn flat(bytes: &[u8], given: &Given, limits: &Limits) -> Result<Drawing, ReadError> {
    let opened = images::open(bytes, given.icc.as_deref(), limits)?;
    let pixels = opened.picture.into_rgba8();
    let p = images::Rgba { width: pixels.width() as usize, height: pixels.height() as usize, data: pixels.into_raw() };
    let mut source = Source { light: opened.light, from: Origins { light: opened.light_from, ..Origins::default() }, ..Source::default() };
    match given.kind {
        Some(kind) => (source.kind, source.from.kind) = (kind, Origin::Stated),
        None => {
            if let Some(picture) = Picture::new(p.width, p.height, &p.data) {
                let light = |i: usize| p.data[4 * i..4 * i + 3].iter().map(|v| linear_of(*v)).sum::<f32>() / 3.0;
                let all_round = || Beside::find(light, picture.width, picture.height).is_some_and(|b| b.all_round);
                let vote = vote(&Signs::of(&picture), &opened.signs, all_round);
                (source.kind, source.from.kind) = (vote.kind, vote.from);
                if vote.close {
                    let [taken, other] = match vote.kind {
                        source::Kind::Drawing => ["drawing", "scan"],
                        source::Kind::Scan => ["scan", "drawing made by a program"],
                        source::Kind::Photo => ["photo", "scan"],
                    };
                    source.assumed.push(format!("taken as a {taken}; it could be a {other}: the guide, or picture_kind in the manifest, settles it"));
                }
            }
        }
    }
    if source.from.light == Origin::Assumed {
        source.assumed.push(images::ASSUMED_SRGB.into());
    }
    source.assumed.extend(images::further(bytes));
    if let Some(quality) = bytes.starts_with(&[0xFF, 0xD8]).then(|| jpeg_quality(bytes)).flatten() {
        source.assumed.push(format!(
            "saved as a JPEG of quality {quality:.0}: what was lost leaves ripples about the lines and shifts colours; a PNG or TIFF is measured exactly"
        ));
    }
    Ok(Drawing { layers: vec![(None, p)], oversampled: 1.0, source })
}

/// What a person says a drawing is: in the manifest, else in the guide.
fn stated(guide: &LineGuide, manifest: &Manifest) -> Result<Option<source::Kind>, ReadError> {
    match manifest.get("picture_kind").filter(|k| !k.trim().is_empty()) {
        Some(k) => source::Kind::by_name(k)
            .map(Some)
            .ok_or_else(|| ReadError::Manifest(format!("picture_kind is drawing, scan or photo, not “{}”", crate::limits::quoted(k)))),
        None => Ok(guide.picture_kind),
    }
}

/// A vector drawing drawn as a picture, at so many px for one of its own.
pub fn drawn(svg: &str, oversampled: f64, limits: &Limits) -> Result<images::Rgba, ReadError> {
    svg_drawing::drawn(svg, oversampled, limits)
}

/// Pixels that reading a file will hold at once, from what it says of itself; 0 where it does not tell.
pub fn declared_pixels(bytes: &[u8], by_group: bool, limits: &Limits) -> u64 {
    let flat = || images::dimensions(bytes, limits).ok().map(|(w, h)| u64::from(w) * u64::from(h));
    match kind(bytes) {
        Ok(Kind::OpenRaster) => openraster::declared_pixels(bytes, limits),
        Ok(Kind::Svg) => svg_drawing::declared_pixels(bytes, by_group, limits),
        _ => flat(),
    }
    .unwrap_or(0)
}

enum Kind {
    OpenRaster,
    Svg,
    Flat,
}

fn kind(bytes: &[u8]) -> Result<Kind, ReadError> {
    if bytes.is_empty() {
        return Err(ReadError::Empty);
    }
    if bytes.starts_with(b"PK") {
        return Ok(Kind::OpenRaster);
    }
    // A vector drawing is text, whatever its program has written before its root.
    let wide = matches!(bytes, [0xFF, 0xFE, b'<', 0, ..] | [0xFE, 0xFF, 0, b'<', ..] | [b'<', 0, ..] | [0, b'<', ..]);
    let head = String::from_utf8_lossy(&bytes[..bytes.len().min(1024)]).to_lowercase();
    if wide || head.contains("<svg") || head.trim_start_matches('\u{FEFF}').trim_start().starts_with('<') {
        return Ok(Kind::Svg);
    }
    match format(bytes) {
        Ok(_) => Ok(Kind::Flat),
        Err(_) => Err(ReadError::Kind("this is no drawing that can be read; PNG, TIFF, JPEG, SVG and OpenRaster are".into())),
    }
}

#[cfg(test)]
mod tests {
    #[test]
    fn a_vector_drawing_falls_apart_by_its_groups() {
        let svg = r##"<svg xmlns="http://www.w3.org/2000/svg" width="300" height="20"><defs/><g id="cleanup" transform="translate(0 5)">
            <g id="contour"><path d="M10 5H290" stroke="#000"/></g><g id="inner"><path d="M10 10H290" stroke="#000"/></g><path d="M10 0H290" stroke="#000"/></g></svg>"##;
        let ink = |l: &crate::images::Rgba| {
            l.data.chunks(4).enumerate().filter(|p| p.1[3] > 128).map(|p| p.0 / l.width / 4).collect::<std::collections::BTreeSet<_>>()
        };
        let apart = super::read(svg.as_bytes(), true, &crate::LIMITS).expect("it reads");
        let names: Vec<_> = apart.layers.iter().map(|l| l.0.as_deref().unwrap_or("-")).collect();
        assert_eq!(names, ["cleanup", "cleanup/contour", "cleanup/inner"]);
        let rows: Vec<Vec<usize>> = apart.layers.iter().map(|l| ink(&l.1).into_iter().collect()).collect();
        assert_eq!(rows, [vec![4, 5], vec![9, 10], vec![14, 15]]);
        let flat = super::read(svg.as_bytes(), false, &crate::LIMITS).expect("it reads");
        assert_eq!(ink(&flat.layers[0].1).into_iter().collect::<Vec<_>>(), [4, 5, 9, 10, 14, 15]);
    }
}
