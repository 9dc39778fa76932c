//! Drawings as artists hand them in, with the true width of every stroke: made from the definitions of the measure alone.
//!
//! What differs is what lies beside and beneath the lines ([`Ground`]); the strokes are of the kinds that drawings have (`content`).
//! How: every shape is an outline with one colour; layers lie over one another in encoded sRGB, a layer's opacity is of the layer as a
//! whole. The same drawing can be had as SVG, so that other renderers draw it. Limits: no ground has grain; scans are `scanner`'s.

mod content;
pub mod day;
pub mod held;
pub mod planted;

use std::collections::HashMap;
use std::fmt::Write as _;

use eddymist_check::guide::LineGuide;
use eddymist_formats::images::Rgba;
use eddymist_ink::{Outline, raster::rasterise};

pub use content::made;

use crate::figures::blurred;

/// What lies beside and beneath the lines, and how the ink lies on it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Ground {
    /// White paper: what the others are held against.
    White,
    /// White fills in the figures, nothing about them.
    WhiteFills,
    /// Painted fills, another on either side of a line, nothing about the figures.
    PaintedFills,
    /// Painted fills on a painted background in two parts.
    PaintedPage,
    /// A page of one colour.
    ColouredPage,
    /// A background that runs from one colour to another.
    Gradient,
    /// Blacks that lines run into.
    SpottedBlacks,
    /// Black over more than half of the page.
    MostlyBlack,
    /// A rough at 20 % beneath, on white and on nothing.
    RoughOnWhite,
    RoughOnClear,
    /// Ink at 60 % on nothing.
    HalfTransparent,
    /// Several inks in the role of all the rest.
    SeveralInks,
    /// Ink of #141414 where the guide has #000000.
    NearBlack,
    /// On nothing, edges mixed with white.
    WhiteMatte,
    /// White fills, at most 24 colours.
    Palette,
    /// Painted fills on white, as JPEG of good quality.
    Jpeg,
}

impl Ground {
    pub const ALL: [Self; 16] = [
        Self::White,
        Self::WhiteFills,
        Self::PaintedFills,
        Self::PaintedPage,
        Self::ColouredPage,
        Self::Gradient,
        Self::SpottedBlacks,
        Self::MostlyBlack,
        Self::RoughOnWhite,
        Self::RoughOnClear,
        Self::HalfTransparent,
        Self::SeveralInks,
        Self::NearBlack,
        Self::WhiteMatte,
        Self::Palette,
        Self::Jpeg,
    ];
}

/// What a stroke is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum Drawn {
    /// Of one width all along, closed or between others.
    Even,
    /// With a body and run out at its ends.
    RunOut,
    /// Mostly taper.
    Taper,
    Tick,
    Hatching,
}

/// A stroke as it was meant: its middle about a px apart, and its width there, px.
#[derive(Debug, Clone, PartialEq)]
pub struct TrueStroke {
    /// The role's place in the guide.
    pub role: usize,
    pub drawn: Drawn,
    pub points: Vec<[f64; 2]>,
    pub widths: Vec<f64>,
}

/// What a shape's edge is.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Edge {
    /// As the pixels cover it.
    Plain,
    /// Blurred by a Gaussian of this deviation, px.
    Soft(f64),
    /// Pixels are covered whole or not at all.
    Hard,
}

/// A shape of one colour.
#[derive(Debug, Clone)]
pub struct Shape {
    pub form: Outline,
    pub rgb: [u8; 3],
    pub edge: Edge,
}

/// Shapes over one another, and how much of the whole is seen.
#[derive(Debug, Clone)]
pub struct Sheet {
    pub shapes: Vec<Shape>,
    pub opacity: f64,
}

/// A drawing as it was handed in.
#[derive(Debug, Clone)]
pub struct HandedIn {
    pub ground: Ground,
    pub width: usize,
    pub height: usize,
    /// The page's colours at its top and its bottom; none where it is clear.
    pub page: Option<[[u8; 3]; 2]>,
    /// Bottom first.
    pub sheets: Vec<Sheet>,
    pub strokes: Vec<TrueStroke>,
    pub guide: LineGuide,
}

