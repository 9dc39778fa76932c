//! A line check taken elsewhere: findings as CSV, lines coloured by how they weigh as PNG and SVG, one or all in a ZIP.

use std::{
    fmt::Write as _,
    io::{Cursor, Write as _},
};

use eddymist_check::{DrawingCheck, LineCheck, WeighedLine};
use zip::{ZipWriter, write::SimpleFileOptions};

use crate::{
    ReadError,
    images::{PngKind, write_png},
    table::Table,
};

/// Findings, one a row: those of drawings with their place, those of the sequence, what people pinned, and what could not be read.
pub fn findings_csv(check: &LineCheck) -> String {
    let mut out = Table::new();
    let mut row = |r: &[String]| out.row(r);
    let head = ["file", "artist", "shot", "drawing", "hand_on", "kind", "role", "x_px", "y_px", "length_px", "value", "limit", "must_mend", "says", "meant"];
    row(&head.map(String::from));
    let number = |v: f64| format!("{}", (v * 1000.0).round() / 1000.0);
    let word = |v: &dyn erased::Word| v.word();
    for d in &check.drawings {
        let known = |c: &str| d.manifest.get(c).cloned().unwrap_or_default();
        let whose = || [d.file.clone(), known("artist"), known("shot"), known("drawing"), d.hand_on.as_ref().map_or(String::new(), |h| word(h))];
        let line = |rest: [String; 10]| [whose().as_slice(), &rest].concat();
        for f in &d.findings {
            row(&line([
                word(&f.kind),
                f.role.clone().unwrap_or_default(),
                number(f.x),
                number(f.y),
                f.length_px.map(number).unwrap_or_default(),
                number(f.value),
                number(f.limit),
                f.must_mend.to_string(),
                f.message.clone(),
                f.dismissed.as_ref().map(|m| format!("{}: {}", m.by, m.why)).unwrap_or_default(),
            ]));
        }
        for p in &d.pins {
            let none = String::new;
            row(&line(["pinned".into(), none(), number(p.x), number(p.y), none(), none(), none(), none(), p.text.clone(), p.by.clone()]));
        }
    }
    for f in &check.sequence {
        let mut r = vec![f.drawings.join(" "), f.artist.clone().unwrap_or_default()];
        r.extend([String::new(), String::new(), String::new(), word(&f.kind), f.role.clone()]);
        r.extend([String::new(), String::new(), String::new(), number(f.value), number(f.limit), String::new(), f.message.clone(), String::new()]);
        row(&r);
    }
    for f in &check.failed {
        let mut r = vec![String::new(); head.len()];
        (r[0], r[5], r[13]) = (f.file.clone(), "not read".into(), f.message.clone());
        row(&r);
    }
    out.finish()
}

/// The word that a document has for a value.
mod erased {
    pub trait Word {
        fn word(&self) -> String;
    }
    impl<T: serde::Serialize> Word for T {
        fn word(&self) -> String {
            serde_json::to_value(self).ok().and_then(|v| v.as_str().map(str::to_string)).unwrap_or_default()
        }
    }
}

/// What an overlay is written as.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Overlay {
    Png,
    Svg,
}

impl Overlay {
    fn ending(self) -> &'static str {
        match self {
            Self::Png => "png",
            Self::Svg => "svg",
        }
    }
}

/// An overlay's name: the drawing's path with `_` for `/`, and the ending.
pub fn overlay_name(file: &str, kind: Overlay) -> String {
    format!("{}.{}", file.trim_start_matches('/').replace(['/', '\\'], "_"), kind.ending())
}

/// Colours of the standings: thin, heavy, within, not measured.
fn colour(standing: char) -> [u8; 4] {
    match standing {
        't' => [0x28, 0x66, 0xb1, 255],
        'h' => [0xa8, 0x40, 0x0f, 255],
        'w' => [0x16, 0x20, 0x2b, 255],
        _ => [0x8b, 0x97, 0x9e, 255],
    }
}

/// A drawing's lines alone, coloured by how they stand, on clear ground, at the drawing's size.
pub fn overlay(kind: Overlay, check: &DrawingCheck, lines: &[WeighedLine]) -> Result<Vec<u8>, ReadError> {
    match kind {
        Overlay::Png => png(check, lines),
        Overlay::Svg => Ok(svg(check, lines).into_bytes()),
    }
}

