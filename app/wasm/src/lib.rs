//! The ink engine for the browser: thin, no logic of its own.
//!
//! Samples cross as flat numbers: t in ms, x and y in mm, raw pressure (NaN where there is none), azimuth and elevation
//! in degrees (NaN where there are none). Polygons come back as x, y pairs in mm.

use eddymist_ink::{Brush, Curve, Inker, LiveStroke, Sample, Stroke, layers::blur_of};
use wasm_bindgen::prelude::*;

const TOLERANCE_MM: f64 = 0.002;
/// Pixels of a picture at most.
const MOST_PIXELS: f64 = 40e6;

fn error(e: impl std::fmt::Display) -> JsError {
    JsError::new(&e.to_string())
}

/// A brush and a response, ready to ink.
#[wasm_bindgen]
pub struct Engine {
    inker: Inker,
}

#[wasm_bindgen]
impl Engine {
    /// `response` holds raw, effort pairs; empty takes raw pressure as effort. A pixel lay is one of `px_per_mm`.
    #[wasm_bindgen(constructor)]
    pub fn new(brush_json: &str, response: &[f64], px_per_mm: f64) -> Result<Engine, JsError> {
        let brush = Brush::from_json(brush_json).map_err(error)?;
        let knots: Vec<[f64; 2]> = response.chunks_exact(2).map(|k| [k[0], k[1]]).collect();
        let response = if knots.is_empty() { None } else { Some(Curve::new(&knots).map_err(error)?) };
        Ok(Engine { inker: Inker::new(&brush, response, None).map_err(error)?.at_px_per_mm(px_per_mm) })
    }

    /// Begins a live stroke.
    pub fn begin(&self, zoom: f64) -> Live {
        Live { stroke: LiveStroke::new(self.inker.clone(), zoom, TOLERANCE_MM) }
    }

    /// A whole stroke (six numbers a sample): SVG path data in mm, one after the other, each opacity after its path.
    pub fn paths(&self, samples: &[f64], zoom: f64) -> Vec<String> {
        let stroke = Stroke { samples: samples.chunks_exact(6).map(sample).collect(), zoom, timed: true };
        let inked = self.inker.ink(&stroke).inked(0.25 * TOLERANCE_MM);
        inked.svg_paths(TOLERANCE_MM).into_iter().flat_map(|(d, alpha)| [d, alpha.to_string()]).collect()
    }

    /// A whole stroke of a stamped lay at so many px to the mm; nothing for other lays, or where nothing is inked.
    pub fn picture(&self, samples: &[f64], zoom: f64, px_per_mm: f64) -> Option<InkPicture> {
        let stroke = Stroke { samples: samples.chunks_exact(6).map(sample).collect(), zoom, timed: true };
        let inked = self.inker.ink(&stroke).inked(TOLERANCE_MM);
        inked.stamping.as_ref()?;
        let [l, t, r, b] = inked.bounds()?;
        let [x, y] = [l, t].map(|v| (v * px_per_mm).floor());
        let (width, height) = ((r * px_per_mm).ceil() - x, (b * px_per_mm).ceil() - y);
        if !(width * height <= MOST_PIXELS) {
            return None;
        }
        let c = inked.raster(px_per_mm, [x / px_per_mm, y / px_per_mm], width as usize, height as usize);
        let alpha = c.data.iter().map(|v| (v * 255.0).round() as u8).collect();
        Some(InkPicture { x: x / px_per_mm, y: y / px_per_mm, width: width as u32, alpha })
    }

    /// Deviation in mm of the Gaussian that softens every edge.
    pub fn blur(&self) -> f64 {
        blur_of(self.inker.brush().edge.softness_mm)
    }

    /// The least opacity that a stroke can have: live ink is drawn with it.
    pub fn opacity(&self) -> f64 {
        self.inker.brush().opacity.floor.min(self.inker.brush().opacity.full)
    }
}

/// Ink as a picture: where its top left corner lies, mm, and its coverage 0…255 row by row.
#[wasm_bindgen]
pub struct InkPicture {
    pub x: f64,
    pub y: f64,
    pub width: u32,
    alpha: Vec<u8>,
}

#[wasm_bindgen]
impl InkPicture {
    /// Coverage of every pixel.
    pub fn alpha(&self) -> Vec<u8> {
        self.alpha.clone()
    }
}

/// A stroke while it is drawn.
#[wasm_bindgen]
pub struct Live {
    stroke: LiveStroke,
}

#[wasm_bindgen]
impl Live {
    /// Takes one sample; returns the polygons that it adds, each closed by a pair of NaN.
    pub fn push(&mut self, t_ms: f64, x: f64, y: f64, pressure: f64, azimuth: f64, elevation: f64) -> Vec<f64> {
        let pieces = self.stroke.push(sample(&[t_ms, x, y, pressure, azimuth, elevation]));
        pieces.into_iter().flat_map(|p| p.into_iter().chain([[f64::NAN; 2]])).collect::<Vec<_>>().into_flattened()
    }
}

/// The value of the monotone cubic through x, y knots at `steps` places, as x, y pairs: for drawing a curve.
#[wasm_bindgen]
pub fn curve(knots: &[f64], steps: usize) -> Result<Vec<f64>, JsError> {
    let knots: Vec<[f64; 2]> = knots.chunks_exact(2).map(|k| [k[0], k[1]]).collect();
    let c = Curve::new(&knots).map_err(error)?;
    let (a, b) = (knots[0][0], knots[knots.len() - 1][0]);
    Ok((0..=steps).map(|i| a + (b - a) * i as f64 / steps.max(1) as f64).flat_map(|x| [x, c.at(x)]).collect())
}

/// Azimuth (counter-clockwise) and elevation in degrees of a stylus' tilts.
#[wasm_bindgen]
pub fn spherical(tilt_x_deg: f64, tilt_y_deg: f64) -> Vec<f64> {
    let (azimuth, elevation) = eddymist_ink::stroke::spherical_of_tilt(tilt_x_deg, tilt_y_deg);
    vec![azimuth, elevation]
}

fn sample(v: &[f64]) -> Sample {
    let given = |x: f64| x.is_finite().then_some(x);
    Sample { t_ms: v[0], x: v[1], y: v[2], pressure: given(v[3]), azimuth_deg: given(v[4]), elevation_deg: given(v[5]) }
}
