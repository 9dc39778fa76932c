//! Ink that is no line: spotted blacks, tone and lettering. It is masked and shown, not weighed.
//!
//! Spotted black: an inscribed width over twice the widest role's (methods.md, section 5). Tone-like: screens of dots (`screen`), and the ink about
//! dots of paper in a lattice (`tone`). Lettering-like: rows of letters (`lettering`).

use super::{
    MaskKind, Masked,
    ink::{HALF, Ink, MASKED, Run, TEXTURE},
    lettering,
    pieces::{self, Piece},
    screen::{self, Dot, Screen},
    tone::{self, Toned},
};

/// What is left of the ink to be weighed, and what is not.
pub struct Left {
    pub masked: Vec<Masked>,
    /// Two halves of whole pieces, about as heavy as one another.
    pub halves: [Vec<Run>; 2],
    /// Where tone lies, if any does.
    pub toned: Option<Toned>,
}

/// Masks what is no line and says what and where; the distances of what is left are measured anew.
pub fn mask(ink: &mut Ink, widest_px: f64) -> Left {
    let mut out = if widest_px > 0.0 { spotted_blacks(ink, widest_px) } else { Vec::new() };
    let (mut pieces, mut of_run) = pieces::find(ink, &ink.runs);
    let (screens, dots) = screens(&pieces, widest_px);
    let letters = lettering::rows(&pieces, ink.height);
    let paper = tone::holes(&ink.runs, ink.width as u32, 2.0 * widest_px);
    let dark = tone::dark(&paper);
    let mut toned = Toned::default();
    if !screens.is_empty() || !letters.is_empty() {
        let mut runs_of: Vec<Vec<u32>> = vec![Vec::new(); pieces.len()];
        of_run.iter().enumerate().for_each(|(run, piece)| runs_of[*piece as usize].push(run as u32));
        for s in &screens {
            // A printed tone’s dots are no lines that were missed; other dots may be what is left of some.
            let before = (!s.is_fine(widest_px)).then(|| ink.role_px2.clone());
            out.push(take_pieces(ink, MaskKind::Tone, &runs_of, s.dots.iter().map(|d| dots[*d].1)));
            if let Some(before) = before {
                ink.toned_px2.iter_mut().zip(before).zip(&ink.role_px2).for_each(|((toned, before), left)| *toned += before - left);
            }
            if s.is_fine(widest_px) {
                toned.light(s, |d| dots[d].0);
            }
        }
        out.extend(letters.iter().map(|row| take_pieces(ink, MaskKind::Lettering, &runs_of, row.iter().copied())));
    }
    for s in dark.iter().filter(|s| s.is_fine(widest_px)) {
        out.push(take_about(ink, s, &paper));
        toned.dark(s, |d| paper[d]);
    }
    if !out.is_empty() {
        ink.runs = remaining(ink);
        ink.distance2.fill(0);
        super::distance::measure(ink);
        (pieces, of_run) = pieces::find(ink, &ink.runs);
    }
    if !toned.is_empty() {
        let cut: Vec<bool> = pieces.iter().map(|p| toned.holds(p)).collect();
        let runs: Vec<Run> = ink.runs.iter().zip(&of_run).filter(|(_, p)| cut[**p as usize]).map(|(r, _)| *r).collect();
        grow(ink, TEXTURE, runs.into_iter(), 2, |ink, j| ink.pixels[j].coverage < HALF);
        let mut kept = of_run.iter().map(|p| !cut[*p as usize]);
        ink.runs.retain(|_| kept.next().unwrap_or(true));
        of_run.retain(|p| !cut[*p as usize]);
    }
    Left { masked: out, halves: pieces::halves(&ink.runs, &pieces, &of_run), toned: (!toned.is_empty()).then_some(toned) }
}

