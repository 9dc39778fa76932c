//! A vector drawing's pixels: drawn finer than they are, in bands, and averaged, so that no more is held than the picture and a band a thread.
//!
//! How: resvg draws each band of rows some whole number of times as fine along both sides; a pixel is the mean of its own, premultiplied. Limits:
//! what is drawn with a filter, which may reach from one band into another, is drawn whole, and no finer than the picture where it is large.

use rayon::prelude::*;
use resvg::{tiny_skia, usvg};

use crate::images::Rgba;

/// As fine as this along both sides where it costs no more than this in all, px.
const FINE: usize = 4;
const FINE_PX: usize = 140_000_000;
/// A band has about so many px.
const BAND_PX: usize = 2_000_000;

/// What a tree asks of drawing it.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Asks {
    /// How many pictures are held at once: groups that are drawn apart and then laid down (for opacity, a mask, a filter) lie in one another.
    pub apart: u64,
    /// Whether anything has a filter, which may reach from one band into another.
    pub whole: bool,
}

impl Asks {
    pub fn new(group: &usvg::Group) -> Self {
        let own = u64::from(group.should_isolate())
            + 2 * u64::from(group.mask().is_some())
            + u64::from(group.clip_path().is_some())
            + 3 * group.filters().len() as u64;
        let within = group.children().iter().filter_map(|n| if let usvg::Node::Group(g) = n { Some(Self::new(g)) } else { None });
        let none = Self { apart: 0, whole: !group.filters().is_empty() };
        let below = within.fold(none, |a, b| Self { apart: a.apart.max(b.apart), whole: a.whole || b.whole });
        Self { apart: own + below.apart, ..below }
    }
}

/// How many times finer a picture of so many px is drawn, along both sides, and in how many rows at a time.
fn bands(width: usize, height: usize, scale: f64, asks: Asks) -> (usize, usize) {
    let (width, height) = (width.max(1), height.max(1));
    // What is drawn apart is drawn again for each.
    let most = if asks.whole { 4 * BAND_PX } else { FINE_PX } / (1 + asks.apart as usize);
    let good = (FINE as f64 / scale.max(1.0)).floor() as usize;
    let fine = (1..=good.max(1)).rev().find(|f| width * height * f * f <= most).unwrap_or(1);
    let rows = if asks.whole { height } else { (BAND_PX / (width * fine * fine * (1 + asks.apart as usize))).clamp(1, height) };
    (fine, rows)
}

/// How many px are drawn, all in all.
pub(crate) fn drawn_pixels(width: usize, height: usize, scale: f64, asks: Asks) -> u64 {
    let (fine, _) = bands(width, height, scale, asks);
    (width * height * fine * fine) as u64
}

/// A tree drawn at `scale` px for one of its own; none where a side is 0 or memory is short.
pub(crate) fn draw(tree: &usvg::Tree, width: usize, height: usize, scale: f64) -> Option<Rgba> {
    let (fine, rows) = bands(width, height, scale, Asks::new(tree.root()));
    if width == 0 || height == 0 {
        return None;
    }
    let mut data = vec![0u8; 4 * width * height];
    let drawn = data.par_chunks_mut((4 * width * rows).max(4)).enumerate().map(|(k, out)| {
        let mut map = tiny_skia::Pixmap::new((width * fine) as u32, (out.len() / (4 * width) * fine) as u32)?;
        let size = (scale * fine as f64) as f32;
        resvg::render(tree, tiny_skia::Transform::from_row(size, 0.0, 0.0, size, 0.0, -((k * rows * fine) as f32)), &mut map.as_mut());
        for (row, fine_rows) in out.chunks_exact_mut(4 * width).zip(map.data().chunks_exact(4 * width * fine * fine)) {
            average(row, fine_rows, fine);
        }
        Some(())
    });
    drawn.collect::<Option<Vec<()>>>()?;
    Some(Rgba { width, height, data })
}

/// A row of pixels, straight, from `fine` rows of as many times as many, premultiplied.
fn average(row: &mut [u8], fine_rows: &[u8], fine: usize) {
    let (pixels, all) = (row.as_chunks_mut::<4>().0, fine_rows.as_chunks::<4>().0);
    let (width, n) = (pixels.len() * fine, (fine * fine) as u32);
    for (x, p) in pixels.iter_mut().enumerate() {
        let mut sum = [0u32; 4];
        for some in all.chunks_exact(width).map(|r| &r[x * fine..(x + 1) * fine]) {
            some.iter().for_each(|q| sum.iter_mut().zip(q).for_each(|(s, v)| *s += u32::from(*v)));
        }
        // Straight from the sums: rounded first, a faint edge would lose its colour.
        let a = sum[3];
        *p = if a == 0 { [0; 4] } else { [sum[0], sum[1], sum[2], 0].map(|c| ((c * 255 + a / 2) / a).min(255) as u8) };
        p[3] = ((a + n / 2) / n) as u8;
    }
}

#[cfg(test)]
mod tests {
    use super::average;

    #[test]
    fn a_faint_edge_keeps_its_colour() {
        // One of sixteen px of a colour: a sixteenth of it, as opaque.
        let mut fine = [0u8; 64];
        fine[..4].copy_from_slice(&[200, 100, 20, 255]);
        let mut row = [0u8; 4];
        average(&mut row, &fine, 4);
        assert_eq!(row, [200, 100, 20, 16]);
    }
}