fn png(check: &DrawingCheck, lines: &[WeighedLine]) -> Result<Vec<u8>, ReadError> {
    let (width, height) = (check.width_px as usize, check.height_px as usize);
    let mut data = vec![0u8; width * height * 4];
    for line in lines {
        for (place, standing) in line.places.as_chunks::<3>().0.iter().zip(line.standing.chars()) {
            let (x, y, r) = (f64::from(place[0]) / 10.0, f64::from(place[1]) / 10.0, (f64::from(place[2]) / 20.0).max(0.8));
            for py in (y - r).max(0.0) as usize..=((y + r) as usize).min(height.saturating_sub(1)) {
                for px in (x - r).max(0.0) as usize..=((x + r) as usize).min(width.saturating_sub(1)) {
                    if (px as f64 + 0.5 - x).hypot(py as f64 + 0.5 - y) <= r {
                        data[4 * (py * width + px)..][..4].copy_from_slice(&colour(standing));
                    }
                }
            }
        }
    }
    write_png(width, height, PngKind::Rgba, &data, None)
}

/// Runs of one standing as strokes of their mean width, and each finding as a numbered pin with its sentence.
fn svg(check: &DrawingCheck, lines: &[WeighedLine]) -> String {
    let (w, h) = (check.width_px, check.height_px);
    let mut out = format!(
        "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"{w}\" height=\"{h}\" viewBox=\"0 0 {w} {h}\">\n<g id=\"lines\" fill=\"none\" stroke-linecap=\"round\" stroke-linejoin=\"round\">\n"
    );
    let hex = |c: [u8; 4]| format!("#{:02x}{:02x}{:02x}", c[0], c[1], c[2]);
    for line in lines {
        let places: Vec<[f64; 3]> = line.places.as_chunks::<3>().0.iter().map(|p| p.map(|v| f64::from(v) / 10.0)).collect();
        let standings: Vec<char> = line.standing.chars().collect();
        let mut from = 0;
        while from < standings.len().min(places.len()) {
            let same = standings[from..].iter().take_while(|s| **s == standings[from]).count();
            let to = (from + same).min(places.len() - 1);
            let run = &places[from..=to];
            let width = run.iter().map(|p| p[2]).sum::<f64>() / run.len() as f64;
            let _ = write!(out, "<path stroke=\"{}\" stroke-width=\"{width:.2}\" d=\"", hex(colour(standings[from])));
            for (i, p) in run.iter().enumerate() {
                let _ = write!(out, "{}{} {}", if i == 0 { 'M' } else { 'L' }, p[0], p[1]);
            }
            out.push_str("\"/>\n");
            from += same;
        }
    }
    out.push_str("</g>\n<g id=\"findings\" font-family=\"sans-serif\" font-size=\"14\">\n");
    let says = |n: usize, x: f64, y: f64, text: &str| {
        let text = text.replace('&', "&amp;").replace('<', "&lt;");
        format!(
            "<g><title>{text}</title><circle cx=\"{x:.1}\" cy=\"{y:.1}\" r=\"11\" fill=\"#16202b\"/><text x=\"{x:.1}\" y=\"{:.1}\" text-anchor=\"middle\" fill=\"#fff\">{n}</text></g>\n",
            y + 5.0
        )
    };
    for (i, f) in check.findings.iter().enumerate().filter(|(_, f)| f.dismissed.is_none()) {
        out.push_str(&says(i + 1, f.x, f.y, &f.message));
    }
    for (i, p) in check.pins.iter().enumerate() {
        out.push_str(&says(check.findings.len() + i + 1, p.x, p.y, &format!("{}: {}", p.by, p.text)));
    }
    out.push_str("</g>\n</svg>\n");
    out
}

/// The overlays of many drawings in one ZIP.
pub struct Overlays {
    kind: Overlay,
    zip: ZipWriter<Cursor<Vec<u8>>>,
}

impl Overlays {
    pub fn new(kind: Overlay) -> Self {
        Self { kind, zip: ZipWriter::new(Cursor::new(Vec::new())) }
    }

    /// Adds one drawing's.
    pub fn add(&mut self, check: &DrawingCheck, lines: &[WeighedLine]) -> Result<(), ReadError> {
        let bad = |e: String| ReadError::Archive(e);
        let bytes = overlay(self.kind, check, lines)?;
        self.zip.start_file(overlay_name(&check.file, self.kind), SimpleFileOptions::default()).map_err(|e| bad(e.to_string()))?;
        self.zip.write_all(&bytes).map_err(|e| bad(e.to_string()))
    }

    /// The ZIP's bytes.
    pub fn finish(self) -> Result<Vec<u8>, ReadError> {
        self.zip.finish().map(Cursor::into_inner).map_err(|e| ReadError::Archive(e.to_string()))
    }
}
