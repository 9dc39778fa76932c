//! What lies beside the sheet in a scan or a photo: a lid left open, a table.
//!
//! How: in blocks of [`BLOCK`] px, what is much darker than the paper and joined to the picture's border; it must hold a part of the border
//! and be broader than two blocks, which a line that runs off the sheet is not; what of it is a black that bleeds off is the sheet's own
//! (`bleed`). Limits: a table as light as the paper is not seen. Common practice, no source.

use super::bleed::{self, Blocks};

const BLOCK: usize = 8;
/// Blocks darker than this share of the paper are no paper.
const DARK: f32 = 0.55;
/// What lies beside holds so much of the picture's border, and of its blocks, at least.
const BORDER: f64 = 0.12;
const SHARE: f64 = 0.02;
/// A side of the picture is held by more than this of it.
const SIDE: f64 = 0.6;
/// So many blocks about it are its edge and its shadow.
const EDGE: usize = 2;

/// The blocks of a picture that lie beside its sheet.
pub struct Beside {
    across: usize,
    /// One a block.
    blocks: Vec<bool>,
    /// It lies on all four sides: the sheet was seen from afar.
    pub all_round: bool,
}

impl Beside {
    /// What lies beside the sheet, with the sheet's edge; none where the sheet fills the picture. In: linear light row by row.
    pub fn find(light: impl Fn(usize) -> f32, w: usize, h: usize) -> Option<Self> {
        let (across, down) = (w.div_ceil(BLOCK), h.div_ceil(BLOCK));
        if across < 8 || down < 8 {
            return None;
        }
        let mean = |b: usize| {
            let (x0, y0) = (b % across * BLOCK, b / across * BLOCK);
            let (x1, y1) = ((x0 + BLOCK).min(w), (y0 + BLOCK).min(h));
            let sum: f32 = (y0..y1).flat_map(|y| (x0..x1).map(move |x| y * w + x)).map(&light).sum();
            sum / ((x1 - x0) * (y1 - y0)) as f32
        };
        let means: Vec<f32> = (0..across * down).map(mean).collect();
        // The paper: what most of the light half is.
        let mut sorted = means.clone();
        sorted.sort_by(f32::total_cmp);
        let light_end = sorted[sorted.len() * 19 / 20];
        let from = sorted.partition_point(|v| *v < 0.6 * light_end);
        let paper = sorted[from + (sorted.len() - from) / 2];
        let dark = |b: usize| means[b] < DARK * paper;
        let on_border = |b: usize| b.is_multiple_of(across) || b % across == across - 1 || b / across == 0 || b / across == down - 1;
        let grid = Blocks { across, down };
        let mut blocks = vec![false; means.len()];
        for piece in grid.pieces(dark).iter().filter(|p| p.iter().any(|b| on_border(*b))) {
            piece.iter().for_each(|b| blocks[*b] = true);
        }
        // What is no broader than two blocks is a line that runs into it.
        let about = |b: usize| {
            let (x, y) = (b % across, b / across);
            (y.saturating_sub(1)..(y + 2).min(down)).flat_map(move |v| (x.saturating_sub(1)..(x + 2).min(across)).map(move |u| v * across + u))
        };
        let core: Vec<bool> = (0..blocks.len()).map(|b| about(b).all(|n| blocks[n])).collect();
        let grown = |of: &[bool]| (0..of.len()).map(|b| about(b).any(|n| of[n])).collect::<Vec<bool>>();
        blocks = grown(&core);
        let side = |of: &mut dyn Iterator<Item = usize>| {
            let (held, all) = of.fold((0, 0), |(held, all), b| (held + usize::from(blocks[b]), all + 1));
            held as f64 > SIDE * f64::from(all)
        };
        let last = (down - 1) * across;
        let all_round = side(&mut (0..across))
            && side(&mut (last..last + across))
            && side(&mut (0..down).map(|y| y * across))
            && side(&mut (0..down).map(|y| y * across + across - 1));
        let enough = |of: &[bool]| {
            let held = (0..of.len()).filter(|b| on_border(*b) && of[*b]).count() as f64 / (2 * (across + down) - 4) as f64;
            held >= BORDER && of.iter().filter(|b| **b).count() as f64 >= SHARE * of.len() as f64
        };
        if !enough(&blocks) {
            return None;
        }
        blocks = bleed::beside(&grid, &blocks, all_round, |[x, y]| {
            let px = |v: f64, end: usize| ((v * BLOCK as f64).max(0.0) as usize).min(end - 1);
            light(px(y, h) * w + px(x, w)) < DARK * paper
        });
        if !enough(&blocks) {
            return None;
        }
        for _ in 0..EDGE {
            blocks = grown(&blocks);
        }
        Some(Self { across, blocks, all_round })
    }

    /// Whether a pixel lies beside the sheet.
    pub fn holds(&self, x: usize, y: usize) -> bool {
        self.blocks[y / BLOCK * self.across + x / BLOCK]
    }
}
