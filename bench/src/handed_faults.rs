//! Faults planted on drawings as they are handed in: the share found by how far beyond its limit a fault is, and what is found that is none.

use std::collections::BTreeMap;

use eddymist_calibrate::blind::wilson;
use eddymist_check::{Finding, FindingKind, Manifest, NamedLayer, check_lines};
use eddymist_formats::images::{PngKind, write_png};
use eddymist_measure::Picture;
use eddymist_sim::{
    handed_in::{
        Ground,
        planted::{Fault, Planted, can_be, planted},
    },
    planted::KINDS,
};
use rayon::prelude::*;

/// 1 is at the limit; the last is far from it.
const SEVERITIES: [f64; 7] = [0.6, 0.8, 0.9, 1.1, 1.25, 1.6, 2.5];

fn findings(p: &Planted) -> Option<Vec<Finding>> {
    let d = &p.handed;
    let rgba = d.picture();
    let picture = Picture::new(rgba.width, rgba.height, &rgba.data)?;
    Some(check_lines(&d.guide, "x", &[NamedLayer { name: None, picture }], 1.0, &Manifest::new()).ok()?.check.findings)
}

/// Faults of each kind (or the named one), `n` at each severity, the grounds in turn; and `4 n` clean drawings.
pub fn table(n: u64, only: &[&str], show: bool) {
    let chosen = |what: String| only.contains(&what.as_str());
    let mut grounds: Vec<Ground> = Ground::ALL.into_iter().filter(|g| chosen(format!("{g:?}"))).collect();
    let mut kinds: Vec<FindingKind> = KINDS.into_iter().filter(|k| chosen(format!("{k:?}"))).collect();
    let clean_too = only.contains(&"clean") || kinds.is_empty();
    if grounds.is_empty() {
        grounds = Ground::ALL.to_vec();
    }
    if kinds.is_empty() && !only.contains(&"clean") {
        kinds = KINDS.to_vec();
    }
    println!("kind\t{}\tfar: 95 % of the share\tfalse elsewhere\tother kinds beside it", SEVERITIES.map(|s| format!("×{s}")).join("\t"));
    let mut elsewhere: BTreeMap<String, u32> = BTreeMap::new();
    for kind in kinds {
        let mut shares = Vec::new();
        let (mut wrong, mut beside): (Vec<String>, BTreeMap<String, u32>) = Default::default();
        let (mut last, mut missed) = ([0.0; 2], Vec::new());
        for severity in SEVERITIES {
            let one = |k: u64| {
                let of: Vec<Ground> = grounds.iter().copied().filter(|g| can_be(kind, *g)).collect();
                let ground = *of.get(k as usize % of.len().max(1))?;
                let seed = 10_000 * kind as u64 + k;
                let p = planted(ground, Some(Fault { kind, severity }), seed);
                let found = findings(&p)?;
                Some((k, ground, seed, found, p.at?))
            };
            let all: Vec<_> = (0..n).into_par_iter().filter_map(one).collect();
            let mut hits = 0u32;
            for (_, ground, seed, found, [l, t, r, b]) in &all {
                let here = |f: &&Finding| f.x > *l && f.x < *r && f.y > *t && f.y < *b;
                let hit = found.iter().filter(here).any(|f| f.kind == kind);
                hits += u32::from(hit);
                let reads = severity > 1.0;
                if hit != reads {
                    missed.push(format!("×{severity} {ground:?} {seed}"));
                }
                for f in found.iter().filter(here).filter(|f| f.kind != kind) {
                    *beside.entry(format!("{:?}", f.kind)).or_default() += 1;
                }
                for f in found.iter().filter(|f| !here(f)) {
                    *elsewhere.entry(format!("{:?}", f.kind)).or_default() += 1;
                    wrong.push(format!("{ground:?} {seed} ×{severity}: {:.0},{:.0} {}", f.x, f.y, f.message));
                }
            }
            shares.push(format!("{:.0}", 100.0 * f64::from(hits) / all.len().max(1) as f64));
            last = wilson(hits, all.len() as u32);
        }
        println!("{kind:?}\t{}\t{:.1}–{:.1}\t{}\t{beside:?}", shares.join("\t"), 100.0 * last[0], 100.0 * last[1], wrong.len());
        if show {
            missed.iter().take(14).for_each(|m| println!("    unlike {m}"));
            wrong.iter().take(10).for_each(|w| println!("    false {w}"));
        }
    }
    println!("false elsewhere, all: {elsewhere:?}");
    if clean_too {
        let clean: Vec<_> = (0..4 * n)
            .into_par_iter()
            .filter_map(|k| {
                let ground = grounds[k as usize % grounds.len()];
                Some((ground, k, findings(&planted(ground, None, 900_000 + k))?))
            })
            .collect();
        let wrong: Vec<_> = clean.iter().flat_map(|c| c.2.iter().map(move |f| (c.0, c.1, f))).collect();
        println!("clean\t{} drawings\t{} false findings ({:.2} in fifty)", clean.len(), wrong.len(), 50.0 * wrong.len() as f64 / clean.len().max(1) as f64);
        let mut by: BTreeMap<String, u32> = BTreeMap::new();
        wrong.iter().for_each(|(g, _, f)| *by.entry(format!("{g:?} {:?}", f.kind)).or_default() += 1);
        println!("  {by:?}");
        if show {
            wrong.iter().take(60).for_each(|(g, k, f)| println!("    {g:?} {k}: {:.0},{:.0} {}", f.x, f.y, f.message));
        }
    }
}

/// Writes the picture of one planted drawing; a clean one where the kind is none.
pub fn write(kind: &str, severity: f64, ground: &str, seed: u64, to: &str) -> std::io::Result<()> {
    let Some(ground) = Ground::ALL.into_iter().find(|g| format!("{g:?}") == ground) else {
        return Err(std::io::Error::other(format!("no such ground; {:?}", Ground::ALL)));
    };
    let fault = KINDS.into_iter().find(|k| format!("{k:?}") == kind).map(|kind| Fault { kind, severity });
    let pl = planted(ground, fault, seed);
    eprintln!("AT {:?}", pl.at);
    unsafe { std::env::set_var("DBG", format!("{:?}", pl.at.unwrap_or_default())) };
    for f in findings(&pl).into_iter().flatten() {
        eprintln!("F {:.0},{:.0} {}", f.x, f.y, f.message);
    }
    let p = pl.handed.picture();
    std::fs::write(to, write_png(p.width, p.height, PngKind::Rgba, &p.data, None).map_err(std::io::Error::other)?)
}
