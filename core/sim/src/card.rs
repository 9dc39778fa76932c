//! A simulated card of ISO/IEC 7810 ID-1 that lies in a photo: its round corners, its thickness, what is printed on it, the shadow it throws.

use eddymist_ink::Outline;

use crate::{
    camera::{Camera, photograph_beside},
    normal,
    pens::{Pen, Ruled, ruled_sheet},
    rng,
    scanner::GreyScan,
};

/// What is on it: laws of which a finder may know none.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Print {
    Plain,
    /// A dark stripe along it, and a lighter field under that, as on many backs.
    Stripe,
    /// Waves of another light all over, cut off at the rim.
    Waves,
}

/// A card as it lies.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Card {
    /// Its middle on the sheet, mm.
    pub at_mm: [f64; 2],
    pub turn_deg: f64,
    pub reflectance: f64,
    pub print: Print,
    pub thick_mm: f64,
    /// How far to the right and down its shadow reaches, mm, and how deep it is.
    pub shadow_mm: f64,
    pub shadow_depth: f64,
}

const SIZE: [f64; 2] = [85.6, 53.98];
const RADIUS: f64 = 3.18;

impl Card {
    pub fn lying(at_mm: [f64; 2], turn_deg: f64) -> Self {
        Self { at_mm, turn_deg, reflectance: 0.12, print: Print::Plain, thick_mm: 0.76, shadow_mm: 0.6, shadow_depth: 0.35 }
    }

    /// How far inside its rim a place of the sheet lies, mm; and where on the card it is.
    fn inside(&self, mm: [f64; 2]) -> (f64, [f64; 2]) {
        let (s, c) = self.turn_deg.to_radians().sin_cos();
        let (x, y) = (mm[0] - self.at_mm[0], mm[1] - self.at_mm[1]);
        let p = [c * x + s * y, c * y - s * x];
        let q = [0, 1].map(|i| p[i].abs() - 0.5 * SIZE[i] + RADIUS);
        let out = q[0].max(0.0).hypot(q[1].max(0.0)) + q[0].max(q[1]).min(0.0) - RADIUS;
        (-out, p)
    }

    /// The light that its face gives back, of a place in mm from the sheet's middle; none beside it.
    pub(crate) fn face(&self, from_middle: [f64; 2], size_mm: [f64; 2]) -> Option<f64> {
        let (within, p) = self.inside([0, 1].map(|i| from_middle[i] + 0.5 * size_mm[i]));
        let r = self.reflectance;
        (within > 0.0).then(|| match self.print {
            Print::Plain => r,
            Print::Stripe if p[1] > -20.0 && p[1] < -8.0 => 0.06,
            Print::Stripe if p[1] > -3.0 && p[1] < 6.0 && p[0] < 20.0 && p[0] > -38.0 => 0.7,
            Print::Stripe => r,
            Print::Waves => r * (1.0 + 0.5 * (1.1 * p[0] + 2.0 * (0.4 * p[1]).sin()).sin() * (0.7 * p[1]).cos()),
        })
    }

    /// What of the light its shadow leaves.
    pub(crate) fn shadow(&self, mm: [f64; 2]) -> f64 {
        let (within, _) = self.inside([mm[0] - self.shadow_mm, mm[1] - self.shadow_mm]);
        1.0 - self.shadow_depth / (1.0 + (-within / 0.25).exp())
    }
}

/// Ruled lines on half a sheet beside a card, as chance lays it; odd seeds have a print on it, and the camera\'s second laws.
pub struct Beside {
    pub lines: Vec<Ruled>,
    pub card: Card,
    pub camera: Camera,
    pub size_mm: [f64; 2],
    pub photo: GreyScan,
}

/// A photo of lines of a pen beside a card, and what is true of it.
pub fn beside_lines(pen: &Pen, seed: u64) -> Beside {
    let mut r = rng(seed, 0xCA4D);
    // Half a sheet, or a quarter of one with the camera nearer.
    let near = seed / 2 % 2 == 1;
    let (lines, _) = ruled_sheet(pen, &[0.25, 0.5, 0.75], 2, if near { 110.0 } else { 85.0 }, seed);
    let size_mm = if near { [148.5, 105.0] } else { [210.0, 148.5] };
    let mut n = |sd: f64| sd * normal(&mut r);
    // To the right of the lines, below them, and over the paper\'s rim onto the table.
    let (at, turn) = if near {
        [([72.0, 72.0], 2.0), ([78.0, 74.0], -3.0), ([66.0, 82.0], 180.0)][seed as usize % 3]
    } else {
        [([152.0, 50.0], 4.0), ([80.0, 112.0], -3.0), ([197.0, 80.0], 90.0)][seed as usize % 3]
    };
    let card = Card {
        reflectance: [0.12, 0.4, 0.25, 0.6][seed as usize % 4],
        print: if seed.is_multiple_of(2) {
            Print::Plain
        } else if seed % 4 == 1 {
            Print::Waves
        } else {
            Print::Stripe
        },
        shadow_mm: 0.5 + n(0.4).abs(),
        ..Card::lying([at[0] + n(2.0), at[1] + n(2.0)], turn + n(3.0))
    };
    let by_chance = Camera::by_chance(seed);
    let camera = Camera { px: [4032, 3024], fills: by_chance.fills - 0.12, distance_mm: size_mm[0] / 300.0 * by_chance.distance_mm, ..by_chance };
    let ink: Vec<Outline> = lines.iter().map(|l| l.outline.clone()).collect();
    let photo = photograph_beside(&camera, &ink, Some(&card), size_mm, seed);
    Beside { lines, card, camera, size_mm, photo }
}
