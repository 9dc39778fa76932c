//! A simulated telephone: outlines on paper seen aslant through a lens, in a room's light, and what such cameras do to a picture before they
//! give it out: exposure, tone, noise and its removal, sharpening, JPEG.
//!
//! Lens, blur and tone have two laws each. The lenses are given from the picture back to the plane, a fit that goes the other way does not know
//! either of them; the paper may bow, which no lens explains.

use eddymist_ink::Outline;
use eddymist_measure::colour::encode_f64;
use rayon::prelude::*;

use crate::{
    card::Card,
    normal, rng,
    scanner::{GreyScan, Lamp, blur, lay},
};

/// How a lens bends straight lines; radii are shares of half the picture's diagonal.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Lens {
    /// Straight = seen · (1 + a r² + b r⁴).
    Polynomial(f64, f64),
    /// Straight = seen / (1 + a r²) (Fitzgibbon 2001).
    Division(f64),
}

/// How sharp it is.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Focus {
    /// Standard deviation, px.
    Gauss(f64),
    /// Radius of a disc, px.
    Disc(f64),
}

/// What it makes of the encoded light.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Tone {
    Plain,
    /// More contrast in the middle.
    Contrast(f64),
    /// Lights held back.
    Shoulder(f64),
}

/// A photo's making.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Camera {
    pub px: [usize; 2],
    /// Share of the picture's height that the sheet fills.
    pub fills: f64,
    pub distance_mm: f64,
    /// About the picture's level axis, its upright one, and the line of sight, degrees.
    pub tilt_deg: [f64; 3],
    /// How far the sheet's middle is from the picture's, as shares of its sides.
    pub off: [f64; 2],
    pub lens: Lens,
    pub focus: Focus,
    pub tone: Tone,
    pub lamp: Lamp,
    /// Fall of the light across the sheet, and toward the picture's corners.
    pub slope: f64,
    pub vignette: f64,
    /// Linear light of the paper, in the picture.
    pub exposure: f64,
    pub noise: f64,
    /// Whether noise is taken out by the median of nine.
    pub median: bool,
    pub sharpen: f64,
    /// How high the sheet's middle bows up, mm.
    pub bow_mm: f64,
    /// None: no JPEG.
    pub quality: Option<u8>,
}

impl Camera {
    /// Twelve megapixels, held fairly well.
    pub fn fair() -> Self {
        Self {
            px: [3024, 4032],
            fills: 0.9,
            distance_mm: 420.0,
            tilt_deg: [4.0, -3.0, 1.5],
            off: [0.01, -0.015],
            lens: Lens::Polynomial(0.015, 0.004),
            focus: Focus::Gauss(0.9),
            tone: Tone::Contrast(0.3),
            lamp: Lamp::Plain,
            slope: 0.15,
            vignette: 0.15,
            exposure: 0.7,
            noise: 0.006,
            median: false,
            sharpen: 0.4,
            bow_mm: 0.0,
            quality: Some(92),
        }
    }

    /// The same, held and lit as chance has it; odd seeds have the second law of everything.
    pub fn by_chance(seed: u64) -> Self {
        let mut r = rng(seed, 0xCA3E);
        let mut n = |sd: f64| sd * normal(&mut r);
        let second = seed % 2 == 1;
        Self {
            fills: 0.88 + n(0.02).clamp(-0.05, 0.05),
            distance_mm: 420.0 + n(60.0).clamp(-120.0, 200.0),
            tilt_deg: [n(5.0), n(5.0), n(4.0)],
            off: [n(0.01), n(0.01)],
            lens: if second { Lens::Division(n(0.04)) } else { Lens::Polynomial(n(0.03), n(0.01)) },
            focus: if second { Focus::Disc(1.2 + n(0.4).abs()) } else { Focus::Gauss(0.7 + n(0.3).abs()) },
            tone: if second { Tone::Shoulder(0.2 + n(0.1).abs()) } else { Tone::Contrast(0.3 + n(0.2)) },
            lamp: if second { Lamp::Lid(0.15 + n(0.08).abs()) } else { Lamp::Plain },
            slope: n(0.15).abs(),
            vignette: n(0.15).abs(),
            exposure: (0.62 + n(0.12)).clamp(0.35, 0.85),
            noise: 0.004 + n(0.004).abs(),
            median: seed % 3 == 1,
            sharpen: n(0.4).abs(),
            bow_mm: if seed % 4 > 1 { n(1.5).abs() } else { 0.0 },
            quality: Some(if second { 85 } else { 93 }),
            ..Self::fair()
        }
    }

