//! Ink with a texture of its own, as a brush on a toothed paper or a grainy tip lays it: what is spared inside a line is no edge of it.
//!
//! How: a few pixels of paper with ink all about them are a hole of the texture; what lies inside the ink is ink, and an edge's coverage is held
//! against the middle coverage inside. Common practice, no source. Limits: of lines of three pixels and less nothing lies inside; a texture coarser
//! than a line is a line in pieces.

use std::collections::HashMap;

use petgraph::unionfind::UnionFind;

use super::ink::{HALF, NONE, OFF, Pixel};

/// A hole has no more pixels than this.
const HOLE_PX: usize = 16;
/// So little ink inside lines says nothing of it.
const FEW: usize = 100;

/// A grain has no more pixels than this; a valley between two lines has.
const GRAIN_PX: usize = 8;

/// The small ones of the pieces that pixels, given in reading order, hang together in, that lie wholly in ink: how many pixels each has. Between two
/// lines there is paper too.
pub(super) fn grains(plane: &[Pixel], pixels: Vec<u32>, w: usize) -> Vec<usize> {
    let place: HashMap<u32, usize> = pixels.iter().enumerate().map(|(k, i)| (*i, k)).collect();
    let mut sets = UnionFind::<usize>::new(pixels.len());
    for (k, i) in pixels.iter().enumerate() {
        for back in [1, w - 1, w, w + 1] {
            if let Some(j) = i.checked_sub(back as u32).and_then(|j| place.get(&j)) {
                sets.union(k, *j);
            }
        }
    }
    let mut sizes = vec![0usize; pixels.len()];
    let ink = |j: usize| plane.get(j).is_some_and(|p| p.coverage >= HALF && p.role < OFF);
    for (i, set) in pixels.iter().zip(sets.into_labeling()) {
        let within = (0..3).all(|y| (0..3).all(|x| ink((*i as usize + y * w + x).wrapping_sub(w + 1))));
        sizes[set] += if within { 1 } else { GRAIN_PX + 1 };
    }
    sizes.into_iter().filter(|n| (1..=GRAIN_PX).contains(n)).collect()
}

/// The pixels of paper that hang together with one; of many a few more than a hole has.
fn paper_from(first: usize, w: usize, ink: &[bool]) -> Vec<usize> {
    let mut out = vec![first];
    let mut next = 0;
    while next < out.len() && out.len() <= HOLE_PX {
        let i = out[next];
        next += 1;
        for j in [i.wrapping_sub(w), i.wrapping_sub(1), i + 1, i + w] {
            if ink.get(j) == Some(&false) && !out.contains(&j) {
                out.push(j);
            }
        }
    }
    out
}

/// Evens textured ink out; pixels with any ink are given anew, in reading order.
pub(super) fn even_out(pixels: &mut [Pixel], w: usize, touched: &mut Vec<u32>) {
    let inked = |p: &Pixel| p.coverage >= HALF && p.role < OFF;
    let mut ink: Vec<bool> = pixels.iter().map(inked).collect();
    // Holes first: what was spared wholly, and what was covered less than half.
    let mut holes = Vec::new();
    let mut seen = vec![false; ink.len()];
    for i in w + 1..ink.len().saturating_sub(w + 1) {
        if !ink[i] && ink[i - 1] && !seen[i] {
            let hole = paper_from(i, w, &ink);
            hole.iter().for_each(|j| seen[*j] = true);
            if hole.len() <= HOLE_PX {
                holes.extend(hole.into_iter().map(|j| (j, pixels[i - 1].role)));
            }
        }
    }
    for (i, role) in holes {
        ink[i] = true;
        pixels[i].role = role;
    }
    let inside =
        |i: usize| i > w && i + w + 1 < ink.len() && [i - w - 1, i - w, i - w + 1, i - 1, i, i + 1, i + w - 1, i + w, i + w + 1].iter().all(|j| ink[*j]);
    let within: Vec<usize> = (0..ink.len()).filter(|i| ink[*i] && inside(*i)).collect();
    if within.len() >= FEW {
        let level = within.iter().map(|i| u64::from(pixels[*i].coverage)).sum::<u64>() as f64 / within.len() as f64;
        for p in pixels.iter_mut().filter(|p| p.role < OFF) {
            p.coverage = (255.0 * f64::from(p.coverage) / level).round().min(255.0) as u8;
        }
    }
    for i in within {
        pixels[i].coverage = 255;
    }
    // A hole at the border of the ink keeps what it has, and is no paper.
    for (p, _) in pixels.iter_mut().zip(&ink).filter(|(p, ink)| **ink && p.coverage < HALF) {
        p.coverage = HALF;
    }
    *touched = (0..pixels.len()).filter(|i| pixels[*i].coverage > 0 && pixels[*i].role != NONE).map(|i| i as u32).collect();
}
