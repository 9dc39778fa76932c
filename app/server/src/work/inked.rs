//! Strokes and borders as the interface has them, as ink's own.

use eddymist_formats::LIMITS;
use eddymist_ink::{Sample, Stroke, picture::Picture, traced::borders};

use crate::problem::{Answer, Problem};

/// Of a response that is none.
pub const NO_RESPONSE: &str = "a response has up to nine knots between 0 and 1, both numbers strictly rising";

/// Strokes as the interface has them, six numbers a sample: refused where a file of them would be.
pub fn strokes<'a>(all: impl Iterator<Item = &'a [Option<f64>]>) -> Answer<Vec<Stroke>> {
    let mut samples = 0;
    let mut out = Vec::new();
    for s in all {
        let far = |v: &[Option<f64>]| [v[1], v[2]].iter().flatten().any(|v| v.abs() > LIMITS.coordinate_mm);
        samples += s.len() / 6;
        if s.len() % 6 != 0 || s.len() / 6 > LIMITS.stroke_samples || samples > LIMITS.samples || out.len() == LIMITS.strokes {
            return Err(Problem::input(format!("a stroke has six numbers a sample, and up to {} samples", LIMITS.stroke_samples)));
        }
        if s.chunks_exact(6).any(far) || s.iter().flatten().any(|v| !v.is_finite()) {
            return Err(Problem::input(format!("a sample lies more than {} m away, or is no finite number", LIMITS.coordinate_mm / 1000.0)));
        }
        out.push(Stroke::new(s.chunks_exact(6).filter_map(sample).collect()));
    }
    Ok(out)
}

/// Six numbers as a sample; none where it has no place.
fn sample(v: &[Option<f64>]) -> Option<Sample> {
    Some(Sample { t_ms: v[0].unwrap_or(0.0), x: v[1]?, y: v[2]?, pressure: v[3], azimuth_deg: v[4], elevation_deg: v[5] })
}

/// The border of what a picture covers, as path data in pixels: coarse enough to be drawn on with points, specks left out.
pub fn border_path(p: &Picture) -> String {
    let ink: f32 = p.coverage.iter().sum();
    let tolerance = (0.004 * p.width.max(p.height) as f64).max(0.4);
    let mut path = String::new();
    for ring in borders(p, tolerance, 0.005 * f64::from(ink)) {
        for (k, [x, y]) in ring.iter().enumerate() {
            path.push_str(&format!("{}{x:.2} {y:.2}", if k == 0 { 'M' } else { 'L' }));
        }
        path.push('Z');
    }
    path
}