    /// From the plane of the sheet, mm from its middle, to the plane of the picture, px from its middle: a 3 × 3 matrix.
    fn plane(&self, size_mm: [f64; 2]) -> [f64; 9] {
        let [(sa, ca), (sb, cb), (sc, cc)] = self.tilt_deg.map(|d| d.to_radians().sin_cos());
        // Turned about the line of sight, then tilted about both axes; only the two columns of the sheet's plane are wanted.
        let u = [cc, sc, 0.0];
        let v = [-sc, cc, 0.0];
        let tilt = |[x, y, z]: [f64; 3]| {
            let (y, z) = (ca * y - sa * z, sa * y + ca * z);
            [cb * x + sb * z, y, cb * z - sb * x]
        };
        let (u, v) = (tilt(u), tilt(v));
        let f = self.fills * self.px[1] as f64 * self.distance_mm / size_mm[1];
        let [ox, oy] = [self.off[0] * self.px[0] as f64, self.off[1] * self.px[1] as f64];
        let d = self.distance_mm;
        [f * u[0] + ox * u[2], f * v[0] + ox * v[2], ox * d, f * u[1] + oy * u[2], f * v[1] + oy * v[2], oy * d, u[2], v[2], d]
    }
}

fn inverse(m: [f64; 9]) -> [f64; 9] {
    let [a, b, c, d, e, f, g, h, i] = m;
    [e * i - f * h, c * h - b * i, b * f - c * e, f * g - d * i, a * i - c * g, c * d - a * f, d * h - e * g, b * g - a * h, a * e - b * d]
}

/// Takes a photo of a sheet of `size_mm` with ink on it, on a table of dark wood.
pub fn photograph(camera: &Camera, ink: &[Outline], size_mm: [f64; 2], seed: u64) -> GreyScan {
    photograph_beside(camera, ink, None, size_mm, seed)
}

/// The same with a card that lies on it, or beside it.
pub fn photograph_beside(camera: &Camera, ink: &[Outline], card: Option<&Card>, size_mm: [f64; 2], seed: u64) -> GreyScan {
    let k = 24.0;
    let (cw, ch) = ((size_mm[0] * k) as usize, (size_mm[1] * k) as usize);
    let mut cover = vec![0.0f32; cw * ch];
    ink.iter().for_each(|o| lay(&mut cover, [cw, ch], k, o));
    let back = inverse(camera.plane(size_mm));
    let [w, h] = camera.px;
    let (mx, my) = (0.5 * w as f64, 0.5 * h as f64);
    let radius = mx.hypot(my);
    let (paper, black, table) = (1.0, 0.045, 0.16);
    let reflectance = |px: f64, py: f64| {
        let (x, y) = ((px - mx) / radius, (py - my) / radius);
        let r2 = x * x + y * y;
        let f = match camera.lens {
            Lens::Polynomial(a, b) => 1.0 + a * r2 + b * r2 * r2,
            Lens::Division(a) => 1.0 / (1.0 + a * r2),
        };
        let (x, y) = (radius * x * f, radius * y * f);
        let z = back[6] * x + back[7] * y + back[8];
        let (mut u, mut v) = ((back[0] * x + back[1] * y + back[2]) / z, (back[3] * x + back[4] * y + back[5]) / z);
        let lift = camera.bow_mm * (std::f64::consts::PI * (u / size_mm[0] + 0.5)).sin().max(0.0);
        u *= 1.0 - lift / camera.distance_mm;
        v *= 1.0 - lift / camera.distance_mm;
        let mm = [u + 0.5 * size_mm[0], v + 0.5 * size_mm[1]];
        let shadow = card.map_or(1.0, |c| c.shadow(mm));
        let light =
            (1.0 - camera.slope * (0.7 * mm[0] / size_mm[0] + 0.3 * mm[1] / size_mm[1])) * camera.lamp.share(mm, size_mm) * (1.0 - camera.vignette * r2);
        // The card's face lies nearer to the lens.
        if let Some(face) = card.and_then(|c| c.face([u, v].map(|p| p * (1.0 - c.thick_mm / camera.distance_mm)), size_mm)) {
            return face * light;
        }
        let light = light * shadow;
        if mm[0] < 0.0 || mm[1] < 0.0 || mm[0] >= size_mm[0] || mm[1] >= size_mm[1] {
            return table * light;
        }
        let (i, j) = ((mm[0] * k - 0.5).max(0.0), (mm[1] * k - 0.5).max(0.0));
        let (a, b) = ((i as usize).min(cw - 2), (j as usize).min(ch - 2));
        let (t, s) = ((i - a as f64) as f32, (j - b as f64) as f32);
        let at = |x: usize, y: usize| cover[(b + y) * cw + a + x];
        let c = f64::from((at(0, 0) * (1.0 - t) + at(1, 0) * t) * (1.0 - s) + (at(0, 1) * (1.0 - t) + at(1, 1) * t) * s);
        (paper * (1.0 - c) + black * c) * light
    };
    let mut light: Vec<f32> = (0..w * h)
        .into_par_iter()
        .map(|i| {
            let (x, y) = ((i % w) as f64, (i / w) as f64);
            let spots = [(0.25, 0.25), (0.75, 0.25), (0.25, 0.75), (0.75, 0.75)];
            (camera.exposure * 0.25 * spots.iter().map(|(a, b)| reflectance(x + a, y + b)).sum::<f64>()) as f32
        })
        .collect();
    match camera.focus {
        Focus::Gauss(sigma) => blur(&mut light, w, h, sigma),
        Focus::Disc(r) => disc(&mut light, w, h, r),
    }
    let mut r = rng(seed, 0xF07);
    let mut v: Vec<f32> = light
        .iter()
        .map(|l| {
            let l = f64::from(*l);
            encode_f64((l + camera.noise * l.max(0.0).sqrt() * normal(&mut r)).clamp(0.0, 1.0)) as f32
        })
        .collect();
    if camera.median {
        v = median_of_nine(&v, w, h);
    }
    if camera.sharpen > 0.0 {
        let mut soft = v.clone();
        blur(&mut soft, w, h, 1.2);
        v.iter_mut().zip(&soft).for_each(|(a, s)| *a += camera.sharpen as f32 * (*a - s));
    }
    let tone = |v: f64| match camera.tone {
        Tone::Plain => v,
        Tone::Contrast(a) => v - a * (std::f64::consts::TAU * v).sin() / std::f64::consts::TAU,
        Tone::Shoulder(a) => 1.0 - (1.0 - v).powf(1.0 + a),
    };
    let data: Vec<u8> = v.iter().map(|v| (tone(f64::from(*v).clamp(0.0, 1.0)) * 255.0).round() as u8).collect();
    let plain = GreyScan { width: w, height: h, data };
    let bytes = camera.quality.and_then(|q| compressed(&plain, q));
    match bytes.and_then(|b| image::load_from_memory_with_format(&b, image::ImageFormat::Jpeg).ok()) {
        Some(read) => GreyScan { data: read.into_luma8().into_raw(), ..plain },
        None => plain,
    }
}