/// The screens among the pieces, and their dots with the numbers of their pieces.
fn screens(pieces: &[Piece], widest_px: f64) -> (Vec<Screen>, Vec<(Dot, usize)>) {
    // Letters fill less of theirs.
    let dot = |(i, p): (usize, &Piece)| Some((Dot::of([p.x0, p.x1], [p.y0, p.y1], p.pixels, 2.0 * widest_px, 0.5)?, i));
    let dots: Vec<(Dot, usize)> = pieces.iter().enumerate().filter_map(dot).collect();
    (screen::find(&dots.iter().map(|d| d.0).collect::<Vec<_>>()), dots)
}

/// Neighbours, the straight ones first.
const AROUND: [(isize, isize); 8] = [(-1, 0), (1, 0), (0, -1), (0, 1), (-1, -1), (1, -1), (-1, 1), (1, 1)];

/// Takes a pixel out of its role, into a class of masked ink, and gives its ink in px².
fn take(ink: &mut Ink, i: usize, class: u8) -> f64 {
    let px2 = f64::from(ink.pixels[i].coverage) / 255.0;
    if let Some(sum) = ink.role_px2.get_mut(ink.pixels[i].role as usize) {
        *sum -= px2;
    }
    ink.pixels[i].role = class;
    px2
}

/// Takes the runs and what grows from them by `steps` pixels where `spread` allows, and gives the ink and the box.
fn grow(ink: &mut Ink, class: u8, runs: impl Iterator<Item = Run>, steps: usize, spread: impl Fn(&Ink, usize) -> bool) -> (f64, [u32; 4]) {
    let (w, h) = (ink.width, ink.height);
    let (mut px2, mut bounds) = (0.0, [u32::MAX, u32::MAX, 0, 0]);
    let mut claim = |ink: &mut Ink, i: usize, (x, y): (u32, u32)| {
        bounds = [bounds[0].min(x), bounds[1].min(y), bounds[2].max(x + 1), bounds[3].max(y + 1)];
        px2 += take(ink, i, class);
    };
    // What was taken before stays where it is.
    let mut own: Vec<(usize, usize)> = Vec::new();
    for r in runs {
        let row = r.y as usize * w;
        for x in r.x0..r.x1 {
            let i = row + x as usize;
            if ink.pixels[i].role < TEXTURE {
                claim(ink, i, (x, r.y));
                match own.last_mut() {
                    Some(last) if last.1 == i => last.1 = i + 1,
                    _ => own.push((i, i + 1)),
                }
            }
        }
    }
    // It grows from its border: within, all is taken.
    let pixels = &ink.pixels;
    let open = |i: usize| pixels.get(i).is_some_and(|p| p.role < TEXTURE);
    let edge = |(from, to): (usize, usize)| (from..to).filter(move |i| *i == from || i + 1 == to || open(i.wrapping_sub(w)) || open(i + w));
    let mut front: Vec<u32> = own.into_iter().flat_map(edge).map(|i| i as u32).collect();
    for step in 0..steps {
        // Straight neighbours, and every other time the slanting ones too: it grows as an octagon, near enough a disc.
        let around = if step % 2 == 0 { &AROUND[..4] } else { &AROUND };
        let mut next = Vec::new();
        for &i in &front {
            let (x, y) = (i as usize % w, i as usize / w);
            for (dx, dy) in around {
                let (nx, ny) = (x.wrapping_add_signed(*dx), y.wrapping_add_signed(*dy));
                let j = ny.wrapping_mul(w).wrapping_add(nx);
                if nx < w && ny < h && ink.pixels[j].role < TEXTURE && spread(ink, j) {
                    claim(ink, j, (nx as u32, ny as u32));
                    next.push(j as u32);
                }
            }
        }
        front = next;
    }
    (px2, bounds)
}

fn masked(kind: MaskKind, (ink_px2, b): (f64, [u32; 4])) -> Masked {
    let [x, y, x1, y1] = b.map(f64::from);
    Masked { kind, x, y, width: x1 - x, height: y1 - y, ink_px2 }
}

