//! The ink across a line at one place, as the measure sees it: coverage at steps along the normal.
//!
//! How: the place's surroundings are classified anew and read linearly between pixels. Limits: a scan's paper is not taken away here.

use super::{
    Layer, Plan,
    classify::classify,
    ink::PAPER,
    scratch::{Half, Planes},
};
use crate::{Picture, bilinear::anywhere};

/// Steps are this far apart, px.
pub const STEP_PX: f64 = 0.25;
/// Pixels about the ends of the normal that are looked at too, so that faint pixels have neighbours.
const ROOM: f64 = 24.0;

/// Coverage 0…1 along `normal` (a unit vector) from −`half` to +`half` px about `at`, bilinear between pixel centres; of several layers
/// the most.
pub fn across(layers: &[Layer], plan: &Plan, at: [f64; 2], normal: [f64; 2], half: f64) -> Vec<f32> {
    let n = (half / STEP_PX).round().max(0.0) as i64;
    let mut out = vec![0f32; (2 * n + 1) as usize];
    for layer in layers {
        let Some((crop, x0, y0)) = Crop::cut(&layer.picture, at, half + ROOM) else { continue };
        let Some(picture) = Picture::new(crop.width, crop.height, &crop.rgba) else { continue };
        let pixels = crop.width * crop.height;
        let half_planes = || Half { near: vec![0; pixels], seen: vec![0; pixels] };
        let mut planes = Planes { pixels: vec![PAPER; pixels], distance2: vec![0; pixels], halves: [half_planes(), half_planes()] };
        let ink = classify(&picture, plan, layer.role, None, &mut planes);
        let coverage = |x: i64, y: i64| {
            let inside = (0..crop.width as i64).contains(&x) && (0..crop.height as i64).contains(&y);
            if inside { f64::from(ink.pixels[y as usize * crop.width + x as usize].coverage) / 255.0 } else { 0.0 }
        };
        for (k, v) in out.iter_mut().enumerate() {
            let way = (k as i64 - n) as f64 * STEP_PX;
            let place = [at[0] + way * normal[0] - x0 as f64, at[1] + way * normal[1] - y0 as f64];
            let c = anywhere(place, coverage);
            *v = v.max(c as f32);
        }
    }
    out
}

struct Crop {
    width: usize,
    height: usize,
    rgba: Vec<u8>,
}

impl Crop {
    /// The part of a picture within `reach` px of a place, with its upper left corner; none where the place is off the picture.
    fn cut(p: &Picture, at: [f64; 2], reach: f64) -> Option<(Self, usize, usize)> {
        let span = |v: f64, side: usize| (((v - reach).max(0.0) as usize).min(side), ((v + reach).max(0.0) as usize + 1).min(side));
        let ((x0, x1), (y0, y1)) = (span(at[0], p.width), span(at[1], p.height));
        if x0 >= x1 || y0 >= y1 {
            return None;
        }
        let mut rgba = Vec::with_capacity((x1 - x0) * (y1 - y0) * 4);
        for y in y0..y1 {
            rgba.extend_from_slice(&p.rgba[4 * (y * p.width + x0)..4 * (y * p.width + x1)]);
        }
        Some((Self { width: x1 - x0, height: y1 - y0, rgba }, x0, y0))
    }
}
