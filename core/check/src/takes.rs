//! Two takes of one drawing: what was mended, what still stands and what is new; and what somebody decided on, carried over.
//!
//! How: findings of one kind and role at one place, the nearest pairs first; a longer one may have moved along its line. A dismissal holds where
//! the line about it is the same to three quarters of a pixel. Limits: takes of different sizes carry no dismissal. Common practice, no source.

use eddymist_measure::source::Kind;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::{
    WeighedLine,
    document::{Dismissed, DrawingCheck, Finding},
    guide::LineGuide,
    hand_on::suggest,
    holes::Holes,
    register::{Move, Sheet, register},
};

/// Findings nearer than this are one, px of the page; longer ones may differ by half their length along their line.
const NEAR_PX: f64 = 10.0;
/// A line is the same when its places and its widths are off by no more than these, px.
const SAME_PLACE_PX: f64 = 0.75;
const SAME_WIDTH_PX: f64 = 0.5;
/// What is drawn this near a line belongs to how it looks.
const BESIDE_PX: f64 = 24.0;

/// What came of an earlier take's findings; numbers are places in the two lists of findings.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct Compared {
    /// Of the earlier take: no longer there.
    pub mended: Vec<usize>,
    /// In both: earlier and later.
    pub stands: Vec<[usize; 2]>,
    /// Of the later take: not there before.
    pub new: Vec<usize>,
    /// Of two scans: how the earlier lies on the later.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub laid: Option<Move>,
}

/// A finding that somebody calls meant.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct Dismissal {
    pub finding: Finding,
    pub by: String,
    pub why: String,
}

/// A take: what was found on it, and its lines.
#[derive(Debug, Clone, Copy)]
pub struct Take<'a> {
    pub check: &'a DrawingCheck,
    pub lines: &'a [WeighedLine],
}

impl Take<'_> {
    /// How far a place is from each line, px, its places brought to another size.
    fn distance(&self, line: &WeighedLine, at: [f64; 2], k: f64) -> f64 {
        line.places.as_chunks::<3>().0.iter().map(|p| (k * f64::from(p[0]) / 10.0 - at[0]).hypot(k * f64::from(p[1]) / 10.0 - at[1])).fold(f64::MAX, f64::min)
    }

    /// Whether two places are on one line.
    fn on_one_line(&self, a: [f64; 2], b: [f64; 2], k: f64, within: f64) -> bool {
        self.lines.iter().any(|l| self.distance(l, a, k) <= within && self.distance(l, b, k) <= within)
    }
}

/// Findings of one kind and role at one place.
fn near(a: &Finding, b: &Finding, scale: f64) -> Option<f64> {
    let d = (a.x - b.x).hypot(a.y - b.y);
    (a.kind == b.kind && a.role == b.role && d <= NEAR_PX * scale).then_some(d)
}

/// The finding of another drawing of the same size that recurs: of this kind and role, at this place, and not marked as intended.
pub fn alike(of: &Finding, check: &DrawingCheck) -> Option<usize> {
    let open = check.findings.iter().enumerate().filter(|(_, f)| f.dismissed.is_none());
    open.filter_map(|(i, f)| Some((near(of, f, check.scale)?, i))).min_by(|a, b| a.0.total_cmp(&b.0)).map(|n| n.1)
}

/// The same, of two takes: a stretch may begin and end elsewhere on the same line.
fn one(a: &Finding, b: &Finding, earlier: &Take, later: &Take, k: f64) -> Option<f64> {
    let scale = later.check.scale;
    let long = 0.5 * a.length_px.unwrap_or(0.0).max(b.length_px.unwrap_or(0.0));
    let d = (a.x - b.x).hypot(a.y - b.y);
    if a.kind != b.kind || a.role != b.role || d > long.max(NEAR_PX * scale) {
        return None;
    }
    let (p, q) = ([a.x, a.y], [b.x, b.y]);
    (d <= NEAR_PX * scale || earlier.on_one_line(p, q, k, NEAR_PX * scale) || later.on_one_line(p, q, 1.0, NEAR_PX * scale)).then_some(d)
}

/// How one scan is to be moved to lie on another; none where either is no scan, their sizes differ, or they have too little in common.
pub fn laid(guide: &LineGuide, from: &Take, onto: &Take) -> Option<Move> {
    let scan = |t: &Take| t.check.source.as_ref().is_some_and(|s| s.kind != Kind::Drawing);
    if !scan(from) || !scan(onto) || from.check.width_px != onto.check.width_px {
        return None;
    }
    let holes = [from, onto].map(|t| Holes::seen(t.check));
    let size = [f64::from(onto.check.width_px), f64::from(onto.check.height_px)];
    register(guide, &Sheet { lines: from.lines, holes: &holes[0], size }, &Sheet { lines: onto.lines, holes: &holes[1], size })
}

