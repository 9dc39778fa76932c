//! A simulated photo of a pen's ruled lines beside a card, as chance lays it.

use eddymist_ink::Outline;

use crate::{
    camera::{Camera, photograph_beside},
    card::{Card, Print},
    normal,
    pens::{Pen, Ruled, ruled_sheet},
    rng,
    scanner::GreyScan,
};

/// Ruled lines on half a sheet beside a card, as chance lays it; odd seeds have a print on it, and the camera's second laws.
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
    // To the right of the lines, below them, and over the paper's rim onto the table.
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
