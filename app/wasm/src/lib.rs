//! The ink engine for the browser: thin, no logic of its own.
//!
//! Samples cross as flat numbers: t in ms, x and y in mm, raw pressure (NaN where there is none), azimuth and elevation
//! in degrees (NaN where there are none). Polygons come back as x, y pairs in mm.

use eddymist_ink::{
    Brush, Course, Curve, Inker, LiveStroke, Sample, Stroke,
    brush::{OwnTapers, StrokeKind},
    digits::push_polygon,
    kinds::{LevelShape, level},
    layers::blur_of,
    picture::Picture,
    points, proof, repair,
    strip::Strip,
};
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
        Self::weighed(brush_json, response, px_per_mm, 1.0, None, None, None)
    }

    /// The same with a factor on the brush's weight, with tapers of the stroke's own, mm, and pressure along it in place of the pen's.
    pub fn weighed(
        brush_json: &str,
        response: &[f64],
        px_per_mm: f64,
        factor: f64,
        lead_in_mm: Option<f64>,
        lead_out_mm: Option<f64>,
        course: Option<String>,
    ) -> Result<Engine, JsError> {
        let brush = Brush::from_json(brush_json).map_err(error)?.weighed(factor).tapered(OwnTapers { lead_in_mm, lead_out_mm });
        let knots: Vec<[f64; 2]> = response.chunks_exact(2).map(|k| [k[0], k[1]]).collect();
        let response = if knots.is_empty() { None } else { Some(Curve::new(&knots).map_err(error)?) };
        let course = course.as_deref().map(Course::parse).transpose().map_err(error)?;
        Ok(Engine { inker: Inker::new(&brush, response, course).map_err(error)?.at_px_per_mm(px_per_mm) })
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
        if !matches!(self.inker.brush().stroke, StrokeKind::Stamped(_)) {
            return None;
        }
        let stroke = Stroke { samples: samples.chunks_exact(6).map(sample).collect(), zoom, timed: true };
        let inked = self.inker.ink(&stroke).inked(TOLERANCE_MM);
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

    /// A stroke whose point `k` is pressed so that the line is so wide there, mm, or as near to it as pressure brings it.
    pub fn widened(&self, samples: &[f64], zoom: f64, points: &[u32], k: usize, width_mm: f64) -> Vec<f64> {
        let stroke = Stroke { samples: samples.chunks_exact(6).map(sample).collect(), zoom, timed: true };
        flat(&points::widened(&stroke, &indices(points), k, width_mm, &self.inker))
    }

    /// The line's width at each sample, mm.
    pub fn widths(&self, samples: &[f64], zoom: f64) -> Vec<f64> {
        let stroke = Stroke { samples: samples.chunks_exact(6).map(sample).collect(), zoom, timed: true };
        self.inker.ink(&stroke).samples.iter().map(|s| s.width_mm).collect()
    }

    /// The mean width of a stroke's middle, mm, across the way it goes.
    pub fn weight(&self, samples: &[f64], zoom: f64) -> f64 {
        let stroke = Stroke { samples: samples.chunks_exact(6).map(sample).collect(), zoom, timed: true };
        let w = self.inker.ink(&stroke).samples;
        let body = &w[w.len() / 5..w.len() - w.len() / 5];
        body.iter().map(|s| s.width_mm).sum::<f64>() / body.len().max(1) as f64
    }

    /// The nib at an effort as it would stand here, about the origin, as polygons in mm, each closed by a pair of NaN: the pointer's ring.
    pub fn nib(&self, pressure: f64, azimuth: f64, elevation: f64) -> Vec<f64> {
        flat_polygons(LiveStroke::nib_outline(&self.inker, &sample(&[0.0, 0.0, 0.0, pressure, azimuth, elevation]), TOLERANCE_MM))
    }

    /// How much a stroke's bends distort the shape that is bent along it (95th percentile); none for other lays.
    pub fn distortion(&self, samples: &[f64]) -> Option<f64> {
        let stroke = Stroke::new(samples.chunks_exact(6).map(sample).collect());
        self.inker.ink(&stroke).distortion().map(|d| d.share)
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

/// A brush that inks bare paths by a course.
#[wasm_bindgen]
pub struct PathEngine {
    inker: Inker,
}

#[wasm_bindgen]
impl PathEngine {
    /// `course` is rise, swell, fall, even, or JSON knots; `factor` is on the weight; tapers are the line's own, mm.
    #[wasm_bindgen(constructor)]
    pub fn new(brush_json: &str, course: &str, factor: f64, lead_in_mm: Option<f64>, lead_out_mm: Option<f64>) -> Result<PathEngine, JsError> {
        let brush = Brush::from_json(brush_json).map_err(error)?.weighed(factor).tapered(OwnTapers { lead_in_mm, lead_out_mm });
        let course = Course::parse(course).map_err(error)?;
        Ok(PathEngine { inker: Inker::new(&brush, None, Some(course)).map_err(error)? })
    }

    /// A path's outline as SVG path data: x, y pairs in mm, within a tolerance in mm.
    pub fn ink(&self, points: &[f64], reversed: bool, scale: f64, tolerance_mm: f64) -> String {
        let at = |p: &[f64]| Sample { x: p[0] * scale, y: p[1] * scale, ..Sample::default() };
        let mut samples: Vec<Sample> = points.chunks_exact(2).map(at).collect();
        if reversed {
            samples.reverse();
        }
        let outline = self.inker.ink(&Stroke { samples, zoom: 1.0, timed: false }).outline(tolerance_mm);
        polygons(&outline.paths, 3)
    }
}

fn polygons(paths: &[Vec<[f64; 2]>], decimals: u32) -> String {
    let mut out = String::with_capacity(16 * paths.iter().map(Vec::len).sum::<usize>());
    paths.iter().for_each(|p| push_polygon(&mut out, p, decimals));
    out
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
        flat_polygons(self.stroke.push(sample(&[t_ms, x, y, pressure, azimuth, elevation])))
    }

    /// What samples that the browser only foretells would add (six numbers each): the stroke stays as it is.
    pub fn ahead(&self, samples: &[f64]) -> Vec<f64> {
        flat_polygons(self.stroke.ahead(&samples.chunks_exact(6).map(sample).collect::<Vec<_>>()))
    }
}

/// Polygons as x, y pairs, each closed by a pair of NaN.
fn flat_polygons(pieces: Vec<Vec<[f64; 2]>>) -> Vec<f64> {
    pieces.into_iter().flat_map(|p| p.into_iter().chain([[f64::NAN; 2]])).collect::<Vec<_>>().into_flattened()
}

/// The value of the monotone cubic through x, y knots at `steps` places, as x, y pairs: for drawing a curve.
#[wasm_bindgen]
pub fn curve(knots: &[f64], steps: usize) -> Result<Vec<f64>, JsError> {
    let knots: Vec<[f64; 2]> = knots.chunks_exact(2).map(|k| [k[0], k[1]]).collect();
    let c = Curve::new(&knots).map_err(error)?;
    let (a, b) = (knots[0][0], knots[knots.len() - 1][0]);
    Ok((0..=steps).map(|i| a + (b - a) * i as f64 / steps.max(1) as f64).flat_map(|x| [x, c.value(x)]).collect())
}

/// A stroke put right: `how` is `straight`, `arc` or `reversed`; six numbers a sample come in and go out.
#[wasm_bindgen]
pub fn put_right(samples: &[f64], how: &str) -> Vec<f64> {
    let stroke = Stroke::new(samples.chunks_exact(6).map(sample).collect());
    flat(&match how {
        "straight" => repair::straightened(&stroke),
        "arc" => repair::on_arc(&stroke),
        _ => repair::reversed(&stroke),
    })
}

/// A stroke pulled by its place nearest to x, y (mm) toward another; nothing is moved further along it than `reach` mm.
#[wasm_bindgen]
pub fn pull(samples: &[f64], from: &[f64], to: &[f64], reach: f64) -> Vec<f64> {
    let stroke = Stroke::new(samples.chunks_exact(6).map(sample).collect());
    flat(&repair::pulled(&stroke, [from[0], from[1]], [to[0], to[1]], reach))
}

/// The samples by which a stroke is held, so that it lies no further than `tolerance_mm` from them.
#[wasm_bindgen]
pub fn stroke_points(samples: &[f64], tolerance_mm: f64) -> Vec<u32> {
    let stroke = Stroke::new(samples.chunks_exact(6).map(sample).collect());
    points::points(&stroke, tolerance_mm).into_iter().map(|i| i as u32).collect()
}

/// A stroke with its point `k` at another place, mm.
#[wasm_bindgen]
pub fn nudged(samples: &[f64], points: &[u32], k: usize, x: f64, y: f64) -> Vec<f64> {
    let stroke = Stroke::new(samples.chunks_exact(6).map(sample).collect());
    flat(&points::nudged(&stroke, &indices(points), k, [x, y]))
}

/// A stroke held against lines that it goes over (their places, mm, a pair of NaN after each line): how far off it lies, mm, the hand's speed, mm/s,
/// its spread over that, what to do (0 good, 1 slower, 2 nearer, 3 evenly, 4 on a line), then the lines that were gone over; nothing where it is too
/// short to say.
#[wasm_bindgen]
pub fn gone_over(samples: &[f64], zoom: f64, places: &[f64]) -> Vec<f64> {
    let stroke = Stroke { samples: samples.chunks_exact(6).map(sample).collect(), zoom, timed: true };
    let mut lines = vec![Vec::new()];
    for p in places.chunks_exact(2) {
        if p[0].is_nan() {
            lines.push(Vec::new());
        } else if let Some(line) = lines.last_mut() {
            line.push([p[0], p[1]]);
        }
    }
    eddymist_ink::gone_over::gone_over(&stroke, &lines).map_or_else(Vec::new, |g| {
        let told = [g.off_mm, g.speed_mm_s, g.uneven, f64::from(g.advice as u8)];
        told.into_iter().chain(g.lines.into_iter().map(|k| k as f64)).collect()
    })
}

/// A stroke without its point `k`.
#[wasm_bindgen]
pub fn without_point(samples: &[f64], points: &[u32], k: usize) -> Vec<f64> {
    let stroke = Stroke::new(samples.chunks_exact(6).map(sample).collect());
    flat(&points::without(&stroke, &indices(points), k))
}

fn indices(points: &[u32]) -> Vec<usize> {
    points.iter().map(|i| *i as usize).collect()
}

fn flat(stroke: &Stroke) -> Vec<f64> {
    let or_none = |v: Option<f64>| v.unwrap_or(f64::NAN);
    let one = |s: &Sample| [s.t_ms, s.x, s.y, or_none(s.pressure), or_none(s.azimuth_deg), or_none(s.elevation_deg)];
    stroke.samples.iter().flat_map(one).collect()
}

/// How far a strip's edges miss one another where its ends meet, mm.
#[wasm_bindgen]
pub fn strip_mismatch(uri: &str) -> Result<f64, JsError> {
    Strip::read(uri).map(|s| s.mismatch_mm).map_err(error)
}

/// Rings (x, y pairs, each ring ended by NaN) laid level as SVG path data, and by how much they were turned, degrees
/// counter-clockwise.
#[wasm_bindgen]
pub fn level_rings(flat: &[f64]) -> Vec<String> {
    let pairs: Vec<[f64; 2]> = flat.chunks_exact(2).map(|p| [p[0], p[1]]).collect();
    let rings: Vec<Vec<[f64; 2]>> = pairs.split(|p| p[0].is_nan()).filter(|r| r.len() > 2).map(<[_]>::to_vec).collect();
    let (rings, turned) = level::rings(&rings);
    vec![polygons(&rings, 5), turned.to_string()]
}

/// A shape's rings, its length 1 and its middle at 0: x, y pairs, each ring ended by NaN.
#[wasm_bindgen]
pub fn shape_rings(path: &str) -> Result<Vec<f64>, JsError> {
    let shape = LevelShape::read(path).map_err(error)?;
    let long = shape.long;
    let place = |p: &[f64; 2]| [p[0] / long - 0.5, p[1] / long];
    Ok(shape.rings().iter().flat_map(|r| r.iter().map(place).chain([[f64::NAN; 2]]).collect::<Vec<_>>()).collect::<Vec<_>>().into_flattened())
}

/// A picture of the page, dark and light, as a tooth whose tile is so wide, mm: its resolution stated in it.
#[wasm_bindgen]
pub fn tooth_of(uri: &str, tile_mm: f64) -> Result<String, JsError> {
    let picture = Picture::read(uri).map_err(error)?;
    let px_mm = Some(tile_mm.clamp(0.1, 200.0) / picture.width as f64);
    Picture { px_mm, ..picture }.write().map_err(error)
}

/// Strokes of all proof figures where they lie on the sheet, six numbers a sample, each stroke ended by one infinity.
#[wasm_bindgen]
pub fn proof_strokes() -> Vec<f64> {
    let strokes = proof::figures().into_iter().flat_map(|f| f.placed());
    strokes
        .flat_map(|s| {
            let flat = s.samples.into_iter().flat_map(|p| [p.t_ms, p.x, p.y, p.pressure.unwrap_or(f64::NAN), f64::NAN, f64::NAN]);
            flat.chain([f64::INFINITY]).collect::<Vec<_>>()
        })
        .collect()
}

/// Names of the proof figures, with where each stands and its size, mm: `name\tx\ty\tw\th`.
#[wasm_bindgen]
pub fn proof_names() -> Vec<String> {
    proof::figures().iter().map(|f| format!("{}\t{}\t{}\t{}\t{}", f.name, f.at[0], f.at[1], f.size[0], f.size[1])).collect()
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
