//! What is paper and what is ink, how much of each pixel, and whose.
//!
//! A pixel is assigned to the role whose mixture with the paper lies nearest (CIEDE2000), then projected on the line
//! from paper to that role's colour. A faint edge pixel says little about its colour: it goes with the strongest ink
//! beside it. Equal colours are looked up, not computed again.

use std::sync::atomic::{AtomicU64, Ordering};

use rayon::prelude::*;

use super::{
    Blend, Plan,
    assemble::{Band, assemble},
    flats,
    ink::{HALF, Ink, NONE, OFF, PAPER, Pixel},
    inks::{Paper, Target, find_paper, scanned_targets, targets},
    local,
    mixing::Edges,
    scratch::Planes,
};
use crate::{
    Picture,
    colour::{Rgb, delta_e, lab, lab_of},
    source::Kind,
};

struct Classifier<'a> {
    picture: &'a Picture<'a>,
    targets: Vec<Target>,
    paper: Paper,
    /// Class where the colour does not matter: a layer's role.
    fixed: Option<u8>,
    blend: Blend,
    memo: Memo,
    /// Of a drawing, not of a scan.
    clean: bool,
}

/// What has been found for a colour. A slot holds key, class and coverage in one word, so that threads share it without
/// a lock: whichever of two colours of one slot was written last is found, the other is computed again.
struct Memo(Vec<AtomicU64>);

impl Memo {
    const SLOTS_LOG2: u32 = 13;

    fn new() -> Self {
        Self((0..1 << Self::SLOTS_LOG2).map(|_| AtomicU64::new(0)).collect())
    }

    fn get(&self, key: u32, compute: impl FnOnce() -> Pixel) -> Pixel {
        let slot = &self.0[(key.wrapping_mul(0x9E37_79B1) >> (32 - Self::SLOTS_LOG2)) as usize];
        let word = slot.load(Ordering::Relaxed);
        // The lowest bit says that the slot is taken: key 0 is a colour like any other.
        if word & 1 == 1 && (word >> 32) as u32 == key {
            return Pixel { role: (word >> 16) as u8, coverage: (word >> 8) as u8 };
        }
        let found = compute();
        slot.store(u64::from(key) << 32 | u64::from(found.role) << 16 | u64::from(found.coverage) << 8 | 1, Ordering::Relaxed);
        found
    }
}

/// Classifies a picture; `layer_role` gives all its ink to one role, `scanned` the inks' own colours in a scan.
pub fn classify(picture: &Picture, plan: &Plan, layer_role: Option<usize>, scanned: Option<&[Option<Rgb>]>, planes: &mut Planes) -> Ink {
    let fixed = layer_role.map(|r| r as u8);
    if let Some(inks) = scanned {
        let targets = scanned_targets(plan, inks);
        let c = Classifier { picture, targets, paper: Paper::Colour([255; 3]), fixed, blend: Blend::Linear, memo: Memo::new(), clean: false };
        return c.run(plan, planes).0;
    }
    let (paper, black) = find_paper(picture);
    let targets = targets(picture, plan, &paper, fixed);
    let ground = if let Paper::Colour(p) = paper { Some(p) } else { None };
    let inks: Vec<Rgb> = targets.iter().map(Target::rgb).collect();
    // Several inks of one class cannot be told apart by their mixtures with the paper alone; a page's blacks may be more than its paper.
    let several = (1..targets.len()).any(|k| targets[..k].iter().any(|t| t.class == targets[k].class));
    if (several || black || flats::has_more(picture, ground, &inks))
        && let Some(ink) = local::classify(picture, plan, fixed, planes)
    {
        return ink;
    }
    let mut c = Classifier { picture, targets, paper, fixed, blend: Blend::Encoded, memo: Memo::new(), clean: picture.kind == Kind::Drawing };
    let (mut ink, edges) = c.run(plan, planes);
    if matches!(c.paper, Paper::Colour(_)) && edges.say_linear() {
        c.blend = Blend::Linear;
        c.targets = c.targets.into_iter().map(|t| t.mixed(Blend::Linear)).collect();
        c.memo = Memo::new();
        for &i in &ink.touched {
            ink.pixels[i as usize] = PAPER;
        }
        (planes.pixels, planes.distance2) = (ink.pixels, ink.distance2);
        ink = c.run(plan, planes).0;
    }
    ink
}

