//! Ink that is no line: spotted blacks, tone and lettering. It is masked and shown, not weighed.
//!
//! Spotted black: an inscribed width over twice the widest role's (methods.md, section 5). Tone-like: dots of one size, each
//! with three of its like about it, a dozen or more together. Lettering-like: five or more compact pieces of about one
//! height side by side in a row, winding as letters do and not all alike. The last two are common practice, no source.

use std::collections::HashMap;

use petgraph::unionfind::UnionFind;

use super::{
    MaskKind, Masked,
    ink::{HALF, Ink, MASKED, Run, TEXTURE},
    pieces::{self, Piece},
};

/// Masks what is no line and says what and where; the distances of what is left are measured anew. What is left is given
/// in two halves of whole pieces, about as heavy as one another.
pub fn mask(ink: &mut Ink, widest_px: f64) -> (Vec<Masked>, [Vec<Run>; 2]) {
    let mut out = if widest_px > 0.0 { spotted_blacks(ink, widest_px) } else { Vec::new() };
    let (mut pieces, mut of_run) = pieces::find(ink, &ink.runs);
    let groups = [(MaskKind::Tone, tone(&pieces, widest_px)), (MaskKind::Lettering, lettering(&pieces, ink.height))];
    let groups: Vec<(MaskKind, Vec<usize>)> = groups.into_iter().flat_map(|(k, groups)| groups.into_iter().map(move |g| (k, g))).collect();
    if !groups.is_empty() {
        let mut runs_of: Vec<Vec<u32>> = vec![Vec::new(); pieces.len()];
        of_run.iter().enumerate().for_each(|(run, piece)| runs_of[*piece as usize].push(run as u32));
        out.extend(groups.iter().map(|(kind, members)| take_pieces(ink, *kind, &runs_of, members)));
    }
    if !out.is_empty() {
        ink.runs = remaining(ink);
        ink.distance2.fill(0);
        super::distance::measure(ink);
        (pieces, of_run) = pieces::find(ink, &ink.runs);
    }
    (out, pieces::halves(&ink.runs, &pieces, &of_run))
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

fn take_pieces(ink: &mut Ink, kind: MaskKind, runs_of: &[Vec<u32>], members: &[usize]) -> Masked {
    // In the picture's order, as they stand in it.
    let mut of: Vec<u32> = members.iter().flat_map(|m| runs_of[*m].iter().copied()).collect();
    of.sort_unstable();
    let runs: Vec<Run> = of.into_iter().map(|r| ink.runs[r as usize]).collect();
    // The faint pixels about a piece are its edge; what is in the mask belongs to another.
    let before = ink.role_px2.clone();
    let out = masked(kind, grow(ink, TEXTURE, runs.into_iter(), 2, |ink, j| ink.pixels[j].coverage < HALF));
    if kind == MaskKind::Tone {
        for ((toned, before), left) in ink.toned_px2.iter_mut().zip(before).zip(&ink.role_px2) {
            *toned += before - left;
        }
    }
    out
}

/// Pieces by the cells that they lie in; cells are as large as the farthest that a piece looks.
struct Cells {
    side: f64,
    cells: HashMap<(i64, i64), Vec<usize>>,
}

impl Cells {
    fn new(side: f64, places: &[(f64, f64)]) -> Self {
        let mut out = Self { side: side.max(1.0), cells: HashMap::new() };
        for (k, p) in places.iter().enumerate() {
            let cell = out.cell(*p);
            out.cells.entry(cell).or_default().push(k);
        }
        out
    }

    fn cell(&self, p: (f64, f64)) -> (i64, i64) {
        ((p.0 / self.side).floor() as i64, (p.1 / self.side).floor() as i64)
    }

    /// All that may lie within a side's length of a place, in their order.
    fn around(&self, p: (f64, f64)) -> Vec<usize> {
        let (x, y) = self.cell(p);
        let cells = (x - 1..=x + 1).flat_map(|x| (y - 1..=y + 1).map(move |y| (x, y)));
        let mut out: Vec<usize> = cells.filter_map(|c| self.cells.get(&c)).flatten().copied().collect();
        out.sort_unstable();
        out
    }
}

/// Groups of pieces that are linked to one another; none is linked to one whose place is more than the farthest `near` away to the side
/// or up or down.
fn grouped(candidates: &[usize], linked: impl Fn(usize, usize) -> bool, near: impl Fn(usize) -> f64, place: impl Fn(usize) -> (f64, f64)) -> Vec<Vec<usize>> {
    let mut sorted = candidates.to_vec();
    sorted.sort_by(|a, b| place(*a).0.total_cmp(&place(*b).0).then(a.cmp(b)));
    let reach = sorted.iter().map(|&i| near(i)).fold(0.0, f64::max);
    let places: Vec<(f64, f64)> = sorted.iter().map(|&i| place(i)).collect();
    let cells = Cells::new(reach, &places);
    let mut sets = UnionFind::<usize>::new(sorted.len());
    for i in 0..sorted.len() {
        for j in cells.around(places[i]).into_iter().filter(|j| *j > i && places[*j].0 - places[i].0 <= reach) {
            if linked(sorted[i], sorted[j]) {
                sets.union(i, j);
            }
        }
    }
    // In the order of their first pieces.
    let mut number: HashMap<usize, usize> = HashMap::new();
    let mut groups: Vec<Vec<usize>> = Vec::new();
    for (set, &piece) in sets.into_labeling().into_iter().zip(&sorted) {
        let next = groups.len();
        let k = *number.entry(set).or_insert(next);
        if k == next {
            groups.push(Vec::new());
        }
        groups[k].push(piece);
    }
    groups
}

/// Dots of a screen.
fn tone(pieces: &[Piece], widest_px: f64) -> Vec<Vec<usize>> {
    let size = |p: &Piece| p.width().max(p.height());
    let dots: Vec<usize> = (0..pieces.len())
        .filter(|&i| {
            let p = &pieces[i];
            size(p) <= 2.0 * widest_px && size(p) < 2.0 * p.width().min(p.height()) && f64::from(p.pixels) > 0.5 * p.width() * p.height()
        })
        .collect();
    if dots.len() < 12 {
        return Vec::new();
    }
    let apart = |i: usize, j: usize| {
        let (a, b) = (pieces[i].middle(), pieces[j].middle());
        (a.0 - b.0).hypot(a.1 - b.1)
    };
    let alike = |i: usize, j: usize| {
        let (a, b) = (f64::from(pieces[i].pixels), f64::from(pieces[j].pixels));
        a < 2.0 * b && b < 2.0 * a
    };
    let x = |i: usize| pieces[i].middle().0;
    let mut sorted = dots;
    sorted.sort_by(|a, b| x(*a).total_cmp(&x(*b)).then(a.cmp(b)));
    // How far the nearest dot of the same size is, and whether three stand about as far.
    let mut pitch = vec![0.0; pieces.len()];
    let places: Vec<(f64, f64)> = sorted.iter().map(|&i| pieces[i].middle()).collect();
    let cells = Cells::new(4.0 * sorted.iter().map(|&i| size(&pieces[i])).fold(0.0, f64::max), &places);
    for (k, &i) in sorted.iter().enumerate() {
        let reach = 4.0 * size(&pieces[i]);
        let others = cells.around(places[k]).into_iter().filter(|j| *j != k).map(|j| sorted[j]);
        let mut near: Vec<f64> = others.filter(|j| alike(i, *j)).map(|j| apart(i, j)).filter(|d| *d <= reach).collect();
        near.sort_by(f64::total_cmp);
        if near.len() >= 3 && near[2] <= 1.6 * near[0] {
            pitch[i] = near[0];
        }
    }
    // A screen's corner has its third neighbour farther than the rest: what is alike and as near to the screen as its own dots are is of it.
    let of_screen = pitch.clone();
    for (k, &i) in sorted.iter().enumerate().filter(|(_, i)| of_screen[**i] == 0.0) {
        let near = cells.around(places[k]).into_iter().map(|j| sorted[j]).filter(|&j| alike(i, j) && apart(i, j) <= 1.6 * of_screen[j]);
        pitch[i] = near.map(|j| of_screen[j]).fold(0.0, f64::max);
    }
    let screen: Vec<usize> = sorted.into_iter().filter(|&i| pitch[i] > 0.0).collect();
    let mut groups = grouped(&screen, |i, j| alike(i, j) && apart(i, j) <= 1.6 * pitch[i].min(pitch[j]), |i| 1.6 * pitch[i], |i| pieces[i].middle());
    groups.retain(|g| g.len() >= 12);
    groups
}

/// Rows of letters.
fn lettering(pieces: &[Piece], page_height: usize) -> Vec<Vec<usize>> {
    // A straight stroke's area is its width by its length: a letter winds, and has more.
    let winding = |p: &Piece| f64::from(p.pixels) / (p.inscribed().max(1.0) * p.width().hypot(p.height()));
    let letters: Vec<usize> = (0..pieces.len())
        .filter(|&i| {
            let p = &pieces[i];
            let (long, stroke) = (p.width().max(p.height()), p.inscribed().max(1.0));
            (3.0..=20.0).contains(&(long / stroke)) && p.height() >= 6.0 && p.width() < 3.0 * p.height() && p.height() < page_height as f64 / 8.0
        })
        .collect();
    let linked = |i: usize, j: usize| {
        let (a, b) = (&pieces[i], &pieces[j]);
        let (low, high) = (a.height().min(b.height()), a.height().max(b.height()));
        let shared = f64::from(a.y1.min(b.y1)) - f64::from(a.y0.max(b.y0));
        let gap = f64::from(a.x0.max(b.x0)) - f64::from(a.x1.min(b.x1));
        high < 2.0 * low && shared > 0.6 * low && gap < 0.8 * high && gap > -0.3 * low
    };
    let mut rows = grouped(&letters, linked, |i| pieces[i].width() + 2.0 * pieces[i].height(), |i| (f64::from(pieces[i].x0), f64::from(pieces[i].y0)));
    rows.retain(|g| {
        let wound: Vec<f64> = g.iter().map(|&i| winding(&pieces[i])).collect();
        let widths: Vec<f64> = g.iter().map(|&i| pieces[i].width()).collect();
        let many = wound.iter().filter(|w| **w > 1.3).count();
        // Strokes of hatching stand in rows too, but straight; a row of rivets, but all alike.
        g.len() >= 5 && 2 * many >= g.len() && crate::stats::mean_sd(&widths).is_some_and(|(m, sd)| sd > 0.12 * m)
    });
    rows
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
