//! Existing paths from an SVG, as strokes without times.
//!
//! How: usvg resolves the file; every subpath becomes a stroke with its layer and colour. Limits: without mm the file is taken at 96 px to the inch;
//! what it refers to outside of itself is not read.

use eddymist_ink::{Sample, Stroke};
use resvg::usvg;
use serde::{Deserialize, Serialize};

use crate::{Limits, ReadError, limits::quoted, svg_drawing, xml};

/// Paths sampled in mm, and whether the file stated physical units.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct SvgPaths {
    pub strokes: Vec<Stroke>,
    /// Of each stroke: what it looks like and where it stands in the file.
    pub marks: Vec<SvgMark>,
    pub in_mm: bool,
    /// The page's own size, mm.
    pub page_mm: [f64; 2],
}

/// What lines are told apart by.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
pub struct SvgMark {
    /// Of its stroke, or of its fill where it has none: `#rrggbb`.
    pub colour: String,
    /// The name of the innermost group that has one.
    pub layer: String,
    /// Its own, where it has one.
    pub name: String,
}

/// All paths together have at most so many points, once sampled.
const MOST_POINTS: usize = 2_000_000;

/// Distance of samples along a path, mm.
const STEP_MM: f64 = 0.25;

/// Reads all paths and shapes; an SVG without physical units is taken at 96 px to the inch.
pub fn read(text: &str, limits: &Limits) -> Result<SvgPaths, ReadError> {
    if text.trim().is_empty() {
        return Err(ReadError::Empty);
    }
    let document = xml::svg(text, limits)?;
    let root = document.root_element();
    if root.tag_name().name() != "svg" {
        return Err(ReadError::Svg(format!("the root is <{}>, and <svg> is needed", quoted(root.tag_name().name()))));
    }
    let in_mm = root.attribute("width").is_some_and(|w| ["mm", "cm", "in", "pt", "pc"].iter().any(|u| w.trim().ends_with(u)));
    let tree = svg_drawing::tree(&document, limits)?;
    let (mut strokes, mut marks) = (Vec::new(), Vec::new());
    collect(tree.root(), "", &mut strokes, &mut marks, &mut 0)?;
    if strokes.is_empty() {
        return Err(ReadError::Svg("there is no path in it".into()));
    }
    let page_mm = [tree.size().width(), tree.size().height()].map(|v| f64::from(v) * 25.4 / 96.0);
    Ok(SvgPaths { strokes, marks, in_mm, page_mm })
}

fn collect(group: &usvg::Group, layer: &str, out: &mut Vec<Stroke>, marks: &mut Vec<SvgMark>, points: &mut usize) -> Result<(), ReadError> {
    let layer = if group.id().is_empty() { layer } else { group.id() };
    for node in group.children() {
        match node {
            usvg::Node::Group(g) => collect(g, layer, out, marks, points)?,
            usvg::Node::Path(p) => {
                if let Some(data) = p.data().clone().transform(p.abs_transform()) {
                    trace(&data, out);
                }
                let paint = p.stroke().map(|s| s.paint()).or(p.fill().map(|f| f.paint()));
                let colour = match paint {
                    Some(usvg::Paint::Color(c)) => format!("#{:02x}{:02x}{:02x}", c.red, c.green, c.blue),
                    _ => String::new(),
                };
                *points += out[marks.len()..].iter().map(|s| s.samples.len()).sum::<usize>();
                if *points > MOST_POINTS {
                    return Err(ReadError::Svg(format!("its paths have more than {MOST_POINTS} points once sampled every {STEP_MM} mm: split the file")));
                }
                marks.resize(out.len(), SvgMark { colour, layer: layer.into(), name: p.id().into() });
            }
            _ => {}
        }
    }
    Ok(())
}

fn trace(path: &usvg::tiny_skia_path::Path, out: &mut Vec<Stroke>) {
    use usvg::tiny_skia_path::PathSegment::{Close, CubicTo, LineTo, MoveTo, QuadTo};
    let mm = |p: usvg::tiny_skia_path::Point| [f64::from(p.x) * 25.4 / 96.0, f64::from(p.y) * 25.4 / 96.0];
    let mut points: Vec<[f64; 2]> = Vec::new();
    let mut flush = |points: &mut Vec<[f64; 2]>| {
        if points.len() > 1 {
            let samples = points.iter().map(|p| Sample { x: p[0], y: p[1], ..Sample::default() }).collect();
            out.push(Stroke { samples, zoom: 1.0, timed: false });
        }
        points.clear();
    };
    for segment in path.segments() {
        match segment {
            MoveTo(p) => {
                flush(&mut points);
                points.push(mm(p));
            }
            LineTo(p) => curve(&mut points, |from, t| mix(from, mm(p), t), mm(p)),
            QuadTo(a, p) => {
                let (a, p) = (mm(a), mm(p));
                curve(&mut points, |from, t| mix(mix(from, a, t), mix(a, p, t), t), p);
            }
            CubicTo(a, b, p) => {
                let (a, b, p) = (mm(a), mm(b), mm(p));
                curve(
                    &mut points,
                    |from, t| {
                        let m = mix(a, b, t);
                        mix(mix(mix(from, a, t), m, t), mix(m, mix(b, p, t), t), t)
                    },
                    p,
                );
            }
            Close => {
                if let Some(&first) = points.first() {
                    curve(&mut points, |from, t| mix(from, first, t), first);
                }
            }
        }
    }
    flush(&mut points);
}

fn curve(points: &mut Vec<[f64; 2]>, at: impl Fn([f64; 2], f64) -> [f64; 2], end: [f64; 2]) {
    let Some(&from) = points.last() else { return };
    let length: f64 = (0..8).map(|i| dist(at(from, f64::from(i) / 8.0), at(from, f64::from(i + 1) / 8.0))).sum();
    let parts = (length / STEP_MM).ceil().clamp(1.0, 4000.0) as usize;
    for i in 1..parts {
        points.push(at(from, i as f64 / parts as f64));
    }
    if dist(from, end) > 0.0 || parts > 1 {
        points.push(end);
    }
}

fn mix(a: [f64; 2], b: [f64; 2], t: f64) -> [f64; 2] {
    [a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t]
}

fn dist(a: [f64; 2], b: [f64; 2]) -> f64 {
    (b[0] - a[0]).hypot(b[1] - a[1])
}