/// The earlier take's findings held against the later's; places are brought to the later's size.
pub fn compare(guide: &LineGuide, earlier: &Take, later: &Take) -> Compared {
    let k = f64::from(later.check.width_px) / f64::from(earlier.check.width_px.max(1));
    // Two scans are laid on one another first.
    let moves = laid(guide, earlier, later);
    let lines = moves.map(|m| m.lines(earlier.lines));
    let earlier = &Take { check: earlier.check, lines: lines.as_deref().unwrap_or(earlier.lines) };
    let place = |f: &Finding| moves.map_or([f.x * k, f.y * k], |m| m.of([f.x, f.y]));
    let moved: Vec<Finding> = earlier
        .check
        .findings
        .iter()
        .map(|f| {
            let [x, y] = place(f);
            Finding { x, y, length_px: f.length_px.map(|l| l * k), ..f.clone() }
        })
        .collect();
    let mut pairs: Vec<(f64, usize, usize)> = Vec::new();
    for (i, a) in moved.iter().enumerate() {
        pairs.extend(later.check.findings.iter().enumerate().filter_map(|(j, b)| Some((one(a, b, earlier, later, k)?, i, j))));
    }
    pairs.sort_by(|a, b| a.0.total_cmp(&b.0).then(a.1.cmp(&b.1)).then(a.2.cmp(&b.2)));
    let (mut gone, mut fresh) = (vec![true; moved.len()], vec![true; later.check.findings.len()]);
    let mut stands = Vec::new();
    for (_, i, j) in pairs {
        if gone[i] && fresh[j] {
            (gone[i], fresh[j]) = (false, false);
            stands.push([i, j]);
        }
    }
    stands.sort_by_key(|s| s[1]);
    let left = |v: Vec<bool>| v.into_iter().enumerate().filter_map(|(i, left)| left.then_some(i)).collect();
    Compared { mended: left(gone), stands, new: left(fresh), laid: moves }
}

/// The dismissals of an earlier take that hold in the later, with their numbers: the finding is there again and the line about it is the same.
pub fn carried(guide: &LineGuide, dismissed: &[Dismissal], earlier: &Take, later: &Take) -> Vec<(usize, Dismissal)> {
    if earlier.check.width_px != later.check.width_px || dismissed.is_empty() {
        return Vec::new();
    }
    let moves = laid(guide, earlier, later);
    let lines = moves.map(|m| m.lines(earlier.lines));
    let earlier = &Take { check: earlier.check, lines: lines.as_deref().unwrap_or(earlier.lines) };
    let holds = |d: &Dismissal| {
        let [x, y] = moves.map_or([d.finding.x, d.finding.y], |m| m.of([d.finding.x, d.finding.y]));
        let was = Finding { x, y, ..d.finding.clone() };
        let found = later.check.findings.iter().filter_map(|f| Some((one(&was, f, earlier, later, 1.0)?, f)));
        let found = found.min_by(|a, b| a.0.total_cmp(&b.0))?.1;
        let reach = (40.0 * later.check.scale).max(0.5 * found.length_px.unwrap_or(0.0));
        let same = within(earlier.lines, later.lines, [x, y], reach) && within(later.lines, earlier.lines, [x, y], reach);
        same.then(|| Dismissal { finding: found.clone(), ..d.clone() })
    };
    dismissed.iter().enumerate().filter_map(|(k, d)| Some((k, holds(d)?))).collect()
}

/// What became of a pin on the next take.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Became {
    /// The finding that it stood at is gone.
    Fixed,
    /// The lines about it are what they were.
    StillThere,
    /// Something about it is drawn otherwise: only an eye tells.
    LookAgain,
}

