//! The exact Euclidean distance of every mask pixel to the nearest pixel outside its ink, run by run.
//!
//! Source: P. F. Felzenszwalb and D. P. Huttenlocher, "Distance Transforms of Sampled Functions", Theory of Computing 8
//! (2012). A run ends in pixels of distance 0, so no column beyond it can be nearer: each run's lower envelope is whole
//! on its own.

use rayon::prelude::*;

use super::ink::Ink;

/// Fills `distance2` on the mask.
pub fn measure(ink: &mut Ink) {
    let w = ink.width;
    // Vertical distances: downward, then upward, on the runs alone.
    for run in &ink.runs {
        let row = run.y as usize * w;
        for x in run.x0 as usize..run.x1 as usize {
            // Where there is no ink the plane is 0: only another role's must be told apart.
            let above = if run.y > 0 && ink.pixels[row - w + x].role == run.role { ink.distance2[row - w + x] } else { 0 };
            ink.distance2[row + x] = (above + 1).min(255);
        }
    }
    for run in ink.runs.iter().rev() {
        let row = run.y as usize * w;
        for x in run.x0 as usize..run.x1 as usize {
            let below = if (run.y as usize) < ink.height - 1 && ink.pixels[row + w + x].role == run.role { ink.distance2[row + w + x] } else { 0 };
            let i = row + x;
            ink.distance2[i] = ink.distance2[i].min(below + 1);
        }
    }
    // Along the rows each run is on its own.
    let runs = &ink.runs;
    ink.distance2.par_chunks_mut(ROWS * w).enumerate().for_each(|(band, plane)| {
        let first = (band * ROWS) as u32;
        let (from, to) = (runs.partition_point(|r| r.y < first), runs.partition_point(|r| r.y < first + ROWS as u32));
        let mut rooms = Rooms::default();
        for run in &runs[from..to] {
            let start = (run.y - first) as usize * w + run.x0 as usize;
            along(&mut plane[start..start + (run.x1 - run.x0) as usize], &mut rooms);
        }
    });
}

/// Rows that one thread takes at a time.
const ROWS: usize = 64;

/// What is worked in, run after run.
#[derive(Default)]
struct Rooms {
    column: Vec<u32>,
    f: Vec<f32>,
    places: Vec<usize>,
    borders: Vec<f32>,
}

/// From vertical distances to squared distances along one run.
fn along(run: &mut [u16], rooms: &mut Rooms) {
    let column = &mut rooms.column;
    // Vertical squares, with the paper on both ends of the run as distance 0.
    column.clear();
    column.push(0);
    column.extend(run.iter().map(|&g| u32::from(g) * u32::from(g)));
    column.push(0);
    if run.len() <= SHORT {
        for (x, d) in (1..).zip(run) {
            *d = nearest(column, x).min(65535) as u16;
        }
    } else {
        long_run(rooms, run);
    }
}

/// Runs up to this long are searched outward from each pixel: lines are thin, and the search ends within their width.
const SHORT: usize = 64;

fn nearest(column: &[u32], x: usize) -> u32 {
    let mut best = column[x];
    let mut d = 1usize;
    while (d * d) as u32 <= best {
        let square = (d * d) as u32;
        if d <= x {
            best = best.min(square + column[x - d]);
        }
        if x + d < column.len() {
            best = best.min(square + column[x + d]);
        }
        d += 1;
    }
    best
}

/// The lower envelope of parabolas, for the inside of blacks.
fn long_run(Rooms { column, f, places: v, borders: z }: &mut Rooms, out: &mut [u16]) {
    f.clear();
    f.extend(column.iter().map(|v| *v as f32));
    envelope(f, v, z);
    let mut k = 0;
    for (x, o) in (1..).zip(out) {
        while z[k + 1] < x as f32 {
            k += 1;
        }
        let d = x as f32 - v[k] as f32;
        *o = (d * d + f[v[k]]).min(65535.0) as u16;
    }
}

/// The lower envelope of the parabolas rooted at `f`: their places `v` and the borders `z` between them.
fn envelope(f: &[f32], v: &mut Vec<usize>, z: &mut Vec<f32>) {
    v.clear();
    z.clear();
    v.push(0);
    z.extend([f32::NEG_INFINITY, f32::INFINITY]);
    for q in 1..f.len() {
        loop {
            let p = v[v.len() - 1];
            let s = ((f[q] + (q * q) as f32) - (f[p] + (p * p) as f32)) / (2.0 * (q - p) as f32);
            let k = v.len() - 1;
            if s <= z[k] && k > 0 {
                v.pop();
                z.pop();
            } else {
                z[k + 1] = s;
                v.push(q);
                z.push(f32::INFINITY);
                break;
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::super::ink::Pixel;
    use super::super::ink::Run;
    use super::super::ink::blank;

    /// SciPy's exact distance transform; values by tests/reference/make.py.
    #[test]
    fn distances_are_scipys() {
        let golden: serde_json::Value = serde_json::from_str(include_str!("../../../../tests/reference/edt.json")).expect("golden values");
        let row = |k: &str| -> Vec<u64> { golden[k].as_array().expect("a list").iter().filter_map(|v| v.as_u64()).collect() };
        let (mask, squared) = (row("mask"), row("squared"));
        let mut ink = blank(56, 40);
        for (y, line) in mask.chunks(56).enumerate() {
            let mut x = 0;
            while x < 56 {
                let x0 = x;
                while x < 56 && line[x] == 1 {
                    ink.pixels[y * 56 + x] = Pixel { coverage: 255, role: 0 };
                    x += 1;
                }
                if x > x0 {
                    ink.runs.push(Run { y: y as u32, x0: x0 as u32, x1: x as u32, role: 0 });
                }
                x += 1;
            }
        }
        super::measure(&mut ink);
        let ours: Vec<u64> = ink.distance2.iter().map(|d| u64::from(*d)).collect();
        assert_eq!(ours, squared);
    }
}
