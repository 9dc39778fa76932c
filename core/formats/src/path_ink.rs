//! Existing paths inked, each in its own way: by a brush of several, with a course of its own, turned round, heavier or lighter; and the
//! page that they came from, with its layers, names and colours.

use std::collections::HashMap;

use eddymist_ink::{Brush, Course, Inked, InkedSample, Inker, Sample, Stroke, brush::OwnTapers};
use rayon::prelude::*;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::{
    LIMITS,
    ink_out::{TOLERANCE_MM, svg_strokes},
    library::is_colour,
    trial::escaped,
};

/// A path as it is to be inked.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct PathToInk {
    /// `[x, y]` in mm.
    pub points: Vec<[f64; 2]>,
    /// `rise`, `swell`, `fall`, `even`, or knots as JSON: `[[0,0.2],[1,1]]`.
    #[serde(default = "even")]
    pub course: String,
    #[serde(default)]
    pub reversed: bool,
    /// Factor on the brush's weight, and on what goes with it.
    #[serde(default = "one")]
    pub weight_factor: f64,
    /// Its own tapers, where it has any.
    #[serde(default, skip_serializing_if = "OwnTapers::is_none")]
    pub tapers: OwnTapers,
    /// Which of the brushes inks it.
    #[serde(default)]
    pub brush: usize,
    /// Where it stands in its page and what it is called there; they go out as they came.
    #[serde(default)]
    pub layer: String,
    #[serde(default)]
    pub name: String,
    /// `#rrggbb`; without one it is its brush's.
    #[serde(default)]
    pub colour: String,
}

impl Default for PathToInk {
    fn default() -> Self {
        Self {
            points: Vec::new(),
            course: even(),
            reversed: false,
            weight_factor: 1.0,
            tapers: OwnTapers::default(),
            brush: 0,
            layer: String::new(),
            name: String::new(),
            colour: String::new(),
        }
    }
}

fn even() -> String {
    "even".into()
}
fn one() -> f64 {
    1.0
}

/// Why paths cannot be inked.
#[derive(Debug, thiserror::Error, Clone, PartialEq)]
pub enum PathInkError {
    #[error(transparent)]
    Ink(#[from] eddymist_ink::InkError),
    #[error("line {line}: {problem}")]
    Line { line: usize, problem: String },
    #[error("the picture's scale lies between 0.01 and 100")]
    Scale,
}

/// What tells one way of being inked from another: the brush, its factor and the line's own tapers by their bits, and the course.
type Way = (usize, u64, [Option<u64>; 2], String);

/// How all of them are inked.
pub struct PathPen<'a> {
    pub brushes: &'a [Brush],
    /// The picture's size against how it came.
    pub scale: f64,
    /// Whether weights grow with the picture, or stay in mm.
    pub weight_scales: bool,
}

impl PathPen<'_> {
    fn strokes(&self, paths: &[PathToInk]) -> Result<Vec<(Stroke, Inker)>, PathInkError> {
        if !(0.01..=100.0).contains(&self.scale) {
            return Err(PathInkError::Scale);
        }
        // Most lines share their way of being inked: each is made ready once.
        let mut ready: HashMap<Way, Inker> = HashMap::new();
        let inked = |(line, p): (usize, &PathToInk)| {
            let bad = |problem: String| PathInkError::Line { line: line + 1, problem };
            let near = |v: &f64| v.is_finite() && (v * self.scale).abs() <= LIMITS.coordinate_mm;
            if !(2..=LIMITS.stroke_samples).contains(&p.points.len()) || !p.points.iter().flatten().all(near) {
                return Err(bad(format!("a line has two points at least, each a number, and none farther than {} m away", LIMITS.coordinate_mm / 1000.0)));
            }
            if !(0.05..=20.0).contains(&p.weight_factor) {
                return Err(bad("the weight factor lies between 0.05 and 20".into()));
            }
            let factor = p.weight_factor * if self.weight_scales { self.scale } else { 1.0 };
            let brush = self.brushes.get(p.brush).ok_or_else(|| bad(format!("there is no brush {}", p.brush)))?;
            let own = p.tapers;
            let key = (p.brush, factor.to_bits(), [own.lead_in_mm, own.lead_out_mm].map(|mm| mm.map(f64::to_bits)), p.course.clone());
            let inker = match ready.get(&key) {
                Some(i) => i.clone(),
                None => {
                    let course = Course::parse(&p.course).map_err(|e| bad(e.to_string()))?;
                    let i = Inker::new(&brush.weighed(factor).tapered(own), None, Some(course)).map_err(|e| bad(e.to_string()))?;
                    ready.insert(key, i.clone());
                    i
                }
            };
            let at = |q: &[f64; 2]| Sample { x: q[0] * self.scale, y: q[1] * self.scale, ..Sample::default() };
            let samples = if p.reversed { p.points.iter().rev().map(at).collect() } else { p.points.iter().map(at).collect() };
            Ok((Stroke { samples, zoom: 1.0, timed: false }, inker))
        };
        paths.iter().enumerate().map(inked).collect()
    }

    /// Every path's ink.
    pub fn ink(&self, paths: &[PathToInk]) -> Result<Vec<Inked>, PathInkError> {
        Ok(self.strokes(paths)?.par_iter().map(|(s, i)| i.ink(s).inked(0.25 * TOLERANCE_MM)).collect())
    }

    /// Every path as a stroke with the widths that it is inked with.
    pub fn inked_strokes(&self, paths: &[PathToInk]) -> Result<(Vec<Stroke>, Vec<Vec<InkedSample>>), PathInkError> {
        Ok(self
            .strokes(paths)?
            .into_iter()
            .map(|(s, i)| {
                let w = i.ink(&s).samples;
                (s, w)
            })
            .unzip())
    }

    /// All of them as SVG in mm: a page of `page_mm` at the picture's scale, a group for each layer, lines by their names and in their colours.
    pub fn svg(&self, paths: &[PathToInk], page_mm: [f64; 2]) -> Result<String, PathInkError> {
        let inked = self.ink(paths)?;
        let [w, h] = page_mm.map(|v| v * self.scale);
        let mut out = format!("<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"{w:.4}mm\" height=\"{h:.4}mm\" viewBox=\"0 0 {w:.4} {h:.4}\">\n");
        let all: Vec<(&PathToInk, &Inked)> = paths.iter().zip(&inked).collect();
        for layer in all.chunk_by(|a, b| a.0.layer == b.0.layer) {
            out.push_str(&opened(&layer[0].0.layer));
            for (path, ink) in layer {
                let colour = if is_colour(&path.colour) { &path.colour } else { &self.brushes[path.brush].colour };
                let body = svg_strokes(std::slice::from_ref(*ink), colour);
                if path.name.is_empty() { out.push_str(&body) } else { out.push_str(&format!("{}{body}</g>\n", opened(&path.name))) }
            }
            out.push_str("</g>\n");
        }
        out.push_str("</svg>\n");
        Ok(out)
    }
}

fn opened(id: &str) -> String {
    if id.is_empty() { "<g>\n".into() } else { format!("<g id=\"{}\">\n", escaped(id)) }
}
