//! Accuracy of sampler sheets that were photographed: simulated telephones with two laws each for lens, focus and tone, held and lit as chance has
//! it. One line a figure: name, median, 95th percentile, worst; then what could not be read.

use std::{sync::Mutex, time::Instant};

use eddymist_calibrate::{PenCard, pen_card::Note};
use eddymist_measure::{
    colour::linear,
    scan::Scan,
    sheet::{
        self,
        layout::{Paper, number_from, plan},
    },
    stats::{median, quantile},
};
use eddymist_sim::{
    camera::{Camera, photograph},
    pens::PENS,
    sheet::{Truth, inked, ways},
};
use rayon::prelude::*;

#[derive(Default)]
struct Errors {
    /// Of the mean width at each effort and pace: off in µm over 5 % of it or 20 µm, the larger.
    over: Vec<f64>,
    share: Vec<f64>,
    plain: Vec<f64>,
    tapers: Vec<f64>,
    dots: Vec<f64>,
    angle: Vec<f64>,
    cells: f64,
    read: f64,
    seconds: Vec<f64>,
    failed: Vec<String>,
}

fn one(seed: u64, say: bool, all: &Mutex<Errors>) {
    let pen = &PENS[seed as usize % 5];
    let plan = plan(if seed.is_multiple_of(3) { Paper::Letter } else { Paper::A4 }, &number_from(seed));
    let (ink, truth) = inked(pen, &plan, 1.0, seed);
    let camera = Camera::by_chance(seed);
    let g = photograph(&camera, &ink, plan.size_mm, seed);
    let table: Vec<f32> = (0..256).map(|v| linear(v as f32 / 255.0)).collect();
    let photo = Scan { width: g.width, height: g.height, data: g.data.iter().map(|v| table[usize::from(*v)]).collect(), dpi: 300.0 };
    let began = Instant::now();
    let read = sheet::read_photo(&photo, &[]);
    let Ok(mut e) = all.lock() else { return };
    let reading = match read {
        Ok((r, _)) => r,
        Err(why) => return e.failed.push(format!("{} seed {seed}: {why}", pen.id)),
    };
    e.seconds.push(began.elapsed().as_secs_f64());
    let card = PenCard::from_sheet(pen.name, &reading, &[], Note::default());
    let widths = reading.photo.as_ref().and_then(|p| p.widths.clone());
    for cell in plan.cells.iter().filter(|c| c.id.starts_with("effort") || c.id.starts_with("pace")) {
        e.cells += 1.0;
        let Some(found) = reading.cells.iter().find(|c| c.id == cell.id) else { continue };
        let pairs: Vec<(f64, f64)> = found
            .strokes
            .iter()
            .filter_map(|s| {
                let b = s.body?;
                let (.., w) = truth.bodies.iter().find(|t| t.0 == cell.id && t.1 == s.slot as usize)?;
                Some((b.width_mm, Truth::middle(w, b.from_mm)))
            })
            .collect();
        if pairs.len() < 2 {
            continue;
        }
        e.read += 1.0;
        let n = pairs.len() as f64;
        let (got, want) = pairs.iter().fold((0.0, 0.0), |s, p| (s.0 + p.0 / n, s.1 + p.1 / n));
        e.over.push((got - want).abs() / (0.05 * want).max(0.02));
        e.share.push((got / want - 1.0).abs());
        let seen = widths.as_ref().map_or(got, |w| w.gain * got + 0.001 * w.offset_um);
        e.plain.push((seen - want).abs() / (0.05 * want).max(0.02));
        if say {
            println!(
                "  {seed} {} {}: {got:.4} for {want:.4} mm ({:+.1} %), without bars {:+.1} %",
                pen.id,
                cell.id,
                100.0 * (got / want - 1.0),
                100.0 * (seen / want - 1.0)
            );
        }
    }
    if say {
        println!("  {camera:?}\n  {:?}", reading.photo);
        reading.warnings.iter().for_each(|w| println!("  - {w}"));
    }
    for (taper, seen) in [card.lead_out, card.lead_in].into_iter().zip(&truth.at_90) {
        if let Some((t, want)) = taper.zip(median(seen)).filter(|(_, w)| *w > 0.0) {
            e.tapers.push((t.at_90_mm / want - 1.0).abs());
        }
    }
    if let (Some(eddymist_calibrate::pen_card::CardNib::Ellipse { angle_deg, .. }), Some(want)) = (&card.nib, ways(pen).nib_angle_deg()) {
        e.angle.push((angle_deg - want).abs());
    }
    if let (Some(p), Some(want)) = (card.pooling, median(&truth.dots_mm)) {
        e.dots.push((p.dot_mm / want - 1.0).abs());
    }
}

/// The table over `n` seeds from `first`; few of them are told one by one.
pub fn table(n: u64, first: u64) {
    let all = Mutex::new(Errors::default());
    (first..first + n).into_par_iter().for_each(|seed| one(seed, n <= 10, &all));
    let Ok(e) = all.into_inner() else { return };
    println!("{n} photos: median\t95th percentile\tworst\tof");
    for (name, v) in [
        ("mean width, error over 5 % or 20 µm", &e.over),
        ("the same without the printed bars", &e.plain),
        ("mean width, share", &e.share),
        ("tapers' 90 % distance, share", &e.tapers),
        ("nib angle, degrees", &e.angle),
        ("dots, share of the diameter", &e.dots),
        ("seconds", &e.seconds),
    ] {
        let q = |q: f64| quantile(v, q).unwrap_or(f64::NAN);
        println!("{name}: {:.4}\t{:.4}\t{:.4}\t{}", q(0.5), q(0.95), q(1.0), v.len());
    }
    println!("cells read: {:.2} %; not read: {:?}", 100.0 * e.read / e.cells, e.failed);
}
