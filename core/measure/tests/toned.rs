//! Tones of printed dots beside lines, through lines and darker than half: what is tone, what is line, and what only looks like a tone.
//!
//! Dots of three shapes in lattices of two kinds, at any angle; the truth is the distance from each line, an edge a pixel wide.

use eddymist_measure::{
    Picture,
    drawing::{DrawingLines, Layer, LinePoint, Look, MaskKind, Masked, Place, Plan, Source, islands::Islands, measure_all},
    stats::mean_sd,
};
use proptest::prelude::*;

const INK: [u8; 3] = [0x1b, 0x1e, 0x24];
const WIDTH: usize = 620;
const HEIGHT: usize = 420;
/// Where the tone is: x and y.
const TONE: [std::ops::Range<f64>; 2] = [220.0..560.0, 60.0..250.0];
const LINE_PX: f64 = 7.0;

/// Looks at a page given by its coverage.
fn look_at(one_bit: bool, coverage: impl Fn(f64, f64) -> f64) -> (DrawingLines, Islands) {
    let rgba: Vec<u8> = (0..WIDTH * HEIGHT)
        .flat_map(|i| {
            let c = coverage((i % WIDTH) as f64 + 0.5, (i / WIDTH) as f64 + 0.5).clamp(0.0, 1.0);
            let c = if one_bit { c.round() } else { c };
            let [r, g, b] = INK.map(|v| (255.0 + c * (f64::from(v) - 255.0)).round() as u8);
            [r, g, b, 255]
        })
        .collect();
    let plan = Plan { roles: vec![Source::Colour { rgb: INK, tolerance: 8.0 }], widest_px: 12.0 };
    let layer = Layer { picture: Picture::new(WIDTH, HEIGHT, &rgba).expect("a picture"), role: None };
    measure_all(&[layer], &plan, &Look { gaps_px: vec![5.0], region_px2: 0.0, least_paper_px: 0.5, off_palette: true })
}

/// A line of 7 px: from its distance.
fn line(distance: f64) -> f64 {
    (0.5 * LINE_PX + 0.5 - distance.abs()).clamp(0.0, 1.0)
}

/// A lattice of dots.
#[derive(Debug, Clone, Copy)]
struct Dots {
    pitch: f64,
    turned: f64,
    /// Every other row moved on by half a pitch, the rows closer.
    hexagonal: bool,
    /// Round, square or diamond.
    shape: usize,
    /// The share of ink.
    share: f64,
}

impl Dots {
    /// Coverage at a place: dots of ink, or from half the tone on dots of paper.
    fn at(&self, x: f64, y: f64) -> f64 {
        let (s, c) = self.turned.to_radians().sin_cos();
        let (u, v) = ((c * x + s * y) / self.pitch, (c * y - s * x) / self.pitch);
        let high = if self.hexagonal { 0.75f64.sqrt() } else { 1.0 };
        let nearest = (-1..=1).map(|k| {
            let row = (v / high).round() + f64::from(k);
            let moved = if self.hexagonal { 0.5 * row.rem_euclid(2.0) } else { 0.0 };
            let (du, dv) = ((u - moved - (u - moved).round()) * self.pitch, (v - row * high) * self.pitch);
            match self.shape {
                0 => du.hypot(dv),
                1 => du.abs().max(dv.abs()),
                _ => (du.abs() + dv.abs()) / 2f64.sqrt(),
            }
        });
        let small = self.share.min(1.0 - self.share) * self.pitch * self.pitch * high;
        let radius = if self.shape == 0 { (small / std::f64::consts::PI).sqrt() } else { 0.5 * small.sqrt() };
        let dot = (radius + 0.5 - nearest.fold(f64::MAX, f64::min)).clamp(0.0, 1.0);
        if self.share > 0.5 { 1.0 - dot } else { dot }
    }
}

fn dots() -> impl Strategy<Value = Dots> {
    // About half, corners of diamonds run together, and there is neither a dot nor a hole.
    let share = prop_oneof![0.08f64..0.36, 0.66..0.9];
    (8.0f64..12.0, 0.0f64..90.0, any::<bool>(), 0usize..3, share).prop_map(|(pitch, turned, hexagonal, shape, share)| Dots {
        pitch,
        turned,
        hexagonal,
        shape,
        share,
    })
}

