//! The paper in a photo laid flat: what of the picture is one light surface, without the card, the table and what the photo does not show.
//!
//! How: blocks of two millimetres by their lighter pixels, so that a line is none; grown over neighbours of nearly the same light; the one with
//! most light is the paper, what it encloses is its own, and its rim is left out. Limits: a table as light as the paper is taken with it.
//! Common practice, no source.

use crate::scan::Scan;

const BLOCK_MM: f64 = 2.0;
/// Light from a block to the next changes by no more than this.
const SMOOTH: f32 = 0.9;
/// What is left out about a card: its own shadow.
pub(super) const SHADOW_MM: f64 = 3.0;

pub(super) struct Page {
    block: usize,
    across: usize,
    paper: Vec<bool>,
    /// Its median light.
    pub light: f32,
}

impl Page {
    /// In: the flat picture, which of its places the photo shows, and which the card lies on (with its shadow).
    pub fn find(flat: &Scan, shown: &(dyn Fn([f64; 2]) -> bool + Sync), carded: &(dyn Fn([f64; 2]) -> bool + Sync)) -> Option<Self> {
        let block = ((BLOCK_MM * flat.dpi / 25.4).round() as usize).max(2);
        let (across, down) = (flat.width / block, flat.height / block);
        let corner = |i: usize, u: f64, v: f64| [((i % across) as f64 + u) * block as f64, ((i / across) as f64 + v) * block as f64];
        let of = |i: usize| {
            let corners = [corner(i, 0.0, 0.0), corner(i, 1.0, 0.0), corner(i, 0.0, 1.0), corner(i, 1.0, 1.0)];
            if !corners.iter().all(|c| shown(*c)) || corners.iter().any(|c| carded(*c)) {
                return None;
            }
            let (x, y) = (i % across * block, i / across * block);
            let mut v: Vec<f32> = (y..y + block).step_by(2).flat_map(|row| flat.data[row * flat.width + x..][..block].iter().step_by(2).copied()).collect();
            let k = (v.len() * 17 / 20).min(v.len() - 1);
            Some(*v.select_nth_unstable_by(k, f32::total_cmp).1)
        };
        let light: Vec<Option<f32>> = (0..across * down).map(of).collect();
        let mut label = vec![0u32; across * down];
        let mut best = (0.0f32, 0u32);
        for start in 0..across * down {
            if label[start] != 0 || light[start].is_none() {
                continue;
            }
            let name = start as u32 + 1;
            let (mut stack, mut sum) = (vec![start], 0.0);
            label[start] = name;
            while let Some(i) = stack.pop() {
                let here = light[i].unwrap_or(0.0);
                sum += here;
                for j in beside(i, across, down) {
                    if let (0, Some(l)) = (label[j], light[j])
                        && l.min(here) > SMOOTH * l.max(here)
                    {
                        label[j] = name;
                        stack.push(j);
                    }
                }
            }
            best = if sum > best.0 { (sum, name) } else { best };
        }
        let mut paper: Vec<bool> = label.iter().map(|l| *l == best.1 && best.1 != 0).collect();
        let mut lights: Vec<f32> = paper.iter().zip(&light).filter(|(p, _)| **p).filter_map(|(_, l)| *l).collect();
        if lights.len() < 50 {
            return None;
        }
        let middle = lights.len() / 2;
        let light_of = *lights.select_nth_unstable_by(middle, f32::total_cmp).1;
        enclosed(&mut paper, across, down, |i| light[i].is_some());
        // The rim: the paper's own edge and its shadow.
        let kept = (0..paper.len()).map(|i| paper[i] && beside(i, across, down).count() == 4 && beside(i, across, down).all(|j| paper[j])).collect();
        Some(Self { block, across, paper: kept, light: light_of })
    }

    pub fn holds(&self, x: f64, y: f64) -> bool {
        let (i, j) = ((x.max(0.0) as usize) / self.block, (y.max(0.0) as usize) / self.block);
        i < self.across && self.paper.get(j * self.across + i).copied().unwrap_or(false)
    }
}

fn beside(i: usize, across: usize, down: usize) -> impl Iterator<Item = usize> {
    let (x, y) = (i % across, i / across);
    [(x.wrapping_sub(1), y), (x + 1, y), (x, y.wrapping_sub(1)), (x, y + 1)]
        .into_iter()
        .filter(move |(a, b)| *a < across && *b < down)
        .map(move |(a, b)| b * across + a)
}

/// What the paper encloses, thick strokes and blots, is its own; not where the card lies, nor what is not shown.
fn enclosed(paper: &mut [bool], across: usize, down: usize, seen: impl Fn(usize) -> bool) {
    let mut open: Vec<bool> = vec![false; paper.len()];
    let rim = |i: usize| i.is_multiple_of(across) || i % across + 1 == across || i / across == 0 || i / across + 1 == down;
    let mut stack: Vec<usize> = (0..paper.len()).filter(|i| !paper[*i] && (rim(*i) || !seen(*i))).collect();
    stack.iter().for_each(|i| open[*i] = true);
    while let Some(i) = stack.pop() {
        for j in beside(i, across, down) {
            if !paper[j] && !open[j] {
                open[j] = true;
                stack.push(j);
            }
        }
    }
    paper.iter_mut().zip(open).for_each(|(p, o)| *p |= !o);
}