fn spotted_blacks(ink: &mut Ink, widest_px: f64) -> Vec<Masked> {
    let limit = (widest_px * widest_px).min(65534.0) as u16;
    let mut cores: Vec<Run> = Vec::new();
    for run in &ink.runs {
        let row = run.y as usize * ink.width;
        let mut from = None;
        for x in run.x0..=run.x1 {
            match (x < run.x1 && ink.distance2[row + x as usize] > limit, from) {
                (true, None) => from = Some(x),
                (false, Some(x0)) => {
                    cores.push(Run { x0, x1: x, ..*run });
                    from = None;
                }
                _ => {}
            }
        }
    }
    let (pieces, of_run) = pieces::find(ink, &cores);
    // The core lies inside the black by the widest width: grown by as much, it covers the black and spares its lines.
    let steps = (1.1 * widest_px).ceil() as usize + 1;
    let mut runs: Vec<Vec<Run>> = vec![Vec::new(); pieces.len()];
    cores.into_iter().zip(of_run).for_each(|(r, p)| runs[p as usize].push(r));
    runs.into_iter().map(|core| masked(MaskKind::SpottedBlack, grow(ink, MASKED, core.into_iter(), steps, |_, _| true))).collect()
}

fn take_pieces(ink: &mut Ink, kind: MaskKind, runs_of: &[Vec<u32>], members: impl Iterator<Item = usize>) -> Masked {
    // In the picture's order, as they stand in it.
    let mut of: Vec<u32> = members.flat_map(|m| runs_of[m].iter().copied()).collect();
    of.sort_unstable();
    let runs: Vec<Run> = of.into_iter().map(|r| ink.runs[r as usize]).collect();
    // The faint pixels about a piece are its edge; what is in the mask belongs to another.
    masked(kind, grow(ink, TEXTURE, runs.into_iter(), 2, |ink, j| ink.pixels[j].coverage < HALF))
}

/// Takes the ink about a screen's dots of paper, as far as it is of the same screen, and a little beyond: its last cells are open.
fn take_about(ink: &mut Ink, screen: &Screen, paper: &[Dot]) -> Masked {
    let reach = tone::reach(screen);
    let (mut px2, mut bounds) = (0.0, [u32::MAX, u32::MAX, 0, 0]);
    for (d, pitch) in screen.dots.iter().zip(&screen.pitch) {
        let ((x, y), r) = (paper[*d].middle, reach * pitch + 1.0);
        let rows = (y - r).max(0.0) as usize..((y + r) as usize + 1).min(ink.height);
        for row in rows {
            let half = (r * r - (row as f64 + 0.5 - y).powi(2)).max(0.0).sqrt();
            for column in (x - half).max(0.0) as usize..((x + half) as usize + 1).min(ink.width) {
                let i = row * ink.width + column;
                if ink.pixels[i].role < TEXTURE {
                    bounds = [bounds[0].min(column as u32), bounds[1].min(row as u32), bounds[2].max(column as u32 + 1), bounds[3].max(row as u32 + 1)];
                    px2 += take(ink, i, TEXTURE);
                }
            }
        }
    }
    // Where all of it is another mask's already there is nothing left.
    masked(MaskKind::Tone, (px2, if px2 > 0.0 { bounds } else { [0; 4] }))
}

fn remaining(ink: &Ink) -> Vec<Run> {
    let mut out: Vec<Run> = Vec::with_capacity(ink.runs.len());
    for run in &ink.runs {
        let row = run.y as usize * ink.width;
        let mut from = None;
        for x in run.x0..=run.x1 {
            let i = row + x as usize;
            let inside = x < run.x1 && ink.pixels[i].role == run.role && ink.pixels[i].coverage >= HALF;
            match (inside, from) {
                (true, None) => from = Some(x),
                (false, Some(x0)) => {
                    out.push(Run { x0, x1: x, ..*run });
                    from = None;
                }
                _ => {}
            }
        }
    }
    out
}
