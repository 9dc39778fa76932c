//! Planted faults: how many of each kind are found where they were planted, and what is found beside them.

use std::collections::BTreeMap;

use eddymist_calibrate::blind::wilson;
use eddymist_check::{Manifest, NamedLayer, check_drawing, document::FindingKind};
use eddymist_measure::Picture;
use eddymist_sim::planted::{KINDS, PAGE, planted, planted_guide};
use rayon::prelude::*;

/// `each` drawings of each kind, and as many clean ones as all of them.
pub fn faults(each: u64, show: bool) {
    let line_guide = planted_guide();
    let look = |kind: Option<FindingKind>, seed: u64| {
        let drawing = planted(kind, seed);
        let picture = Picture::new(PAGE[0], PAGE[1], &drawing.rgba)?;
        let found = check_drawing(&line_guide, "x", &[NamedLayer { name: None, picture }], 1.0, &Manifest::new()).ok()?.check.findings;
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