/// Where the pins of an earlier take lie on the later, and what became of each.
pub fn pins(at: &[[f64; 2]], earlier: &Take, later: &Take, compared: &Compared) -> Vec<([f64; 2], Became)> {
    let k = f64::from(later.check.width_px) / f64::from(earlier.check.width_px.max(1));
    let lines: Vec<WeighedLine> = match compared.laid {
        Some(m) => m.lines(earlier.lines),
        None => earlier.lines.to_vec(),
    };
    // At a finding, or along the line that it is about.
    let reach = 2.0 * NEAR_PX * earlier.check.scale;
    let near = |f: &Finding, p: &[f64; 2]| {
        let d = (f.x - p[0]).hypot(f.y - p[1]);
        d <= reach || d <= 0.5 * f.length_px.unwrap_or(0.0) && earlier.on_one_line(*p, [f.x, f.y], 1.0, reach)
    };
    let of = |i: usize, p: &[f64; 2]| earlier.check.findings.get(i).is_some_and(|f| near(f, p));
    let became = |p: &[f64; 2]| {
        let now = compared.laid.map_or([k * p[0], k * p[1]], |m| m.of(*p));
        let reach = 40.0 * later.check.scale;
        // Of another size nothing is the same to a pixel.
        let same = || k == 1.0 && within(&lines, later.lines, now, reach) && within(later.lines, &lines, now, reach);
        let state = if compared.stands.iter().any(|s| of(s[0], p)) || same() {
            Became::StillThere
        } else if compared.mended.iter().any(|i| of(*i, p)) {
            Became::Fixed
        } else {
            Became::LookAgain
        };
        (now, state)
    };
    at.iter().map(became).collect()
}

/// A place of a line with its role: x, y, width in px.
type RolePlace = (usize, [f64; 3]);

/// The line that a finding is on, as far as `reach` from it, and what else is drawn within [`BESIDE_PX`] of that line.
fn about(lines: &[WeighedLine], at: [f64; 2], reach: f64) -> Vec<RolePlace> {
    let places = |l: &WeighedLine| -> Vec<[f64; 3]> { l.places.as_chunks::<3>().0.iter().map(|p| p.map(|v| f64::from(v) / 10.0)).collect() };
    let from = |p: &[f64; 3]| (p[0] - at[0]).hypot(p[1] - at[1]);
    let all: Vec<(usize, Vec<[f64; 3]>)> = lines.iter().map(|l| (l.role, places(l))).collect();
    let nearest = all.iter().map(|l| (l.1.iter().map(from).fold(f64::MAX, f64::min), l)).min_by(|a, b| a.0.total_cmp(&b.0));
    let own: Vec<[f64; 3]> = nearest.map(|n| n.1.1.iter().filter(|p| from(p) <= reach).step_by(4).copied().collect()).unwrap_or_default();
    let beside = |p: &[f64; 3]| own.iter().any(|o| (o[0] - p[0]).hypot(o[1] - p[1]) <= BESIDE_PX);
    all.iter().flat_map(|(role, l)| l.iter().filter(|p| from(p) <= reach && beside(p)).map(|p| (*role, *p))).collect()
}

/// Whether every place of one's line about `at` is on a line of the other, as wide.
fn within(of: &[WeighedLine], other: &[WeighedLine], at: [f64; 2], reach: f64) -> bool {
    let there = about(other, at, reach + 4.0);
    about(of, at, reach).iter().all(|(role, p)| {
        // Places are a px or two apart along the line: the distance is to the segments between them.
        let mut best = (f64::MAX, 0.0);
        for w in there.windows(2).filter(|w| w[0].0 == *role && w[1].0 == *role) {
            let ([ax, ay, aw], [bx, by, bw]) = (w[0].1, w[1].1);
            let (dx, dy) = (bx - ax, by - ay);
            let l2 = dx * dx + dy * dy;
            if l2 > 64.0 {
                continue;
            }
            let t = if l2 > 0.0 { (((p[0] - ax) * dx + (p[1] - ay) * dy) / l2).clamp(0.0, 1.0) } else { 0.0 };
            let d = (ax + t * dx - p[0]).hypot(ay + t * dy - p[1]);
            if d < best.0 {
                best = (d, aw + t * (bw - aw));
            }
        }
        best.0 <= SAME_PLACE_PX && (best.1 - p[2]).abs() <= SAME_WIDTH_PX
    })
}

/// Marks the findings that are dismissed, and says anew how the drawing is handed on. Gives for each dismissal the finding that it
/// is of, if it is there.
pub fn dismiss(guide: &LineGuide, check: &mut DrawingCheck, dismissed: &[Dismissal]) -> Vec<Option<usize>> {
    let mut out = Vec::new();
    for d in dismissed {
        let there = check.findings.iter().enumerate().filter(|(_, f)| f.dismissed.is_none()).filter_map(|(i, f)| Some((near(&d.finding, f, check.scale)?, i)));
        let found = there.min_by(|a, b| a.0.total_cmp(&b.0)).map(|n| n.1);
        if let Some(i) = found {
            check.findings[i].dismissed = Some(Dismissed { by: d.by.clone(), why: d.why.clone() });
        }
        out.push(found);
    }
    suggest(guide, check);
    out
}
