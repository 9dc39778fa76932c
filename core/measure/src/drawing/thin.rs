//! The thinned medial axis: mask pixels are taken away in the order of their distance while the ink's topology holds.

use super::classify::Ink;

/// A one-pixel skeleton: role + 1 at its pixels, 0 elsewhere, and the list of its pixels in reading order.
pub struct Skeleton {
    pub mark: Vec<u8>,
    pub pixels: Vec<u32>,
}

/// Neighbours clockwise from the upper left.
pub const AROUND: [(isize, isize); 8] = [(-1, -1), (0, -1), (1, -1), (1, 0), (1, 1), (0, 1), (-1, 1), (-1, 0)];

/// Bit k is set where neighbour k of pixel `i` has the same mark.
pub fn neighbours(mark: &[u8], w: usize, h: usize, i: usize) -> u8 {
    let own = mark[i];
    let (x, y) = (i % w, i / w);
    if x > 0 && y > 0 && x + 1 < w && y + 1 < h {
        let (a, b, c) = (i - w, i, i + w);
        return u8::from(mark[a - 1] == own)
            | u8::from(mark[a] == own) << 1
            | u8::from(mark[a + 1] == own) << 2
            | u8::from(mark[b + 1] == own) << 3
            | u8::from(mark[c + 1] == own) << 4
            | u8::from(mark[c] == own) << 5
            | u8::from(mark[c - 1] == own) << 6
            | u8::from(mark[b - 1] == own) << 7;
    }
    AROUND.iter().enumerate().fold(0, |bits, (k, (dx, dy))| {
        let (nx, ny) = (x.wrapping_add_signed(*dx), y.wrapping_add_signed(*dy));
        if nx < w && ny < h && mark[ny * w + nx] == own { bits | 1 << k } else { bits }
    })
}

/// Whether a pixel with these neighbours can go: it is simple (Yokoi's number for 8-connected ink is one) and no end.
fn removable(bits: u8) -> bool {
    let clear = |k: u32| bits & (1 << (k % 8)) == 0;
    let yokoi: u32 = [1, 3, 5, 7].iter().map(|&k| u32::from(clear(k) && !(clear(k + 1) && clear(k + 2)))).sum();
    yokoi == 1 && bits.count_ones() >= 2
}

/// Thins the mask on a blank plane.
pub fn thin(ink: &Ink, mut mark: Vec<u8>) -> Skeleton {
    let (w, h) = (ink.width, ink.height);
    let mut count = 0;
    for run in &ink.runs {
        let row = run.y as usize * w;
        mark[row + run.x0 as usize..row + run.x1 as usize].fill(run.role + 1);
        count += (run.x1 - run.x0) as usize;
    }
    let table: [bool; 256] = std::array::from_fn(|b| removable(b as u8));
    let mut order = by_distance(ink, count);
    loop {
        let before = order.len();
        order.retain(|&i| {
            let i = i as usize;
            let gone = table[neighbours(&mark, w, h, i) as usize];
            if gone {
                mark[i] = 0;
            }
            !gone
        });
        if order.len() == before {
            break;
        }
    }
    order.sort_unstable();
    Skeleton { mark, pixels: order }
}

/// Mask pixels by rising squared distance (a counting sort).
fn by_distance(ink: &Ink, count: usize) -> Vec<u32> {
    let range = |r: &super::classify::Run| {
        let row = r.y as usize * ink.width;
        row + r.x0 as usize..row + r.x1 as usize
    };
    let top = ink.runs.iter().flat_map(|r| &ink.distance2[range(r)]).max().copied().unwrap_or(0) as usize;
    let mut start = vec![0u32; top + 2];
    for r in &ink.runs {
        for d in &ink.distance2[range(r)] {
            start[*d as usize + 1] += 1;
        }
    }
    for d in 1..start.len() {
        start[d] += start[d - 1];
    }
    let mut out = vec![0u32; count];
    for r in &ink.runs {
        for i in range(r) {
            let slot = &mut start[ink.distance2[i] as usize];
            out[*slot as usize] = i as u32;
            *slot += 1;
        }
    }
    out
}
