//! From a stand-in to the figure that a person reads, through all of core: this crate is its tests. Here is what several of them need, sampler
//! sheets inked and scanned by stand-ins.

use eddymist_measure::{
    colour::linear,
    scan::Scan,
    sheet::{
        SheetReading,
        layout::{Paper, plan},
        read,
    },
};
use eddymist_sim::{
    pens::{PENS, Pen},
    scanner::{GreyScan, Scanner, scan},
    sheet::{Truth, inked_by},
};

pub const NUMBER: &str = "7K2M9Q";

pub fn light(g: &GreyScan, dpi: f64) -> Scan {
    Scan { width: g.width, height: g.height, data: g.data.iter().map(|v| linear(f32::from(*v) / 255.0)).collect(), dpi }
}

pub fn scanned(pen: &Pen, scale: f64, scanner: &Scanner, seed: u64) -> (GreyScan, Truth) {
    scanned_by(pen, scale, 0.0, scanner, seed)
}

/// Of a hand that adds so much effort where it pulls.
pub fn scanned_by(pen: &Pen, scale: f64, pull: f64, scanner: &Scanner, seed: u64) -> (GreyScan, Truth) {
    let plan = plan(Paper::A4, NUMBER);
    let (ink, truth) = inked_by(pen, &plan, scale, pull, seed);
    (scan(scanner, &ink, plan.size_mm, seed), truth)
}

pub fn steel(scanner: &Scanner) -> GreyScan {
    scanned(&PENS[2], 1.0, scanner, 4).0
}

pub fn reading(g: &GreyScan, dpi: f64) -> SheetReading {
    read(&light(g, dpi), &[]).expect("a sheet").0
}
