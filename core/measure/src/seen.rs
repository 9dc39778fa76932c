//! A plane in perspective through a lens that bends straight lines: from mm of the plane to px of a photo, and the photo laid flat by it.
//!
//! How: a homography, then radial distortion about the picture's middle with two terms (Brown 1966); laying flat by Catmull and Rom's cubic, in
//! linear light, which keeps the ink that a line has across. Limits: the middle of the lens is the picture's.

use rayon::prelude::*;

use crate::{
    scan::Scan,
    sheet::marks::{Placement, homography},
};

/// From mm of a plane to px of the photo.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(crate) struct Seen {
    pub plane: Placement,
    pub middle: [f64; 2],
    /// Half of the picture's diagonal, px: radii are shares of it.
    pub radius: f64,
    /// Distortion with the second and the fourth power of the radius.
    pub bends: [f64; 2],
    /// Standard deviation of what is known of the plane about where it should be, mm.
    pub off_mm: f64,
}

impl Seen {
    /// A lens with one term through pairs of places, mm and photo px.
    pub fn through(pairs: &[([f64; 2], [f64; 2])], middle: [f64; 2], radius: f64, bend: f64) -> Option<Self> {
        let straight: Vec<([f64; 2], [f64; 2])> = pairs.iter().map(|(mm, p)| (*mm, straight(*p, middle, radius, bend))).collect();
        let plane = homography(&straight, true)?;
        Some(Self { plane, middle, radius, bends: [bend, 0.0], off_mm: 0.0 })
    }

    /// Photo px of a place on the plane.
    pub fn px(&self, mm: [f64; 2]) -> [f64; 2] {
        let p = self.plane.px(mm);
        let q = [0, 1].map(|k| (p[k] - self.middle[k]) / self.radius);
        let r2 = q[0] * q[0] + q[1] * q[1];
        let f = 1.0 + self.bends[0] * r2 + self.bends[1] * r2 * r2;
        [0, 1].map(|k| self.middle[k] + self.radius * q[k] * f)
    }

    /// Photo px for one mm about a place, the mean of both directions.
    pub fn px_per_mm(&self, mm: [f64; 2]) -> f64 {
        let (l, r) = (self.px([mm[0] - 1.0, mm[1]]), self.px([mm[0] + 1.0, mm[1]]));
        let (t, b) = (self.px([mm[0], mm[1] - 1.0]), self.px([mm[0], mm[1] + 1.0]));
        let (ux, uy, vx, vy) = (0.5 * (r[0] - l[0]), 0.5 * (r[1] - l[1]), 0.5 * (b[0] - t[0]), 0.5 * (b[1] - t[1]));
        (ux * vy - uy * vx).abs().sqrt()
    }

    /// A part of the plane as a picture of so many px to the mm: from its top left corner on, mm, so many mm wide and high.
    pub fn laid_flat(&self, photo: &Scan, origin: [f64; 2], size_mm: [f64; 2], k: f64) -> Scan {
        let [width, height] = size_mm.map(|s| (s * k) as usize);
        let mut data = vec![0.0f32; width * height];
        data.par_chunks_mut(width.max(1)).enumerate().for_each(|(y, row)| {
            for (x, v) in row.iter_mut().enumerate() {
                *v = cubic(photo, self.px([origin[0] + (x as f64 + 0.5) / k, origin[1] + (y as f64 + 0.5) / k]));
            }
        });
        Scan { width, height, data, dpi: 25.4 * k }
    }
}

/// Where a place would be seen through a lens that does not bend: the radius by fixed point.
pub(crate) fn straight(p: [f64; 2], middle: [f64; 2], radius: f64, bend: f64) -> [f64; 2] {
    let d = [0, 1].map(|k| (p[k] - middle[k]) / radius);
    let mut f = 1.0;
    for _ in 0..30 {
        let r2 = (d[0] * d[0] + d[1] * d[1]) / (f * f);
        f = 1.0 + bend * r2;
    }
    [0, 1].map(|k| middle[k] + radius * d[k] / f)
}

/// Light between the pixels by Catmull and Rom's cubic; beyond the border the border's.
fn cubic(p: &Scan, [x, y]: [f64; 2]) -> f32 {
    let weights = |t: f32| {
        let (t2, t3) = (t * t, t * t * t);
        [-0.5 * t3 + t2 - 0.5 * t, 1.5 * t3 - 2.5 * t2 + 1.0, -1.5 * t3 + 2.0 * t2 + 0.5 * t, 0.5 * t3 - 0.5 * t2]
    };
    let (u, v) = (x - 0.5, y - 0.5);
    let (i, j) = (u.floor(), v.floor());
    let (wx, wy) = (weights((u - i) as f32), weights((v - j) as f32));
    let (i, j) = (i as i64, j as i64);
    let (w, h) = (p.width as i64, p.height as i64);
    let mut sum = 0.0;
    for (b, wy) in wy.iter().enumerate() {
        let row = (j + b as i64 - 1).clamp(0, h - 1) * w;
        let of = |a: i64| p.data[(row + (i + a - 1).clamp(0, w - 1)) as usize];
        sum += wy * (wx[0] * of(0) + wx[1] * of(1) + wx[2] * of(2) + wx[3] * of(3));
    }
    sum.max(0.0)
}