fn in_tone(x: f64, y: f64) -> bool {
    TONE[0].contains(&x) && TONE[1].contains(&y)
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 32, failure_persistence: None, ..ProptestConfig::default() })]

    /// A tone is one mask as large as it is, whatever its dots and however dark; the line beside it weighs what it weighs, the one that runs through
    /// it is read where it is clear of it, and no dot of it is a speck, a pinhole or a gap. Its ink is no line that was missed.
    #[test]
    fn a_tone_is_masked_and_the_lines_beside_it_are_weighed(dots in dots(), one_bit in any::<bool>(), slope in -0.2f64..0.2) {
        let (found, islands) = look_at(one_bit, |x, y| {
            let (own, through) = (line((y - 340.5 - slope * (x - 300.0)) / slope.hypot(1.0)), line((y - 150.5 - slope * (x - 300.0)) / slope.hypot(1.0)));
            let inside = (40.0..580.0).contains(&x);
            let tone = if in_tone(x, y) { dots.at(x, y) } else { 0.0 };
            tone.max(if inside { own.max(through) } else { 0.0 })
        });
        prop_assert!(!found.masked.is_empty(), "{} lines, {} off", found.roles[0].lines.len(), found.off_palette_px2);
        prop_assert!( found.masked.iter().all(|m| m.kind == MaskKind::Tone), "{:?}", found.masked);
        let own = [TONE[0].clone(), TONE[1].clone()].map(|r| r.end - r.start);
        let sides = |of: fn(&Masked) -> f64| found.masked.iter().map(of).fold([f64::MAX, f64::MIN], |[a, b], v| [a.min(v), b.max(v)]);
        let widest = sides(|m| m.x + m.width)[1] - sides(|m| m.x)[0];
        let ink: f64 = found.masked.iter().map(|m| m.ink_px2).sum();
        prop_assert!((widest - own[0]).abs() < 3.0 * dots.pitch, "{widest} wide");
        prop_assert!((ink / (own[0] * own[1] * dots.share) - 1.0).abs() < 0.35, "{ink} px² of ink");
        prop_assert_eq!(found.roles[0].toned_px2, 0.0);
        let body: Vec<_> = found.roles[0].lines.iter().flat_map(|l| &l.points).filter(|p| p.place == Place::Body).collect();
        let (below, beside): (Vec<&LinePoint>, Vec<&LinePoint>) = body.into_iter().partition(|p| p.y > 260.0);
        for (name, points, least) in [("below", below, 300), ("beside", beside, 60)] {
            let widths: Vec<f64> = points.iter().map(|p| f64::from(p.width)).collect();
            let (mean, sd) = mean_sd(&widths).expect("a line");
            prop_assert!(points.len() > least && (mean - LINE_PX).abs() < if one_bit { 0.4 } else { 0.2 }, "{name}: {mean} over {}", points.len());
            prop_assert!(sd < if one_bit { 0.8 } else { 0.35 }, "{name}: {sd}");
        }
        let near = |x: f64, y: f64| (TONE[0].start - 3.0..TONE[0].end + 3.0).contains(&x) && (TONE[1].start - 3.0..TONE[1].end + 3.0).contains(&y);
        // Where its dots are too faint to be seen the line is read, as wide as it is.
        let within = found.roles[0].lines.iter().flat_map(|l| &l.points).filter(|p| p.place == Place::Body && in_tone(f64::from(p.x), f64::from(p.y)));
        let off = within.clone().filter(|p| (f64::from(p.width) - LINE_PX).abs() > 1.0).count();
        prop_assert!(within.clone().count() < 100 && off < 4, "{} in tone, {off} of them off", within.count());
        let left: Vec<_> = islands.ink.iter().chain(&islands.paper).filter(|i| near(i.x, i.y) && !i.texture && i.area_px2 < 60.0).collect();
        // A corner of the tone may have a dot cut off that stands beside one other alone.
        prop_assert!(left.len() < 3, "{} of {left:?}", left.len());
        prop_assert!(!islands.gaps.iter().any(|g| near(g.points[0][0], g.points[0][1])), "{:?}", islands.gaps.len());
    }

    /// What a hand stipples stands in no lattice: it is masked, but its ink counts as what could not be read, for lines may have fallen into it.
    #[test]
    fn stippling_is_no_lattice(seed in any::<u32>(), pitch in 8.0f64..12.0) {
        // Each dot wanders by up to 0.3 of a pitch, by a hash of its place.
        let wander = |a: i64, b: i64, k: u32| {
            let h = (a as u32).wrapping_mul(0x9e37_79b1) ^ (b as u32).wrapping_mul(0x85eb_ca77) ^ seed.wrapping_add(k).wrapping_mul(0xc2b2_ae3d);
            let h = (h ^ (h >> 15)).wrapping_mul(0x2c1b_3c6d);
            let h = (h ^ (h >> 12)).wrapping_mul(0x297a_2d39);
            0.6 * (f64::from(h ^ (h >> 15)) / f64::from(u32::MAX) - 0.5)
        };
        let (found, _) = look_at(false, |x, y| {
            let (u, v) = ((x / pitch).floor() as i64, (y / pitch).floor() as i64);
            let far = |(a, b): (i64, i64)| {
                let at = [(a as f64 + 0.5 + wander(a, b, 1)) * pitch, (b as f64 + 0.5 + wander(a, b, 2)) * pitch];
                (x - at[0]).hypot(y - at[1])
            };
            let nearest = (-1..=1).flat_map(|i| (-1..=1).map(move |j| (u + i, v + j))).map(far).fold(f64::MAX, f64::min);
            let tone = if in_tone(x, y) { (1.6 + 0.5 - nearest).clamp(0.0, 1.0) } else { 0.0 };
            tone.max(if (40.0..580.0).contains(&x) { line(y - 340.0) } else { 0.0 })
        });
        let masked: f64 = found.masked.iter().filter(|m| m.kind == MaskKind::Tone).map(|m| m.ink_px2).sum();
        prop_assert!(masked > 0.0 && (found.roles[0].toned_px2 / masked - 1.0).abs() < 0.01, "{} of {masked}", found.roles[0].toned_px2);
    }

    /// Lines that cross, as far apart as a hand that hatches leaves them, are lines.
    #[test]
    fn crossed_hatching_is_no_tone(apart in 13.0f64..20.0, turned in 0.0f64..90.0, crossed in 60.0f64..90.0) {
        let (found, _) = look_at(false, |x, y| {
            let rule = |angle: f64| {
                let (s, c) = angle.to_radians().sin_cos();
                let d = (c * y - s * x) / apart;
                (1.5 + 0.5 - ((d - d.round()) * apart).abs()).clamp(0.0, 1.0)
            };
            if in_tone(x, y) { rule(turned).max(rule(turned + crossed)) } else { 0.0 }
        });
        prop_assert!(found.masked.is_empty(), "{:?}", found.masked);
        prop_assert!(found.roles[0].lines.len() > 50);
    }

    /// In a thicket of ink, as an error-diffused photo leaves it, no line is longer than the ink that it is of.
    #[test]
    fn lines_of_a_thicket_are_no_longer_than_its_ink(seed in any::<u32>(), share in 0.3f64..0.8) {
        let (found, _) = look_at(true, |x, y| {
            let h = (x as u32).wrapping_mul(0x9e37_79b1) ^ (y as u32).wrapping_mul(0x85eb_ca77) ^ seed;
            let h = (h ^ (h >> 15)).wrapping_mul(0x2c1b_3c6d);
            let h = (h ^ (h >> 12)).wrapping_mul(0x297a_2d39);
            let ink = f64::from(h ^ (h >> 15)) < share * f64::from(u32::MAX);
            if in_tone(x, y) && ink { 1.0 } else { 0.0 }
        });
        let longest = found.roles[0].lines.iter().map(|l| l.length_px()).fold(0.0, f64::max);
        let all: f64 = found.roles[0].lines.iter().map(|l| l.length_px()).sum();
        prop_assert!(all < 1.2 * found.roles[0].ink_px2 && longest < 120.0, "{all} of {}, {longest}", found.roles[0].ink_px2);
    }

    /// Windows in rows are drawn things: the strokes among them are read, and what stands alone there is found.
    #[test]
    fn windows_in_rows_are_no_printed_tone(apart in 40.0f64..48.0, side in 13.0f64..18.0) {
        // A little aslant, as hands draw.
        let (found, islands) = look_at(false, |x, y| {
            let (x, y) = (x + 0.05 * y, y - 0.05 * x + 25.0);
            let of = |v: f64, from: f64| (((v - from) / apart).round(), v - from - ((v - from) / apart).round() * apart);
            let ((column, dx), (row, dy)) = (of(x, 80.0), of(y, 80.0));
            let window = (0.0..9.0).contains(&column) && (0.0..5.0).contains(&row);
            let window = if window { (0.5 * side + 0.5 - dx.abs().max(dy.abs())).clamp(0.0, 1.0) } else { 0.0 };
            // Between the windows' rows and columns.
            let stroke = if (90.0 + apart..300.0).contains(&x) { line(y - 80.5 - 1.5 * apart) } else { 0.0 };
            let speck = (2.5 - (x - 80.0 - 6.5 * apart).hypot(y - 80.0 - 2.5 * apart)).clamp(0.0, 1.0);
            window.max(stroke).max(speck)
        });
        prop_assert!(found.masked.iter().any(|m| m.kind == MaskKind::Tone), "its windows are masked");
        let body = found.roles[0].lines.iter().flat_map(|l| &l.points).filter(|p| p.place == Place::Body && (f64::from(p.width) - LINE_PX).abs() < 0.3).count();
        prop_assert!(body > 100, "{body} places");
        prop_assert!(islands.ink.iter().any(|i| !i.texture && (i.x + 0.05 * i.y - 80.0 - 6.5 * apart).hypot(i.y - 0.05 * i.x + 25.0 - 80.0 - 2.5 * apart) < 2.0));
    }
}
