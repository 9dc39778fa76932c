//! Whole pens matched on simulated hands and tablets over many seeds: how often each part is alike, and what a fit takes.

use std::{collections::BTreeMap, sync::Mutex, time::Instant};

use eddymist_calibrate::{
    PenCard, Verdict, fit,
    matching::{Part, PartMatch},
    pen_card::Note,
    profile,
};
use eddymist_measure::{
    colour::linear,
    scan::Scan,
    sheet::{
        self,
        layout::{Paper, number_from, plan},
    },
    stats::quantile,
};
use eddymist_sim::{
    pens::PENS,
    scanner::{Scanner, scan},
    sheet::inked_by,
    stylus::{HANDS, Hand, TABLETS, warmup},
};
use rayon::prelude::*;

/// Every other hand presses harder where it pulls.
fn pull(seed: u64) -> f64 {
    if seed % 2 == 1 { 0.05 } else { 0.0 }
}

fn card(pen: usize, pull: f64, seed: u64) -> Option<PenCard> {
    let plan = plan(Paper::A4, &number_from(seed));
    let (ink, _) = inked_by(&PENS[pen], &plan, 1.0, pull, seed);
    let g = scan(&Scanner::fair(300.0), &ink, plan.size_mm, seed);
    let data = g.data.iter().map(|v| linear(f32::from(*v) / 255.0)).collect();
    let (reading, _) = sheet::read(&Scan { width: g.width, height: g.height, data, dpi: 300.0 }, &[]).ok()?;
    Some(PenCard::from_sheet(PENS[pen].name, &reading, &[], Note::default()))
}

/// Five pens on two tablets, `seeds` times.
pub fn matches(seeds: u64) {
    let verdicts: Mutex<BTreeMap<(&str, usize), [u32; 4]>> = Mutex::new(BTreeMap::new());
    let pens: Mutex<[[u32; 3]; 5]> = Mutex::new([[0; 3]; 5]);
    let times: Mutex<Vec<f64>> = Mutex::new(Vec::new());
    let near: Mutex<Near> = Mutex::default();
    (0..seeds).into_par_iter().for_each(|seed| {
        for (i, pen) in pens_of(seed) {
            for t in 0..2 {
                let hand = Hand { pull: pull(seed), ..HANDS[seed as usize % HANDS.len()] };
                let w = warmup(&hand, &TABLETS[(seed as usize + t) % TABLETS.len()], seed);
                let Ok(p) = profile(&w, "x") else { continue };
                let start = Instant::now();
                let Ok(m) = fit(&pen, Some(&w), Some(&p), None, &[]) else { continue };
                let took = start.elapsed().as_secs_f64();
                // A part with too few lines is not good, it is not known.
                let shown = || m.parts.iter();
                let whole = if shown().any(|p| p.verdict == Verdict::Differs) { 2 } else { usize::from(shown().any(|p| p.verdict == Verdict::TooFew)) };
                let (Ok(mut v), Ok(mut c), Ok(mut s)) = (verdicts.lock(), pens.lock(), times.lock()) else { return };
                for p in &m.parts {
                    let name = Part::ALL.iter().find(|a| a.0 == p.part).map_or("", |a| a.1);
                    v.entry((name, i)).or_default()[p.verdict as usize] += 1;
                }
                c[i][whole] += 1;
                s.push(took);
                for p in m.parts.iter().filter(|p| p.verdict != Verdict::Alike) {
                    eprintln!(
                        "seed {seed} {t} {} {:?} {:?} diff {:.2?} int {:.2?} ratio {:.2?} off {:.3?} {} | {}",
                        PENS[i].name, p.part, p.verdict, p.difference, p.interval, p.spread_ratio, p.off_share, p.measured, p.says
                    );
                }
                let Ok(mut near) = near.lock() else { return };
                near.add((seed, t), i, &m.parts);
            }
        }
    });
    // By part the whole, then pen by pen.
    println!("part\talike\tdiffers\ttoo few\tcannot be matched\t{}", PENS.map(|p| p.name).join("\t"));
    let verdicts = verdicts.into_inner().unwrap_or_default();
    for (_, part) in Part::compared() {
        let of = |pen: usize| verdicts.get(&(part, pen)).copied().unwrap_or_default();
        let each = (0..PENS.len()).map(of);
        let [a, d, f, c] = each.clone().fold([0; 4], |t, v| std::array::from_fn(|k| t[k] + v[k]));
        println!("{part}\t{a}\t{d}\t{f}\t{c}\t{}", each.map(|v| v.map(|n| n.to_string()).join(" ")).collect::<Vec<_>>().join("\t"));
    }
    for (pen, [good, unknown, told]) in PENS.iter().zip(pens.into_inner().unwrap_or_default()) {
        println!("{}: every part alike or not to be matched\t{good}\tsome too few to say\t{unknown}\tsome told\t{told}", pen.name);
    }
    near.into_inner().unwrap_or_default().print();
    let times = times.into_inner().unwrap_or_default();
    let at = |q: f64| quantile(&times, q).unwrap_or(f64::NAN);
    println!("a fit, both cores at work\ts\tmedian {:.2}, 95th percentile {:.2}, worst {:.2}", at(0.5), at(0.95), at(1.0));
}

/// Parts that are alike, or whose width is off by no more than this share of the pen's.
const NEAR: f64 = 0.03;

/// How many parts, and how many whole pens, are alike or near enough.
#[derive(Default)]
struct Near {
    /// By part: near enough, all.
    parts: BTreeMap<&'static str, [u32; 2]>,
    /// By hand and tablet: pens of which every part is near enough, and of which every part is that the hand lets be matched.
    pens: BTreeMap<(u64, usize), [u32; 2]>,
    each: [[u32; 2]; 5],
}

impl Near {
    fn add(&mut self, drawn: (u64, usize), pen: usize, parts: &[PartMatch]) {
        let near = |p: &PartMatch| p.verdict == Verdict::Alike || p.off_share.is_some_and(|s| s.abs() <= NEAR);
        for p in parts {
            let name = Part::ALL.iter().find(|a| a.0 == p.part).map_or("", |a| a.1);
            let n = self.parts.entry(name).or_default();
            *n = [n[0] + u32::from(near(p)), n[1] + 1];
        }
        let all = parts.iter().all(near);
        let may = parts.iter().all(|p| near(p) || p.verdict == Verdict::CannotBeMatched);
        for counts in [self.pens.entry(drawn).or_default(), &mut self.each[pen]] {
            *counts = [counts[0] + u32::from(all), counts[1] + u32::from(may)];
        }
    }

    fn print(&self) {
        let drawn = self.pens.len();
        for (part, [near, all]) in &self.parts {
            println!("{part}: alike, or the width within {:.0} %\tof {all}\t{near}", 100.0 * NEAR);
        }
        for (pen, [all, may]) in PENS.iter().zip(self.each) {
            println!("{}: every part so, and where what the hand forbids is left out\tof {drawn}\t{all}\t{may}", pen.name);
        }
        let four = |k: usize| self.pens.values().filter(|p| p[k] >= 4).count();
        println!("four pens of five and more, every part so, and where what the hand forbids is left out\tof {drawn}\t{}\t{}", four(0), four(1));
    }
}

fn pens_of(seed: u64) -> impl Iterator<Item = (usize, PenCard)> {
    (0..PENS.len()).filter_map(move |i| Some((i, card(i, pull(seed), 100 * seed + i as u64)?)))
}
