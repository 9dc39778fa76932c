//! Gaps: a line's free end near another end or line that it faces, whose closing would part a region of paper.
//!
//! Closing a gap parts paper exactly where both sides' ink already hangs together some other way (Jordan's curve theorem); the
//! border of the page closes as ink does, since paint stops there.

use std::collections::{BTreeMap, HashMap};

pub use super::plane::Region;
use super::{
    End, Line, Look, RoleLines,
    ink::Pixel,
    necks::necks,
    plane::{Flood, Plane},
    spans::Spans,
};

/// One gap.
#[derive(Debug, Clone, PartialEq)]
pub struct Gap {
    pub role: usize,
    /// Where it opens and what it faces, px.
    pub points: [[f64; 2]; 2],
    /// Paper between the two inks along the closing line, px.
    pub paper_px: f64,
    pub region: Region,
}

/// Cosine of the angle by which an end may look past what it faces: 60°.
const FACING: f64 = 0.5;
/// A region that is no deeper than this, in squares of the opening, is a notch that other ink closes.
const NOTCH: f64 = 2.0;
/// An end that tapers over more widths than this runs out: nothing is meant to be closed there.
const RUNS_OUT: f64 = 3.0;
/// A line of up to so many widths is a stub.
const STUB: f64 = 4.0;
/// Cells of the grid that line places are found by, px.
const CELL: f64 = 16.0;

struct FreeEnd {
    role: usize,
    line: usize,
    /// Index of the end: 0 its start, 1 its end.
    side: usize,
    at: [f64; 2],
    outward: [f64; 2],
    width: f64,
}

/// Regions of all gaps together come to at most so many pages; then what may be gaps is only counted.
const REGION_PAGES: usize = 8;

/// All gaps up to the limit, and how many places that may be some were not looked at.
pub(super) fn find(width: usize, pixels: &[Pixel], ink: &Spans, borders: &[bool], roles: &[RoleLines], look: &Look) -> (Vec<Gap>, u32) {
    if look.gaps_px.iter().all(|g| *g <= 0.0) {
        return (Vec::new(), 0);
    }
    let judged = |role: usize| look.gaps_px.get(role).copied().unwrap_or(0.0);
    let lines: Vec<(usize, &Line)> =
        roles.iter().enumerate().filter(|(r, _)| judged(*r) > 0.0).flat_map(|(r, l)| l.lines.iter().map(move |l| (r, l))).collect();
    let sheet = Plane { width, height: pixels.len() / width.max(1), pixels };
    let tips: Vec<FreeEnd> = lines.iter().enumerate().flat_map(|(k, (role, line))| [0, 1].map(|side| tip(&sheet, *role, k, line, side))).flatten().collect();
    // By octaves of width: among thin places none is looked for as far away as where a wide one could be.
    let mut places: BTreeMap<i32, (f64, Cells<(u32, u32)>)> = BTreeMap::new();
    for (k, (_, line)) in lines.iter().enumerate().filter(|(_, (_, l))| !l.hatching) {
        for (i, p) in line.points.iter().enumerate() {
            let (half, cells) = places.entry(p.width.max(1.0).log2() as i32).or_insert((0.0, Cells(HashMap::new())));
            *half = half.max(0.5 * f64::from(p.width));
            cells.0.entry((cell(f64::from(p.x)), cell(f64::from(p.y)))).or_default().push((k as u32, i as u32));
        }
    }
    let mut tip_grid: HashMap<(i32, i32), Vec<u32>> = HashMap::new();
    for (k, t) in tips.iter().enumerate() {
        tip_grid.entry((cell(t.at[0]), cell(t.at[1]))).or_default().push(k as u32);
    }
    let near_by = NearBy { tips: &tips, lines: &lines, places: places.into_values().collect(), ends: Cells(tip_grid) };
    // Nothing on the sheet is farther away.
    let diagonal = (sheet.width as f64).hypot(sheet.height as f64);
    let mut flood = Flood { seen: vec![0; pixels.len()], run: 0 };
    let mut known: HashMap<(i32, i32), Vec<usize>> = HashMap::new();
    let mut out: Vec<Gap> = Vec::new();
    let (mut held, mut left) = (0, 0);
    for t in &tips {
        let limit = judged(t.role).min(diagonal);
        let Some((to, _)) = near_by.nearest(t, &sheet, limit, look.least_paper_px) else { continue };
        // What does not hang together some other way parts nothing: told before the way between them is looked at closely.
        let parts = |to: [f64; 2]| piece(ink, t.at).zip(piece(ink, to)).is_some_and(|(a, b)| a == b || borders[a as usize] && borders[b as usize]);
        if !parts(to) {
            continue;
        }
        let (from, to, paper_px) = sheet.narrowest(t.at, to, 0.3 * t.width);
        // The same gap is seen from both of its ends.
        let near = |a: [f64; 2], b: [f64; 2]| (a[0] - b[0]).hypot(a[1] - b[1]) < 2.0 + t.width;
        let same = |g: &Gap| near(g.points[1], t.at) && near(g.points[0], to) || near(g.points[0], t.at) && near(g.points[1], to);
        let reach = 2.0 + t.width;
        let cells = (cell(t.at[0] - reach)..=cell(t.at[0] + reach)).flat_map(|x| (cell(t.at[1] - reach)..=cell(t.at[1] + reach)).map(move |y| (x, y)));
        if cells.filter_map(|c| known.get(&c)).flatten().any(|g| same(&out[*g])) {
            continue;
        }
        if !parts(to) {
            continue;
        }
        if held > REGION_PAGES * pixels.len() {
            left += 1;
            continue;
        }
        if let Some(region) = sheet.parted(t.at, to, &mut flood)
            && area(&region) >= look.region_px2.max(NOTCH * paper_px * paper_px)
        {
            held += region.inside.len();
            for end in [from, to] {
                known.entry((cell(end[0]), cell(end[1]))).or_default().push(out.len());
            }
            out.push(Gap { role: t.role, points: [from, to], paper_px, region });
        }
    }
    // Openings that the mask does not see.
    for (role, line) in lines.iter().filter(|(_, l)| !l.hatching) {
        for (from, to, paper_px) in necks(line, middle_width(line), |x, y| sheet.coverage(x, y)) {
            if !(look.least_paper_px..=judged(*role)).contains(&paper_px) || held > REGION_PAGES * pixels.len() {
                continue;
            }
            if let Some(region) = sheet.parted(from, to, &mut flood)
                && area(&region) >= look.region_px2
            {
                held += region.inside.len();
                out.push(Gap { role: *role, points: [from, to], paper_px, region });
            }
        }
    }
    (out, left)
}

