//! Accuracy of ruled lines that were photographed beside a card: the cameras of `photos`, cards of several lights and prints that lie on the paper
//! or over its rim. One line a figure: name, median, 95th percentile, worst; then what could not be read.

use std::{sync::Mutex, time::Instant};

use eddymist_formats::images::{PngKind, write_png};
use eddymist_measure::{
    carded,
    colour::linear,
    scan::Scan,
    stats::{median, quantile},
};
use eddymist_sim::{beside::beside_lines, pens::PENS};
use rayon::prelude::*;

#[derive(Default)]
struct Errors {
    over: Vec<f64>,
    stated: Vec<f64>,
    share: Vec<f64>,
    lengths: Vec<f64>,
    seconds: Vec<f64>,
    read: f64,
    lines: f64,
    failed: Vec<String>,
}

fn one(seed: u64, say: bool, all: &Mutex<Errors>) {
    let pen = &PENS[seed as usize % 5];
    let scene = beside_lines(pen, seed);
    let g = &scene.photo;
    let table: Vec<f32> = (0..256).map(|v| linear(v as f32 / 255.0)).collect();
    let photo = Scan { width: g.width, height: g.height, data: g.data.iter().map(|v| table[usize::from(*v)]).collect(), dpi: 300.0 };
    let began = Instant::now();
    let read = carded::measure(&photo);
    let Ok(mut e) = all.lock() else { return };
    e.lines += scene.lines.len() as f64;
    let (document, ..) = match read {
        Ok(r) => r,
        Err(why) => return e.failed.push(format!("{} seed {seed}: {why}", pen.id)),
    };
    e.seconds.push(began.elapsed().as_secs_f64());
    if document.lines.len() != scene.lines.len() {
        e.failed.push(format!("{} seed {seed}: {} of {} lines", pen.id, document.lines.len(), scene.lines.len()));
        return;
    }
    e.read += document.lines.len() as f64;
    for (got, want) in document.lines.iter().zip(&scene.lines) {
        e.over.push((got.width_mm.mean - want.width_mm).abs() / (0.05 * want.width_mm).max(0.02));
        let sure = document.photo.as_ref().map_or(0.0, |p| p.sure_mm);
        e.stated.push((got.width_mm.mean - want.width_mm).abs() / (0.05 * want.width_mm).max(0.02).max(sure));
        e.share.push((got.width_mm.mean / want.width_mm - 1.0).abs());
        e.lengths.push((got.length_mm / want.length_mm - 1.0).abs());
    }
    let far = document.lines.iter().zip(&scene.lines).any(|(g, w)| (g.length_mm / w.length_mm - 1.0).abs() > 0.03);
    if say || far {
        let off: Vec<f64> = document.lines.iter().zip(&scene.lines).map(|(g, w)| 100.0 * (g.width_mm.mean / w.width_mm - 1.0)).collect();
        let long: Vec<f64> = document.lines.iter().zip(&scene.lines).map(|(g, w)| 100.0 * (g.length_mm / w.length_mm - 1.0)).collect();
        println!("  {seed} {}: {off:.1?} %, lengths {:.2} %, {:?}", pen.id, median(&long).unwrap_or(0.0), document.photo);
        println!("    {:?} {:?} {:?} sharpen {:.2}", scene.camera.lens, scene.camera.focus, scene.camera.tone, scene.camera.sharpen);
        document.warnings.iter().for_each(|w| println!("  - {w}"));
    }
}

/// The table over `n` seeds from `first`; few of them are told one by one.
pub fn table(n: u64, first: u64) {
    let all = Mutex::new(Errors::default());
    (first..first + n).into_par_iter().for_each(|seed| one(seed, n <= 20, &all));
    let Ok(e) = all.into_inner() else { return };
    println!("{n} photos: median\t95th percentile\tworst\tof");
    for (name, v) in [
        ("a line's mean width, error over 5 % or 20 µm", &e.over),
        ("the same, over what is stated where that is larger", &e.stated),
        ("a line's mean width, share", &e.share),
        ("a line's length, share", &e.lengths),
        ("seconds", &e.seconds),
    ] {
        let q = |q: f64| quantile(v, q).unwrap_or(f64::NAN);
        println!("{name}: {:.4}\t{:.4}\t{:.4}\t{}", q(0.5), q(0.95), q(1.0), v.len());
    }
    println!("lines read: {:.2} %; not read: {:#?}", 100.0 * e.read / e.lines, e.failed);
}

/// One of these photos, as a PNG.
pub fn picture(seed: u64, file: &str) -> std::io::Result<()> {
    let g = beside_lines(&PENS[seed as usize % 5], seed).photo;
    let png = write_png(g.width, g.height, PngKind::Grey, &g.data, None).unwrap_or_default();
    std::fs::write(file, png)
}
