//! A white page that lines are inked on, and guides for it.
#![allow(dead_code)]

use eddymist_check::{
    CheckError, LineGuide, Manifest, NamedLayer, WeighedDrawing, check_lines,
    guide::{Page, Role, RoleSource, Weight},
};
use eddymist_ink::{Brush, Curve, Inker, Sample, Stroke, raster::rasterise};
use eddymist_measure::Picture;

pub const W: usize = 800;
pub const H: usize = 600;
pub const INK: [u8; 3] = [0x1b, 0x1e, 0x24];
pub const RED: [u8; 3] = [0xc0, 0x20, 0x20];

pub fn role(name: &str, colour: &str, target: f64, tolerance: f64) -> Role {
    let from = RoleSource { colour: Some(colour.into()), tolerance: Some(8.0), ..RoleSource::default() };
    Role { name: name.into(), from, weight_px: Some(Weight { target, tolerance, swell: None }), ends: Default::default(), judge: true, gap_px: None }
}

pub fn guide(roles: Vec<Role>) -> LineGuide {
    let page = Page { width_px: W as f64, height_px: H as f64, px_per_mm: None, rate_fps: None };
    LineGuide { scale_by_shot: [("wide".to_string(), 0.5)].into(), ..LineGuide::new("g", page, roles) }
}

/// A white page that lines are inked on; widths in px by the share of the way.
pub struct Sheet {
    pub rgba: Vec<u8>,
}

impl Sheet {
    pub fn new() -> Self {
        Self { rgba: vec![255; 4 * W * H] }
    }

    pub fn line(mut self, from: [f64; 2], to: [f64; 2], widths: &[[f64; 2]], colour: [u8; 3]) -> Self {
        let curve = Curve::new(widths).expect("widths");
        let (least, most) = widths.iter().fold((f64::MAX, 0.0f64), |m, w| (m.0.min(w[1]), m.1.max(w[1])));
        let brush = Brush { weight: if most > least { vec![[0.0, least], [1.0, most]] } else { vec![[0.0, most]] }, ..Brush::plain("b", 1.0) };
        let samples = (0..=300)
            .map(|i| {
                let u = f64::from(i) / 300.0;
                let effort = if most > least { (curve.value(u) - least) / (most - least) } else { 0.5 };
                Sample { x: from[0] + (to[0] - from[0]) * u, y: from[1] + (to[1] - from[1]) * u, pressure: Some(effort), ..Sample::default() }
            })
            .collect();
        let inked = Inker::new(&brush, None, None).expect("inkable").ink(&Stroke { samples, zoom: 1.0, timed: false });
        let cover = rasterise(&inked.outline(0.001), 1.0, [0.0, 0.0], W, H);
        for (p, c) in self.rgba.chunks_exact_mut(4).zip(&cover.data) {
            for k in 0..3 {
                p[k] = (f32::from(p[k]) + (f32::from(colour[k]) - f32::from(p[k])) * c).round() as u8;
            }
        }
        self
    }

    /// Eight level lines of one width.
    pub fn lines(self, width: f64, colour: [u8; 3]) -> Self {
        (0..8).fold(self, |p, k| p.line([60.0, 60.4 + 60.0 * f64::from(k)], [740.0, 75.7 + 60.0 * f64::from(k)], &[[0.0, width]], colour))
    }

    pub fn check(&self, guide: &LineGuide) -> WeighedDrawing {
        self.check_with(guide, &Manifest::new()).expect("it is weighed")
    }

    pub fn check_with(&self, guide: &LineGuide, manifest: &Manifest) -> Result<WeighedDrawing, CheckError> {
        let picture = Picture::new(W, H, &self.rgba).expect("a picture");
        check_lines(guide, "d.png", &[NamedLayer { name: None, picture }], 1.0, manifest)
    }
}