impl HandedIn {
    /// Drawn by this project's raster, as the file's kind has it.
    pub fn picture(&self) -> Rgba {
        let (w, h) = (self.width, self.height);
        // Premultiplied, 0…1.
        let mut all = vec![[0f32; 4]; w * h];
        if let Some([top, bottom]) = self.page {
            for (i, p) in all.iter_mut().enumerate() {
                let t = (i / w) as f32 / (h - 1) as f32;
                let c = [0, 1, 2].map(|k| ((f32::from(top[k]) + (f32::from(bottom[k]) - f32::from(top[k])) * t).round()) / 255.0);
                *p = [c[0], c[1], c[2], 1.0];
            }
        }
        for sheet in &self.sheets {
            let mut own = vec![[0f32; 4]; w * h];
            for s in &sheet.shapes {
                lay(&mut own, w, h, s);
            }
            for (p, s) in all.iter_mut().zip(&own).filter(|(_, s)| s[3] > 0.0) {
                let o = sheet.opacity as f32;
                *p = [0, 1, 2, 3].map(|k| s[k] * o + p[k] * (1.0 - s[3] * o));
            }
        }
        let mut out = Rgba { width: w, height: h, data: all.iter().flat_map(|p| straight(*p)).collect() };
        match self.ground {
            // Once flattened on white, then cut out again by its alpha.
            Ground::WhiteMatte => {
                for p in out.data.as_chunks_mut::<4>().0 {
                    let a = f32::from(p[3]) / 255.0;
                    for c in &mut p[..3] {
                        *c = (f32::from(*c) * a + 255.0 * (1.0 - a)).round() as u8;
                    }
                }
            }
            Ground::Palette => to_palette(&mut out, 24),
            Ground::Jpeg => {
                let rgb: Vec<u8> = out.data.as_chunks::<4>().0.iter().flat_map(|p| [p[0], p[1], p[2]]).collect();
                let mut bytes = Vec::new();
                let wrote = image::codecs::jpeg::JpegEncoder::new_with_quality(&mut bytes, 92).encode(&rgb, w as u32, h as u32, image::ExtendedColorType::Rgb8);
                if let (Ok(()), Ok(read)) = (wrote, image::load_from_memory_with_format(&bytes, image::ImageFormat::Jpeg)) {
                    out.data = read.into_rgba8().into_raw();
                }
            }
            _ => {}
        }
        out
    }

    /// The same as SVG; what a file's kind does to the pixels is left to who draws it.
    pub fn svg(&self) -> String {
        let mut out = format!("<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"{0}\" height=\"{1}\" viewBox=\"0 0 {0} {1}\">\n", self.width, self.height);
        if let Some([top, bottom]) = self.page {
            let stop = |at: u8, [r, g, b]: [u8; 3]| format!("<stop offset=\"{at}\" stop-color=\"#{r:02x}{g:02x}{b:02x}\"/>");
            let _ = writeln!(
                out,
                "<defs><linearGradient id=\"page\" x2=\"0\" y2=\"1\">{}{}</linearGradient></defs><rect width=\"100%\" height=\"100%\" fill=\"url(#page)\"/>",
                stop(0, top),
                stop(1, bottom)
            );
        }
        for sheet in &self.sheets {
            let _ = writeln!(out, "<g opacity=\"{}\">", sheet.opacity);
            for s in &sheet.shapes {
                let [r, g, b] = s.rgb;
                let edge = match s.edge {
                    Edge::Plain => String::new(),
                    Edge::Soft(by) => format!(" style=\"filter:blur({by}px)\""),
                    Edge::Hard => " shape-rendering=\"crispEdges\"".into(),
                };
                let _ = writeln!(out, "<path fill=\"#{r:02x}{g:02x}{b:02x}\"{edge} d=\"{}\"/>", path(&s.form));
            }
            out.push_str("</g>\n");
        }
        out + "</svg>\n"
    }
}

