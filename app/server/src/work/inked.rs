//! Strokes and borders as the interface has them, as ink's own.

use eddymist_ink::{Sample, picture::Picture, traced::borders};

/// Six numbers as a sample; none where it has no place.
pub fn sample(v: &[Option<f64>]) -> Option<Sample> {
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