/// As a JPEG file.
pub fn compressed(p: &GreyScan, quality: u8) -> Option<Vec<u8>> {
    let mut bytes = Vec::new();
    let (w, h) = (p.width as u32, p.height as u32);
    image::codecs::jpeg::JpegEncoder::new_with_quality(&mut bytes, quality).encode(&p.data, w, h, image::ExtendedColorType::L8).ok()?;
    Some(bytes)
}

/// The mean over a disc, its rim by share.
fn disc(p: &mut Vec<f32>, w: usize, h: usize, radius: f64) {
    let reach = radius.ceil() as i64;
    let share = |x: i64, y: i64| (radius + 0.5 - (x as f64).hypot(y as f64)).clamp(0.0, 1.0) as f32;
    let taps: Vec<(i64, i64, f32)> = (-reach..=reach).flat_map(|y| (-reach..=reach).map(move |x| (x, y, share(x, y)))).filter(|t| t.2 > 0.0).collect();
    let total: f32 = taps.iter().map(|t| t.2).sum();
    let at = |x: i64, y: i64| p[(y.clamp(0, h as i64 - 1) * w as i64 + x.clamp(0, w as i64 - 1)) as usize];
    *p =
        (0..(w * h) as i64).into_par_iter().map(|i| taps.iter().map(|(dx, dy, s)| s * at(i % w as i64 + dx, i / w as i64 + dy)).sum::<f32>() / total).collect();
}

fn median_of_nine(p: &[f32], w: usize, h: usize) -> Vec<f32> {
    let mut out = p.to_vec();
    out.par_chunks_mut(w).enumerate().filter(|(y, _)| (1..h - 1).contains(y)).for_each(|(y, row)| {
        for x in 1..w - 1 {
            let mut nine = [0.0; 9];
            for (k, v) in nine.iter_mut().enumerate() {
                *v = p[(y + k / 3 - 1) * w + x + k % 3 - 1];
            }
            nine.sort_by(f32::total_cmp);
            row[x] = nine[4];
        }
    });
    out
}
