//! A stroke as a stylus, a mouse or a bare path gives it.

use serde::{Deserialize, Serialize};

/// One report of the stylus. Lengths in page mm, time in ms, angles in degrees counter-clockwise on the page.
#[derive(Debug, Clone, Copy, PartialEq, Default, Serialize, Deserialize)]
pub struct Sample {
    pub t_ms: f64,
    pub x: f64,
    pub y: f64,
    /// Raw pressure 0…1 as the device gives it; absent for a mouse or a path.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub pressure: Option<f64>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub azimuth_deg: Option<f64>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub elevation_deg: Option<f64>,
}

/// The samples of one pen-down, in order.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Stroke {
    pub samples: Vec<Sample>,
    /// The view's zoom while it was drawn: mm of the hand for one mm of the page.
    pub zoom: f64,
    /// Whether the times are real. A path has none, so nothing that needs time applies to it.
    pub timed: bool,
}

impl Stroke {
    /// A stroke at zoom 1 with real times.
    pub fn new(samples: Vec<Sample>) -> Self {
        Self { samples, zoom: 1.0, timed: true }
    }

    /// Way along the samples from the first, in page mm.
    pub fn lengths_mm(&self) -> Vec<f64> {
        along(self.samples.iter().map(|s| (s.x, s.y)))
    }

    /// Diagonal of the bounding box in page mm.
    pub fn diagonal_mm(&self) -> f64 {
        let mut b = [f64::MAX, f64::MAX, f64::MIN, f64::MIN];
        for s in &self.samples {
            b = [b[0].min(s.x), b[1].min(s.y), b[2].max(s.x), b[3].max(s.y)];
        }
        if self.samples.is_empty() { 0.0 } else { (b[2] - b[0]).hypot(b[3] - b[1]) }
    }
}

/// Cumulative length along points, starting at 0.
pub fn along(points: impl Iterator<Item = (f64, f64)>) -> Vec<f64> {
    let mut total = 0.0;
    let mut last: Option<(f64, f64)> = None;
    points
        .map(|p| {
            if let Some(l) = last {
                let (dx, dy) = (p.0 - l.0, p.1 - l.1);
                total += (dx * dx + dy * dy).sqrt();
            }
            last = Some(p);
            total
        })
        .collect()
}

/// Azimuth and elevation in degrees (azimuth counter-clockwise as seen on the page) of a stylus' tilts in degrees.
///
/// Source: W3C Pointer Events Level 3, "Converting between tiltX / tiltY and altitudeAngle / azimuthAngle"; its azimuth
/// runs clockwise.
pub fn spherical_of_tilt(tilt_x_deg: f64, tilt_y_deg: f64) -> (f64, f64) {
    use std::f64::consts::{FRAC_PI_2, PI, TAU};
    let (tx, ty) = (tilt_x_deg.to_radians(), tilt_y_deg.to_radians());
    let azimuth = if tilt_x_deg == 0.0 {
        if tilt_y_deg > 0.0 {
            FRAC_PI_2
        } else if tilt_y_deg < 0.0 {
            3.0 * FRAC_PI_2
        } else {
            0.0
        }
    } else if tilt_y_deg == 0.0 {
        if tilt_x_deg < 0.0 { PI } else { 0.0 }
    } else if tilt_x_deg.abs() == 90.0 || tilt_y_deg.abs() == 90.0 {
        0.0
    } else {
        ty.tan().atan2(tx.tan()).rem_euclid(TAU)
    };
    let altitude = if tilt_x_deg.abs() == 90.0 || tilt_y_deg.abs() == 90.0 {
        0.0
    } else if tilt_x_deg == 0.0 {
        FRAC_PI_2 - ty.abs()
    } else if tilt_y_deg == 0.0 {
        FRAC_PI_2 - tx.abs()
    } else {
        (1.0 / (tx.tan().powi(2) + ty.tan().powi(2)).sqrt()).atan()
    };
    ((-azimuth.to_degrees()).rem_euclid(360.0), altitude.to_degrees())
}