fn area(region: &Region) -> f64 {
    region.inside.iter().filter(|i| **i).count() as f64
}

fn middle_width(line: &Line) -> f64 {
    let mut widths: Vec<f32> = line.points.iter().map(|p| p.width).collect();
    widths.sort_by(f32::total_cmp);
    widths.get(widths.len() / 2).map_or(0.0, |w| f64::from(*w))
}

fn tip(sheet: &Plane, role: usize, k: usize, line: &Line, side: usize) -> Option<FreeEnd> {
    if line.closed || line.hatching || line.points.len() < 4 {
        return None;
    }
    let n = line.points.len();
    let at = |i: usize| &line.points[if side == 0 { i } else { n - 1 - i }];
    let width = middle_width(line);
    // Where it points is told behind the cap: the last of a centre line may bend into a corner that the cap's pixels have.
    let behind = |widths: f64| ((widths * width / line.step_px) as usize).clamp(1, n - 1);
    let (a, c, b) = (at(0), at(behind(0.5).min(n - 2)), at(behind(2.0).max(2)));
    let (dx, dy) = (f64::from(c.x - b.x), f64::from(c.y - b.y));
    let len = dx.hypot(dy).max(1e-9);
    let end = FreeEnd { role, line: k, side, at: [f64::from(a.x), f64::from(a.y)], outward: [dx / len, dy / len], width };
    // A line that runs out is no wall.
    let full = (0..n / 2).map(at).find(|p| !p.place.is_hidden()).is_some_and(|p| f64::from(p.width) > 0.8 * width);
    let open = match line.ends[side] {
        End::Free { taper_px, .. } => taper_px <= RUNS_OUT * width,
        // Its own role's ink lies so near beside it that its width cannot be read there: it ends in that, or in the paper before it. A stub that
        // is hardly longer than wide points nowhere.
        End::Joined => line.length_px() > STUB * width && full && a.place.is_hidden() && !line.against[side] && ahead(sheet, &end) < 0.5,
    };
    open.then_some(end)
}

/// The least ink within a width before an end.
fn ahead(sheet: &Plane, end: &FreeEnd) -> f64 {
    let at = |s: usize| sheet.coverage(end.at[0] + end.outward[0] * s as f64, end.at[1] + end.outward[1] * s as f64);
    (0..=(end.width + 1.0) as usize).map(at).fold(1.0, f64::min)
}

fn cell(v: f64) -> i32 {
    (v / CELL).floor() as i32
}

/// What lies where, by cells.
struct Cells<T>(HashMap<(i32, i32), Vec<T>>);

