//! Planted faults: how many of each kind are found where they were planted, and what is found beside them.

use std::collections::BTreeMap;

use eddymist_calibrate::blind::wilson;
use eddymist_check::{Manifest, NamedLayer, check_lines, document::FindingKind, sequence::Sequence};
use eddymist_formats::{LIMITS, drawings::weigh};
use eddymist_measure::Picture;
use eddymist_sim::{
    osk::Pose,
    planted::{KINDS, PAGE, planted, planted_guide},
    production::{line_guide, render},
};
use rayon::prelude::*;

/// `each` drawings of each kind, and as many clean ones as all of them.
pub fn faults(each: u64, show: bool) {
    let line_guide = planted_guide();
    let look = |kind: Option<FindingKind>, seed: u64| {
        let drawing = planted(kind, seed);
        let picture = Picture::new(PAGE[0], PAGE[1], &drawing.rgba)?;
        let found = check_lines(&line_guide, "x", &[NamedLayer { name: None, picture }], 1.0, &Manifest::new()).ok()?.check.findings;
        let here = |f: &&eddymist_check::Finding| drawing.at.is_some_and(|[l, t, r, b]| f.x > l && f.x < r && f.y > t && f.y < b);
        let hit = found.iter().filter(here).any(|f| Some(f.kind) == kind);
        let false_ones: Vec<(FindingKind, String)> =
            found.iter().filter(|f| !here(f)).map(|f| (f.kind, format!("{:.0},{:.0} {}", f.x, f.y, f.message))).collect();
        let beside: Vec<FindingKind> = found.iter().filter(here).filter(|f| Some(f.kind) != kind).map(|f| f.kind).collect();
        Some((hit, false_ones, beside))
    };
    println!("kind\tplanted\tfound\t95 % of the share found\tfalse elsewhere\tother kinds beside it");
    for kind in KINDS {
        let seen: Vec<_> = (0..each).into_par_iter().filter_map(|k| Some((k, look(Some(kind), 1000 * kind as u64 + k)?))).collect();
        let hits = seen.iter().filter(|s| s.1.0).count() as u64;
        let false_ones: Vec<_> = seen.iter().flat_map(|s| s.1.1.iter().map(move |f| (s.0, f))).collect();
        let mut beside: BTreeMap<String, u32> = BTreeMap::new();
        seen.iter().flat_map(|s| &s.1.2).for_each(|k| *beside.entry(format!("{k:?}")).or_default() += 1);
        let [lo, hi] = wilson(hits as u32, seen.len() as u32);
        println!("{kind:?}\t{}\t{hits}\t{:.1}–{:.1}\t{}\t{beside:?}", seen.len(), 100.0 * lo, 100.0 * hi, false_ones.len());
        if show {
            let missed: Vec<u64> = seen.iter().filter(|s| !s.1.0).map(|s| s.0).take(8).collect();
            println!("  missed {missed:?}; {:?}", false_ones.iter().take(4).collect::<Vec<_>>());
        }
    }
    let clean: Vec<_> = (0..each * KINDS.len() as u64).into_par_iter().filter_map(|k| Some((k, look(None, 900_000 + k)?.1))).collect();
    let wrong: Vec<_> = clean.iter().flat_map(|c| c.1.iter().map(move |f| (c.0, f))).collect();
    println!("clean\t{}\tfalse findings {} ({:.2} in fifty)", clean.len(), wrong.len(), 50.0 * wrong.len() as f64 / clean.len() as f64);
    let mut kinds: BTreeMap<String, u32> = BTreeMap::new();
    wrong.iter().for_each(|w| *kinds.entry(format!("{:?}", w.1.0)).or_default() += 1);
    println!("  {kinds:?}");
    if show {
        println!("  {:?}", wrong.iter().take(12).collect::<Vec<_>>());
    }
}

/// `each` sequences of eight drawings whose lines are redrawn 4 % heavier or thinner each time (one standard deviation), and as many
/// by a steady hand: the same waver along each stroke, and strokes that differ by 1 %: in how many a role is said to boil.
pub fn boil(each: u64) {
    let guide = line_guide();
    let told = |seed: u64, jump: f64| {
        let mut sequence = Sequence::new(&guide);
        for k in 0..8u64 {
            let pose = Pose::in_phase((seed % 7) as f64 / 7.0 + k as f64 / 40.0);
            // Deterministic noise: a hash of the drawing and the stroke, spread evenly.
            let even = |of: u64| {
                ((of.wrapping_mul(0x9E37_79B9_7F4A_7C15) ^ (of >> 7)).wrapping_mul(0xD1B5_4A32_D192_ED03) >> 40) as f64 / (1u64 << 24) as f64 * 2.0 - 1.0
            };
            let png = render(
                &pose,
                1.0,
                |role, stroke| {
                    let own = even(seed * 100_000 + k * 1000 + stroke as u64);
                    1.0 + 0.01 * 3f64.sqrt() * own + if role == 0 { jump * 3f64.sqrt() * even(seed * 77_000 + k * 100 + 7 * stroke as u64 + 3) } else { 0.0 }
                },
                seed,
            );
            if let Ok(w) = weigh(&guide, &format!("{k}.png"), &png, &Manifest::new(), &LIMITS) {
                sequence.push(&w.check, &w.lines);
            }
        }
        sequence.finish().into_iter().map(|f| f.role).collect::<Vec<_>>()
    };
    println!("sequences of 8\tn\tcontour said to boil\t95 % of the share\tother roles said to");
    for (what, jump) in [("contour jumps by 4 %", 0.04), ("a steady hand", 0.0)] {
        let all: Vec<Vec<String>> = (0..each).into_par_iter().map(|s| told(s + 1, jump)).collect();
        let hits = all.iter().filter(|r| r.iter().any(|r| r == "contour")).count() as u32;
        let others = all.iter().flatten().filter(|r| *r != "contour").count();
        let [lo, hi] = wilson(hits, all.len() as u32);
        println!("{what}\t{each}\t{hits}\t{:.1}–{:.1}\t{others}", 100.0 * lo, 100.0 * hi);
    }
}
