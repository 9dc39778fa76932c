//! Drawings as they are handed in: how far widths are off, how much of the lines is read, and what is called off-palette, by ground.

use std::collections::HashMap;

use eddymist_check::plan::plan;
use eddymist_formats::images::Rgba;
use eddymist_measure::{
    Picture,
    drawing::{Layer, Look, Place, measure_all},
};
use eddymist_sim::handed_in::{Drawn, Ground, HandedIn, made};
use rayon::prelude::*;

/// What was read of drawings on one ground.
#[derive(Default)]
struct Read {
    /// Measured less meant, px, at every place of a body.
    off: Vec<f64>,
    /// A role's mean in one drawing, measured less meant, px.
    means: Vec<f64>,
    /// Length meant and read, px, by what the strokes are.
    length: HashMap<&'static str, [f64; 2]>,
    /// Length measured where nothing was drawn, px.
    beside: f64,
    patches: usize,
}

fn name(drawn: Drawn) -> &'static str {
    match drawn {
        Drawn::Even => "even",
        Drawn::RunOut => "run out",
        Drawn::Taper => "taper",
        Drawn::Tick => "tick",
        Drawn::Hatching => "hatching",
    }
}

const CELL: f64 = 8.0;

fn read(d: &HandedIn, p: &Rgba, out: &mut Read) {
    let Some(picture) = Picture::new(p.width, p.height, &p.data) else { return };
    let plan = plan(&d.guide, 1.0);
    let look = Look { gap_px: 0.0, roles: vec![false; plan.roles.len()] };
    let (lines, islands) = measure_all(&[Layer { picture, role: None }], &plan, &look);
    out.patches += islands.off.len();
    let cell = |x: f64, y: f64| ((x / CELL) as i32, (y / CELL) as i32);
    let mut meant: HashMap<(i32, i32), Vec<(usize, usize)>> = HashMap::new();
    for (s, stroke) in d.strokes.iter().enumerate() {
        for (i, q) in stroke.points.iter().enumerate() {
            meant.entry(cell(q[0], q[1])).or_default().push((s, i));
        }
    }
    let mut seen: Vec<Vec<bool>> = d.strokes.iter().map(|s| vec![false; s.points.len()]).collect();
    for (role, found) in lines.roles.iter().enumerate() {
        let (mut sum, mut n) = (0.0, 0.0);
        for line in &found.lines {
            for q in line.points.iter().filter(|q| q.place == Place::Body) {
                let (x, y, (cx, cy)) = (f64::from(q.x), f64::from(q.y), cell(f64::from(q.x), f64::from(q.y)));
                let near = (cx - 1..=cx + 1).flat_map(|a| (cy - 1..=cy + 1).map(move |b| (a, b))).filter_map(|c| meant.get(&c)).flatten();
                let best = near
                    .filter(|(s, _)| d.strokes[*s].role == role)
                    .map(|&(s, i)| ((d.strokes[s].points[i][0] - x).hypot(d.strokes[s].points[i][1] - y), s, i))
                    .min_by(|a, b| a.0.total_cmp(&b.0));
                match best {
                    Some((far, s, i)) if far < 2.0 => {
                        let off = f64::from(q.width) - d.strokes[s].widths[i];
                        out.off.push(off);
                        (sum, n) = (sum + off, n + 1.0);
                        let last = d.strokes[s].points.len() - 1;
                        seen[s][i.saturating_sub(1)..=(i + 1).min(last)].fill(true);
                    }
                    _ => out.beside += line.step_px,
                }
            }
        }
        if n > 200.0 {
            out.means.push(sum / n);
        }
    }
    for (stroke, seen) in d.strokes.iter().zip(&seen) {
        let length = out.length.entry(name(stroke.drawn)).or_default();
        length[0] += seen.len() as f64;
        length[1] += seen.iter().filter(|s| **s).count() as f64;
    }
}

fn line(what: &str, all: Vec<Read>) {
    let mut off: Vec<f64> = all.iter().flat_map(|r| r.off.iter().map(|o| o.abs())).collect();
    off.sort_by(f64::total_cmp);
    let at = |q: f64| off.get(((off.len().max(1) - 1) as f64 * q) as usize).copied().unwrap_or(f64::NAN);
    let mut means: Vec<f64> = all.iter().flat_map(|r| r.means.iter().map(|m| m.abs())).collect();
    means.sort_by(f64::total_cmp);
    let mean = |q: f64| means.get(((means.len().max(1) - 1) as f64 * q) as usize).copied().unwrap_or(f64::NAN);
    let mut kinds: Vec<String> = Vec::new();
    for kind in ["even", "run out", "taper", "hatching", "tick"] {
        let [meant, seen] = all.iter().filter_map(|r| r.length.get(kind)).fold([0.0; 2], |s, l| [s[0] + l[0], s[1] + l[1]]);
        kinds.push(format!("{:.0}", 100.0 * seen / meant.max(1.0)));
    }
    let [meant, seen] = all.iter().flat_map(|r| r.length.values()).fold([0.0; 2], |s, l| [s[0] + l[0], s[1] + l[1]]);
    let beside: f64 = all.iter().map(|r| r.beside).sum();
    let patches: usize = all.iter().map(|r| r.patches).sum();
    println!(
        "{what}\t{:.3} / {:.3} / {:.2}\t{:.3} / {:.3}\t{:.1}\t{}\t{:.1}\t{:.1}",
        at(0.5),
        at(0.95),
        at(1.0),
        mean(0.5),
        mean(1.0),
        100.0 * seen / meant.max(1.0),
        kinds.join(" "),
        100.0 * beside / meant.max(1.0),
        patches as f64 / all.len().max(1) as f64
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
        let all = |draw: &(dyn Fn(&HandedIn) -> Option<Rgba> + Sync)| -> Vec<Read> {
            (0..n)
                .into_par_iter()
                .filter_map(|seed| {
                    let d = made(ground, seed);
                    let mut out = Read::default();
                    read(&d, &draw(&d)?, &mut out);
                    Some(out)
                })
                .collect()
        };
        line(&what, all(&|d| Some(d.picture())));
        if !matches!(ground, Ground::WhiteMatte | Ground::Palette | Ground::Jpeg) {
            line(&format!("{what}, by the vector reader"), all(&|d| eddymist_formats::drawings::drawn(&d.svg(), 1.0, &eddymist_formats::LIMITS).ok()));
        }
    }
}

/// The drawing `seed` on a ground, written as SVG, PNG and its strokes as text, for other renderers.
pub fn write(ground: &str, seed: u64, to: &str) -> std::io::Result<()> {
    let Some(ground) = Ground::ALL.into_iter().find(|g| format!("{g:?}") == ground) else {
        return Err(std::io::Error::other(format!("no such ground; {:?}", Ground::ALL)));
    };
    let d = made(ground, seed);
    let p = d.picture();
    let png = eddymist_formats::images::write_png(p.width, p.height, eddymist_formats::images::PngKind::Rgba, &p.data, None).map_err(std::io::Error::other)?;
    std::fs::write(format!("{to}.png"), png)?;
    std::fs::write(format!("{to}.svg"), d.svg())
}