/// An outline as a path of SVG.
fn path(outline: &Outline) -> String {
    let mut d = String::new();
    for ring in &outline.paths {
        for (k, p) in ring.iter().enumerate() {
            let _ = write!(d, "{}{:.3} {:.3}", if k == 0 { "M" } else { "L" }, p[0], p[1]);
        }
        d.push('Z');
    }
    d
}

/// Lays a shape over a sheet.
fn lay(sheet: &mut [[f32; 4]], w: usize, h: usize, s: &Shape) {
    let Some([left, top, right, bottom]) = s.form.bounds() else { return };
    let margin = if let Edge::Soft(by) = s.edge { 1.0 + 3.0 * by } else { 1.0 };
    let (x0, y0) = ((left - margin).floor().max(0.0) as usize, (top - margin).floor().max(0.0) as usize);
    let (x1, y1) = (((right + margin).ceil().max(0.0) as usize).min(w), ((bottom + margin).ceil().max(0.0) as usize).min(h));
    if x0 >= x1 || y0 >= y1 {
        return;
    }
    let mut part = rasterise(&s.form, 1.0, [x0 as f64, y0 as f64], x1 - x0, y1 - y0).data;
    match s.edge {
        Edge::Plain => {}
        Edge::Soft(by) => part = [true, false].iter().fold(part, |part, rows| blurred(&part, x1 - x0, y1 - y0, by, *rows)),
        Edge::Hard => part.iter_mut().for_each(|c| *c = if *c >= 0.5 { 1.0 } else { 0.0 }),
    }
    let c = s.rgb.map(|v| f32::from(v) / 255.0);
    for (i, a) in part.iter().enumerate().filter(|(_, a)| **a > 0.0) {
        let p = &mut sheet[(y0 + i / (x1 - x0)) * w + x0 + i % (x1 - x0)];
        *p = [c[0] * a + p[0] * (1.0 - a), c[1] * a + p[1] * (1.0 - a), c[2] * a + p[2] * (1.0 - a), a + p[3] * (1.0 - a)];
    }
}

fn straight(p: [f32; 4]) -> [u8; 4] {
    let a = p[3].max(1e-6);
    let byte = |v: f32| (v * 255.0).round().clamp(0.0, 255.0) as u8;
    let alpha = byte(p[3]);
    if alpha == 0 { [0; 4] } else { [byte(p[0] / a), byte(p[1] / a), byte(p[2] / a), alpha] }
}

/// Every pixel takes the nearest of the commonest colours.
fn to_palette(picture: &mut Rgba, most: usize) {
    let mut counts: HashMap<[u8; 4], usize> = HashMap::new();
    picture.data.as_chunks::<4>().0.iter().for_each(|p| *counts.entry(*p).or_default() += 1);
    let mut all: Vec<([u8; 4], usize)> = counts.into_iter().collect();
    all.sort_by(|a, b| b.1.cmp(&a.1).then(a.0.cmp(&b.0)));
    // The commonest that are not next to one another, so that edges have steps of their own.
    let far = |a: &[u8; 4], b: &[u8; 4]| a.iter().zip(b).map(|(x, y)| (i32::from(*x) - i32::from(*y)).pow(2)).sum::<i32>();
    let mut palette: Vec<[u8; 4]> = Vec::new();
    for (c, _) in &all {
        if palette.len() < most && palette.iter().all(|p| far(p, c) > 900) {
            palette.push(*c);
        }
    }
    let mut nearest: HashMap<[u8; 4], [u8; 4]> = HashMap::new();
    for p in picture.data.as_chunks_mut::<4>().0 {
        *p = *nearest.entry(*p).or_insert_with(|| palette.iter().copied().min_by_key(|q| far(p, q)).unwrap_or(*p));
    }
}
