//! Drawings as they are handed in: how far widths are off, how much of the lines is read, and what is called off-palette, by ground.

use eddymist_formats::{
    LIMITS, drawings,
    images::{PngKind, Rgba, write_png},
};
use eddymist_measure::{
    Picture,
    drawing::{Layer, measure},
};
use eddymist_sim::handed_in::{
    Ground, HandedIn,
    held::{Held, KINDS, held},
    made,
};
use rayon::prelude::*;

fn line(what: &str, drawings: usize, all: &Held) {
    let mut means: Vec<f64> = all.means.iter().map(|m| m.abs()).collect();
    means.sort_by(f64::total_cmp);
    let kinds: Vec<String> =
        KINDS.iter().map(|k| all.length.get(k).map_or("-".into(), |[meant, seen]| format!("{:.0}", 100.0 * seen / meant.max(1.0)))).collect();
    let meant: f64 = all.length.values().map(|l| l[0]).sum();
    println!(
        "{what}\t{:.3} / {:.3} / {:.2}\t{:.3} / {:.3}\t{:.1}\t{}\t{:.1}\t{:.1}",
        all.off_at(0.5),
        all.off_at(0.95),
        all.off_at(1.0),
        means.get(means.len() / 2).copied().unwrap_or(f64::NAN),
        all.worst_mean(),
        100.0 * all.share(),
        kinds.join(" "),
        100.0 * all.beside / meant.max(1.0),
        all.patches as f64 / drawings.max(1) as f64
    );
}

/// `n` drawings on each ground, by this project's raster and by the vector reader's.
pub fn table(n: u64, only: Option<&str>) {
    println!(
        "ground\tplaces off, px: median / 95 % / worst\trole means off: median / worst\tread %\teven, run out, taper, hatching, tick\tbeside %\toff-palette a drawing"
    );
    for ground in Ground::ALL {
        let what = format!("{ground:?}");
        if only.is_some_and(|o| !what.contains(o)) {
            continue;
        }
        let all = |draw: &(dyn Fn(&HandedIn) -> Option<Rgba> + Sync)| -> Held {
            let one = |seed: u64| {
                let d = made(ground, seed);
                held(&d, &draw(&d)?)
            };
            Held::together((0..n).into_par_iter().filter_map(one).collect::<Vec<Held>>())
        };
        line(&what, n as usize, &all(&|d| Some(d.picture())));
        if !matches!(ground, Ground::WhiteMatte | Ground::Palette | Ground::Jpeg) {
            line(&format!("{what}, by the vector reader"), n as usize, &all(&|d| drawings::drawn(&d.svg(), 1.0, &LIMITS).ok()));
        }
    }
}

/// What lines over other grounds cost beside the same lines on white, from decoded pixels to widths, and both beside the PNG's decoding; of one
/// ground only, where one is named.
pub fn cost(only: Option<&str>) {
    let time = |ground: Ground| {
        let d = made(ground, 5);
        let p = d.picture();
        let png = write_png(p.width, p.height, PngKind::Rgba, &p.data, None).unwrap_or_default();
        let plan = eddymist_check::plan::plan(&d.guide, 1.0);
        let Some(picture) = Picture::new(p.width, p.height, &p.data) else { return [f64::NAN; 2] };
        let widths = super::median_ms(15, || drop(measure(&[Layer { picture, role: None }], &plan)));
        [widths, super::median_ms(15, || drop(eddymist_formats::images::rgba(&png, &LIMITS)))]
    };
    let [white, _] = time(Ground::White);
    for ground in Ground::ALL.into_iter().filter(|g| only.is_none_or(|o| format!("{g:?}") == o)) {
        let [widths, decoding] = time(ground);
        println!(
            "{ground:?}: decoded pixels to widths, over the same on white, over decoding\tms, ratio, ratio\t{widths:.1}\t{:.2}\t{:.2}",
            widths / white,
            widths / decoding
        );
    }
}

/// The drawing `seed` on a ground, written as SVG and PNG, for other renderers.
pub fn write(ground: &str, seed: u64, to: &str) -> std::io::Result<()> {
    let Some(ground) = Ground::ALL.into_iter().find(|g| format!("{g:?}") == ground) else {
        return Err(std::io::Error::other(format!("no such ground; {:?}", Ground::ALL)));
    };
    let d = made(ground, seed);
    let p = d.picture();
    let png = write_png(p.width, p.height, PngKind::Rgba, &p.data, None).map_err(std::io::Error::other)?;
    std::fs::write(format!("{to}.png"), png)?;
    std::fs::write(format!("{to}.svg"), d.svg())
}
