//! Accuracy and cost of reading a sampler sheet, over many seeds of simulated pens, printers and scanners whose laws are not
//! those that are fitted. One line a figure: name, median, 95th percentile, worst.

use std::{sync::Mutex, time::Instant};

use eddymist_calibrate::{
    PenCard,
    pen_card::{CardNib, Note},
};
use eddymist_measure::{
    colour::linear,
    scan::Scan,
    sheet::{
        self,
        layout::{CellKind, Paper, number_from, plan},
    },
    stats::{median, quantile},
};
use eddymist_sim::{
    pens::PENS,
    scanner::{Scanner, scan},
    sheet::{Truth, inked, ways},
};
use rayon::prelude::*;

/// A sheet of one seed as it leaves the scanner, whose levels make an encoded value white, what is true of it, and its turn.
fn scanned(seed: u64, dpi: f64, white: f64) -> (Scan, Truth, f64, f64) {
    let r = |k: u64| (seed.wrapping_mul(0x9E37_79B9_7F4A_7C15).wrapping_add(k.wrapping_mul(0xD134_2543_DE82_EF95)) >> 33) as f64 / f64::from(1u32 << 31);
    let plan = plan(if seed.is_multiple_of(2) { Paper::A4 } else { Paper::Letter }, &number_from(seed));
    let (scale, turn_deg) = (0.97 + 0.04 * r(1), 10.0 * r(2) - 5.0);
    let (ink, truth) = inked(&PENS[seed as usize % 5], &plan, scale, seed);
    let s = Scanner { turn_deg, shading: 0.2 * r(3), blur_px: 0.6 + 0.6 * r(4), ..Scanner::fair(dpi) };
    let g = scan(&s, &ink, plan.size_mm, seed);
    let table: Vec<f32> = (0..256).map(|v| linear(((v as f64 / white).round() as f32 / 255.0).min(1.0))).collect();
    (Scan { width: g.width, height: g.height, data: g.data.iter().map(|v| table[usize::from(*v)]).collect(), dpi }, truth, turn_deg, scale)
}

#[derive(Default)]
struct Errors {
    lines: f64,
    read: f64,
    width: Vec<f64>,
    turn: Vec<f64>,
    scale: Vec<f64>,
    tapers: Vec<f64>,
    angle: Vec<f64>,
    dots: Vec<f64>,
    wrong_law: f64,
    failed: Vec<String>,
}

fn one(seed: u64, white: f64, all: &Mutex<Errors>) {
    let dpi = [300.0, 400.0, 600.0][seed as usize / 5 % 3];
    let (scan, truth, turn, scale) = scanned(seed, dpi, white);
    let pen = &PENS[seed as usize % 5];
    let read = sheet::read(&scan, &[]);
    let Ok(mut e) = all.lock() else { return };
    let (reading, _) = match read {
        Ok(r) => r,
        Err(why) => return e.failed.push(format!("{} seed {seed}: {why}", pen.id)),
    };
    let card = PenCard::from_sheet(pen.name, &reading, &[], Note::default());
    for (id, slot, widths) in &truth.bodies {
        let body = reading.cells.iter().find(|c| c.id == *id).and_then(|c| c.strokes.iter().find(|s| s.slot as usize == *slot)).and_then(|s| s.body);
        e.lines += 1.0;
        let Some(b) = body else { continue };
        e.read += 1.0;
        if id != "fan" {
            let want = Truth::middle(widths, b.from_mm);
            e.width.push((b.width_mm - want).abs() / (0.005 * want).max(if dpi < 350.0 { 0.004 } else { 0.002 }));
        }
    }
    e.turn.push((reading.turn_deg - turn).abs());
    e.scale.extend(reading.printed_scale.map(|s| (s - scale).abs()));
    for (taper, seen) in [card.lead_out, card.lead_in].into_iter().zip(&truth.at_90) {
        if let Some((t, want)) = taper.zip(median(seen)).filter(|(_, w)| *w > 0.0) {
            e.tapers.push((t.at_90_mm / want - 1.0).abs());
        }
    }
    let ways = ways(pen);
    match (&card.nib, ways.nib_angle_deg()) {
        (Some(CardNib::Ellipse { angle_deg, .. }), Some(want)) => e.angle.push((angle_deg - want).abs()),
        (Some(CardNib::Spring { .. }), None) if ways.opens > 0.0 => {}
        (Some(CardNib::Round { .. }), None) if ways.opens == 0.0 => {}
        _ => e.wrong_law += 1.0,
    }
    let dots = reading.cells.iter().filter(|c| c.kind == CellKind::Dot).flat_map(|c| &c.strokes).filter_map(|s| Some((s.slot as usize, s.dot_mm?)));
    e.dots.extend(dots.map(|(i, d)| (d / truth.dots_mm[i] - 1.0).abs()));
}

/// The table over `n` seeds; an encoded value made white, 255 where none is.
pub fn table(n: u64, white: f64) {
    let all = Mutex::new(Errors::default());
    (0..n).into_par_iter().for_each(|seed| one(seed, white / 255.0, &all));
    let Ok(e) = all.into_inner() else { return };
    println!("{n} sheets: median\t95th percentile\tworst\tof");
    for (name, v) in [
        ("mean width, error over its limit", &e.width),
        ("turn, degrees", &e.turn),
        ("printed scale", &e.scale),
        ("tapers' 90 % distance, share", &e.tapers),
        ("nib angle, degrees", &e.angle),
        ("dots, share of the diameter", &e.dots),
    ] {
        let q = |q: f64| quantile(v, q).unwrap_or(f64::NAN);
        println!("{name}: {:.4}\t{:.4}\t{:.4}\t{}", q(0.5), q(0.95), q(1.0), v.len());
    }
    println!("lines read: {:.2} %; another law than the pen's: {} sheets; not read: {:?}", 100.0 * e.read / e.lines, e.wrong_law, e.failed);
}

/// Cost of one 35-megapixel sheet from decoded pixels, for each pen.
pub fn cost(white: f64) {
    for seed in 0..5 {
        let (scan, ..) = scanned(2 * seed + 10, 600.0, white / 255.0);
        let t = Instant::now();
        let read = sheet::read(&scan, &[]).is_ok();
        println!("{} megapixels, {}, read: {read}\ts\t{:.2}", scan.data.len() / 1_000_000, PENS[(2 * seed as usize + 10) % 5].name, t.elapsed().as_secs_f64());
    }
    let peak = std::fs::read_to_string("/proc/self/status").unwrap_or_default();
    println!("{}, the simulated scanner's own picture within it", peak.lines().find(|l| l.starts_with("VmHWM")).unwrap_or(""));
}