impl<T: Copy> Cells<T> {
    /// Calls `each` with all that may lie within `reach` of a place: by its cells, or through all of them where they are fewer.
    fn around(&self, at: [f64; 2], reach: f64, mut each: impl FnMut(T)) {
        let (x, y) = ([cell(at[0] - reach), cell(at[0] + reach)], [cell(at[1] - reach), cell(at[1] + reach)]);
        let asked = (i64::from(x[1]) - i64::from(x[0]) + 1) * (i64::from(y[1]) - i64::from(y[0]) + 1);
        if asked > self.0.len() as i64 {
            let inside = |c: &&(i32, i32)| (x[0]..=x[1]).contains(&c.0) && (y[0]..=y[1]).contains(&c.1);
            self.0.keys().filter(inside).flat_map(|c| &self.0[c]).for_each(|t| each(*t));
        } else {
            let cells = (y[0]..=y[1]).flat_map(|y| (x[0]..=x[1]).map(move |x| (x, y)));
            cells.filter_map(|c| self.0.get(&c)).flatten().for_each(|t| each(*t));
        }
    }
}

/// Ends and places of all lines.
struct NearBy<'a> {
    tips: &'a [FreeEnd],
    lines: &'a [(usize, &'a Line)],
    /// Line and place, with half the width of the widest place among them, px.
    places: Vec<(f64, Cells<(u32, u32)>)>,
    ends: Cells<u32>,
}

impl NearBy<'_> {
    /// What a tip faces with the least paper between.
    fn nearest(&self, t: &FreeEnd, sheet: &Plane, limit: f64, least: f64) -> Option<([f64; 2], f64)> {
        let mut best: Option<([f64; 2], f64)> = None;
        let mut offer = |to: [f64; 2]| {
            let paper = sheet.paper_between(t.at, to);
            if (least..=limit).contains(&paper) && best.is_none_or(|b| paper < b.1) {
                best = Some((to, paper));
            }
        };
        let facing = |from: [f64; 2], outward: [f64; 2], to: [f64; 2]| {
            let (dx, dy) = (to[0] - from[0], to[1] - from[1]);
            let d = dx.hypot(dy);
            d > 1e-6 && (dx * outward[0] + dy * outward[1]) / d > FACING
        };
        // In their own order, whichever way they are found: of two that are equally far the first counts.
        let mut ends = Vec::new();
        self.ends.around(t.at, limit + 2.0, |k| ends.push(k));
        ends.sort_unstable();
        for other in ends.into_iter().map(|k| &self.tips[k as usize]).filter(|o| (o.line, o.side) != (t.line, t.side)) {
            let d = (other.at[0] - t.at[0]).hypot(other.at[1] - t.at[1]);
            if d <= limit + 2.0 && facing(t.at, t.outward, other.at) && facing(other.at, other.outward, t.at) {
                offer(other.at);
            }
        }
        // The place of each line that is nearest to the tip, its own end's surroundings left out.
        let mut nearest: HashMap<u32, (f64, u32, [f64; 2])> = HashMap::new();
        let mut look = |(k, i): (u32, u32)| {
            let (_, line) = self.lines[k as usize];
            let p = &line.points[i as usize];
            let half = 0.5 * f64::from(p.width);
            let d = f64::from(p.x) - t.at[0];
            let e = f64::from(p.y) - t.at[1];
            let near = limit + half + 2.0;
            if d * d + e * e > near * near {
                return;
            }
            let away = d.hypot(e);
            let from_tip = if t.side == 0 { i as usize } else { line.points.len() - 1 - i as usize } as f64 * line.step_px;
            let to = [f64::from(p.x), f64::from(p.y)];
            if k as usize == t.line && from_tip < 4.0 * t.width + 2.0 * limit || !facing(t.at, t.outward, to) {
                return;
            }
            let best = nearest.entry(k).or_insert((f64::MAX, i, to));
            if (away, i) < (best.0, best.1) {
                *best = (away, i, to);
            }
        };
        for (half, places) in &self.places {
            places.around(t.at, limit + half + 2.0, &mut look);
        }
        let mut found: Vec<_> = nearest.into_iter().collect();
        found.sort_by_key(|f| f.0);
        found.into_iter().for_each(|(_, (_, _, to))| offer(to));
        best
    }
}

/// The piece of ink at a place or right beside it.
fn piece(ink: &Spans, at: [f64; 2]) -> Option<u32> {
    let (x, y) = (at[0].floor() as i64, at[1].floor() as i64);
    let around = [(0, 0), (-1, 0), (1, 0), (0, -1), (0, 1), (-1, -1), (1, -1), (-1, 1), (1, 1)];
    around.iter().find_map(|(dx, dy)| ink.piece(x + dx, y + dy))
}