/// Bytes looked at together: eight pixels.
const BLOCK: usize = 32;
/// Rows, and edge pixels, that one thread takes at a time.
const BAND_ROWS: usize = 32;
const EDGES_AT_ONCE: usize = 4096;

impl Classifier<'_> {
    fn compute(&self, pixel: [u8; 4]) -> Pixel {
        let rgb = [pixel[0], pixel[1], pixel[2]];
        if matches!(self.paper, Paper::Clear) {
            if pixel[3] == 0 {
                return PAPER;
            }
            let role = self.fixed.unwrap_or_else(|| {
                let c = lab_of(rgb);
                self.nearest(|t| t.residual(c, 1.0)).map_or(OFF, |(t, far)| if far > t.tolerance { OFF } else { t.class })
            });
            return Pixel { role, coverage: pixel[3] };
        }
        let c = lab_of(rgb);
        // Roles whose mixtures lie clearly further off in plain RGB need no colour difference; a pixel too faint to tell
        // takes the nearest in RGB, and goes with the ink beside it in the end.
        let shares: Vec<(f32, f32)> = self
            .targets
            .iter()
            .map(|t| {
                let share = t.share(rgb, self.blend);
                (share, t.plain_residual(rgb, share, self.blend))
            })
            .collect();
        let least = shares.iter().map(|s| s.1).fold(f32::INFINITY, f32::min);
        let near = if shares.iter().all(|s| s.0 < 0.2) { least } else { least * 2.0 + 20.0 };
        let candidates = self.targets.iter().zip(&shares).filter(|(_, s)| s.1 <= near);
        let off = |paper: [f32; 3]| Pixel { role: OFF, coverage: (delta_e(c, lab(paper)) / 60.0 * 255.0).min(255.0) as u8 };
        let Some((t, far)) = candidates.map(|(t, s)| (t, t.residual(c, s.0))).min_by(|a, b| a.1.total_cmp(&b.1)) else {
            // No role takes ink by its colour.
            return if let Paper::Colour(p) = self.paper { off(p.map(f32::from)) } else { PAPER };
        };
        let share = t.share(rgb, self.blend).clamp(0.0, 1.0);
        let coverage = (share * 255.0).round() as u8;
        if let Some(role) = self.fixed {
            return Pixel { role, coverage };
        }
        // Between paper and ink the mixture is given some room: rounding and other ink beneath it shift it a little.
        if far > t.tolerance + 2.0 {
            return off(t.paper);
        }
        Pixel { role: t.class, coverage }
    }

    fn nearest(&self, far: impl Fn(&Target) -> f32) -> Option<(&Target, f32)> {
        self.targets.iter().map(|t| (t, far(t))).min_by(|a, b| a.1.total_cmp(&b.1))
    }

    fn run(&self, plan: &Plan, planes: &mut Planes) -> (Ink, Edges) {
        let (w, h) = (self.picture.width, self.picture.height);
        let mut pixels = std::mem::take(&mut planes.pixels);
        let band = BAND_ROWS * w;
        let bands: Vec<Band> = (self.picture.rgba.par_chunks(4 * band), pixels.par_chunks_mut(band))
            .into_par_iter()
            .enumerate()
            .map(|(k, (rgba, pixels))| self.band((k * band) as u32, rgba, pixels))
            .collect();
        let faint = bands.iter().map(|b| &b.faint[..]).collect::<Vec<_>>().concat();
        let edges = self.reassign(&mut pixels, &faint);
        let ink = assemble((w, h), pixels, std::mem::take(&mut planes.distance2), &bands, plan, self.blend, self.clean);
        (ink, edges)
    }

    /// Classifies some rows, the first of whose pixels is number `first` of the picture.
    fn band(&self, first: u32, rgba: &[u8], pixels: &mut [Pixel]) -> Band {
        let paper = match self.paper {
            Paper::Colour(p) => [p[0], p[1], p[2], 255],
            Paper::Clear => [0; 4],
        };
        let mut blank = [0u8; BLOCK];
        blank.as_chunks_mut::<4>().0.fill(paper);
        let paper = u32::from_le_bytes(paper);
        let mut found = Band::default();
        let (mut last_key, mut last) = (paper, PAPER);
        let mut look = |colours: &[[u8; 4]], at: usize| {
            for (k, p) in colours.iter().enumerate() {
                let key = u32::from_le_bytes(*p);
                if key == paper {
                    continue;
                }
                if key != last_key {
                    last = self.memo.get(key, || self.compute(*p));
                    last_key = key;
                }
                if last.coverage > 2 {
                    let i = at + k;
                    pixels[i] = last;
                    found.touched.push(first + i as u32);
                    if last.coverage < 250 {
                        found.faint.push(first + i as u32);
                    }
                }
            }
        };
        // Most of a page is paper: whole blocks of it are passed over at once.
        let (blocks, rest) = rgba.as_chunks::<BLOCK>();
        for (b, block) in blocks.iter().enumerate() {
            if *block != blank {
                look(block.as_chunks::<4>().0, b * BLOCK / 4);
            }
        }
        look(rest.as_chunks::<4>().0, blocks.len() * BLOCK / 4);
        found
    }

    /// Gives every edge pixel to the strongest ink beside it, and reads its coverage by that ink's colour.
    fn reassign(&self, pixels: &mut [Pixel], faint: &[u32]) -> Edges {
        // How inks were mixed shows in a few thousand of the edge pixels as well as in all.
        let every = (faint.len() / 4_000).clamp(1, 32);
        let found: Vec<(Edges, Vec<(u32, Pixel)>)> = faint.par_chunks(EDGES_AT_ONCE).map(|some| self.edge_pixels(pixels, some, every)).collect();
        let mut edges = Edges::default();
        for (e, changes) in found {
            edges.add(e);
            for (i, p) in changes {
                pixels[i as usize] = p;
            }
        }
        edges
    }

    /// What the edge pixels say of the way of mixing, and which of them belong to another role, with their coverage by it.
    fn edge_pixels(&self, pixels: &[Pixel], faint: &[u32], every: usize) -> (Edges, Vec<(u32, Pixel)>) {
        let (w, h) = (self.picture.width, self.picture.height);
        let mut edges = Edges::default();
        let mut changes = Vec::new();
        for (k, &i) in faint.iter().enumerate() {
            let i = i as usize;
            let asked = k.is_multiple_of(every);
            let own = pixels[i].role;
            if matches!(self.paper, Paper::Colour(_)) {
                edges.look(self.picture, i, asked, |j| pixels[j].role == NONE, |j| pixels[j].coverage > 240 && pixels[j].role < OFF);
            }
            if !asked && i > w && i + w + 1 < pixels.len() {
                // No question between the nine: they are quicker asked than guessed.
                let alone = |at: usize| pixels[at - 1..at + 2].iter().fold(true, |all, p| all & ((p.role == own) | (p.role == NONE)));
                if alone(i - w) & alone(i) & alone(i + w) {
                    continue;
                }
            }
            let (x, y) = (i % w, i / w);
            let mut best = Pixel { coverage: pixels[i].coverage.max(HALF), role: own };
            let (x0, x1) = (x.saturating_sub(1), (x + 1).min(w - 1));
            for ny in y.saturating_sub(1)..=(y + 1).min(h - 1) {
                for p in &pixels[ny * w + x0..=ny * w + x1] {
                    if p.coverage > best.coverage && p.role != NONE {
                        best = *p;
                    }
                }
            }
            if best.role == own {
                continue;
            }
            if best.role == OFF {
                changes.push((i as u32, Pixel { role: OFF, ..pixels[i] }));
                continue;
            }
            let Some(target) = self.targets.iter().find(|t| t.class == best.role) else {
                continue;
            };
            let p = self.picture.pixel(i);
            let rgb = [p[0], p[1], p[2]];
            if matches!(self.paper, Paper::Clear) {
                changes.push((i as u32, Pixel { coverage: p[3], ..best }));
                continue;
            }
            let share = target.share(rgb, self.blend).clamp(0.0, 1.0);
            changes.push((i as u32, Pixel { coverage: (share * 255.0).round() as u8, ..best }));
        }
        (edges, changes)
    }
}
