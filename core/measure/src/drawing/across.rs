//! The ink across a line at one place, as the measure sees it: coverage at steps along the normal.
//!
//! How: the drawing is classified as a whole, since what is ground shows in the whole, and read linearly between pixels. Limits: a scan's paper is not taken away here.

use super::{Layer, Plan, classify::classify, scratch};
use crate::bilinear::anywhere;

/// Steps are this far apart, px.
pub const STEP_PX: f64 = 0.25;

/// Coverage 0…1 along `normal` (a unit vector) from −`half` to +`half` px about `at`, bilinear between pixel centres; of several layers
/// the most.
pub fn across(layers: &[Layer], plan: &Plan, at: [f64; 2], normal: [f64; 2], half: f64) -> Vec<f32> {
    let n = (half / STEP_PX).round().max(0.0) as i64;
    let mut out = vec![0f32; (2 * n + 1) as usize];
    for layer in layers {
        let (width, height) = (layer.picture.width, layer.picture.height);
        let mut planes = scratch::take(width * height);
        let ink = classify(&layer.picture, plan, layer.role, None, &mut planes);
        let coverage = |x: i64, y: i64| {
            let inside = (0..width as i64).contains(&x) && (0..height as i64).contains(&y);
            if inside { f64::from(ink.pixels[y as usize * width + x as usize].coverage) / 255.0 } else { 0.0 }
        };
        for (k, v) in out.iter_mut().enumerate() {
            let way = (k as i64 - n) as f64 * STEP_PX;
            *v = v.max(anywhere([at[0] + way * normal[0], at[1] + way * normal[1]], coverage) as f32);
        }
        let touched = ink.touched;
        scratch::give_back(scratch::Planes { pixels: ink.pixels, distance2: ink.distance2, ..planes }, &touched);
    }
    out
}
