//! One's own inked page beside a trial page inked with the brush: how wide the lines of both are, and how their ends taper.
//!
//! How: both pages are scans to the same reader (`eddymist_measure::inked`). A taper is followed from its tip to where the line first has nine tenths
//! of its body; widths are those of the bodies between, by their share of line length. Intervals of a difference are by the bootstrap over whole
//! lines, percentiles (B. Efron, "Bootstrap methods: another look at the jackknife", Annals of Statistics 7, 1979), with the measure's own share.
//! Limits: which end of a scanned line was drawn first is not known, so lead-in and lead-out are not told apart; pages of other drawings have
//! other widths.

use eddymist_ink::noise::even;
use eddymist_measure::{
    TAPER_WIDTHS,
    inked::{InkedLine, InkedPage},
    stats::{median, moving_mean, quantile},
};
use schemars::JsonSchema;
use serde::Serialize;

use crate::compare::Change;

/// Two pages.
#[derive(Debug, Clone, PartialEq, Serialize, JsonSchema)]
pub struct PagesBeside {
    /// The page that was scanned.
    pub mine: PageInk,
    /// The page that was inked with brushes.
    pub trial: PageInk,
    /// From the scanned page to the trial page.
    pub changes: Vec<Change>,
    pub warnings: Vec<String>,
}

/// A page's widths and tapers.
#[derive(Debug, Clone, PartialEq, Serialize, JsonSchema)]
pub struct PageInk {
    pub lines: u32,
    /// Of bodies, as far as they could be measured.
    pub length_mm: f64,
    /// Share of the line length, 0…1, and the width that it is at most as wide as, mm.
    pub widths: Vec<[f64; 2]>,
    /// Free ends that could be read, and those of them that taper.
    pub ends: u32,
    pub tapered: u32,
    /// The middle one of the tapered ends: mm from the tip, and the width there as a share of the body's.
    pub taper: Vec<[f64; 2]>,
}

/// What counts of a line.
#[derive(Debug, Clone)]
struct LineInk {
    /// Widths of the body at even steps, mm.
    widths: Vec<f64>,
    tips: Vec<Tip>,
}

/// What is read of a page's lines.
type Figure = dyn Fn(&[&LineInk]) -> Option<f64>;

/// A free end: mm to nine tenths of the body, none where it does not taper; widths as shares of the body's at even steps from the tip.
#[derive(Debug, Clone)]
struct Tip {
    at_90_mm: Option<f64>,
    rise: Vec<f64>,
}

/// Widths are taken so far apart, and tapers followed so far and so finely, mm.
const STEP_MM: f64 = 0.25;
const FAR_MM: f64 = 20.0;
/// A line is asked for its ends from so many widths on, and an end tapers over no more than half of its line.
const LONG_WIDTHS: f64 = 6.0;
/// A taper's tip is narrower than this share of the body.
const NARROW: f64 = 0.7;
/// Fewer lines, or ends, have no interval.
const FEW: usize = 5;
const DRAWS: usize = 400;
/// The measure's own share of a width on scans, the larger (methods.md, section 6); and z of a two-sided 95 % interval.
const OWN_SHARE: f64 = 0.005;
const OWN_MM: f64 = 0.002;
const Z: f64 = 1.96;
/// A curve of widths has so many places.
const PLACES: usize = 40;

/// Holds a scanned page against a page inked with brushes.
pub fn beside(mine: &InkedPage, trial: &InkedPage) -> PagesBeside {
    let [a, b] = [mine, trial].map(|p| p.lines.iter().filter_map(line).collect::<Vec<LineInk>>());
    let mut warnings: Vec<String> = mine.warnings.iter().map(|w| format!("in the scan {w}")).collect();
    let [long, short] = [length(&a).max(length(&b)), length(&a).min(length(&b))];
    if short > 0.0 && long > 3.0 * short {
        warnings.push("one page has more than three times as much line as the other: they compare well only where the drawings are alike".into());
    }
    let mut changes = Vec::new();
    let figures: [(&str, &str, &Figure); 5] = [
        ("width, thinnest tenth", "mm", &|l| width(l, 0.1)),
        ("width, middle", "mm", &|l| width(l, 0.5)),
        ("width, widest tenth", "mm", &|l| width(l, 0.9)),
        ("taper, to 90 %", "mm", &taper_mm),
        ("share of ends that taper", "", &tapered_share),
    ];
    for (k, (name, unit, of)) in figures.into_iter().enumerate() {
        let all = |l: &[LineInk]| of(&l.iter().collect::<Vec<_>>());
        let Some((before, after)) = all(&a).zip(all(&b)) else { continue };
        let counted = |l: &[LineInk]| if k < 3 { l.len() } else { l.iter().map(|l| l.tips.len()).sum() };
        let drawn = (counted(&a).min(counted(&b)) >= FEW).then(|| difference(&a, &b, of, k as u64)).flatten();
        let own = if k < 3 { (OWN_SHARE * before).max(OWN_MM) } else { 0.0 };
        let interval = drawn.map(|i| widened(i, after - before, own));
        changes.push(Change { figure: name.into(), unit: unit.into(), before, after, interval, changed: interval.map(|i| i[0] > 0.0 || i[1] < 0.0) });
    }
    PagesBeside { mine: page(&a), trial: page(&b), changes, warnings }
}

/// An interval with the measure's own share in it.
fn widened([low, high]: [f64; 2], about: f64, own: f64) -> [f64; 2] {
    [about - (about - low).max(0.0).hypot(Z * own), about + (high - about).max(0.0).hypot(Z * own)]
}

fn length(lines: &[LineInk]) -> f64 {
    lines.iter().map(|l| l.widths.len() as f64 * STEP_MM).sum()
}

fn page(lines: &[LineInk]) -> PageInk {
    let all: Vec<&LineInk> = lines.iter().collect();
    let widths: Vec<f64> = all.iter().flat_map(|l| &l.widths).copied().collect();
    let share = |k: usize| (k as f64 + 0.5) / PLACES as f64;
    let tips = || lines.iter().flat_map(|l| &l.tips);
    let tapered: Vec<&Tip> = tips().filter(|t| t.at_90_mm.is_some()).collect();
    let middle = median(&tapered.iter().filter_map(|t| t.at_90_mm).collect::<Vec<_>>()).unwrap_or(0.0);
    let off = |t: &Tip| t.at_90_mm.map_or(f64::INFINITY, |mm| (mm - middle).abs());
    let shown = tapered.iter().min_by(|a, b| off(a).total_cmp(&off(b)));
    PageInk {
        lines: lines.len() as u32,
        length_mm: length(lines),
        widths: (0..PLACES).filter_map(|k| Some([share(k), quantile(&widths, share(k))?])).collect(),
        ends: tips().count() as u32,
        tapered: tapered.len() as u32,
        taper: shown.map_or_else(Vec::new, |t| t.rise.iter().enumerate().map(|(k, w)| [k as f64 * STEP_MM, *w]).collect()),
    }
}

/// A line at even steps; none where nothing of it was measured.
fn line(l: &InkedLine) -> Option<LineInk> {
    // Places that have a width, by their way from the first place.
    let mut way = 0.0;
    let mut known: Vec<[f64; 2]> = Vec::new();
    for (k, p) in l.places.iter().enumerate() {
        if k > 0 {
            let q = &l.places[k - 1];
            way += (p.x_mm - q.x_mm).hypot(p.y_mm - q.y_mm);
        }
        known.extend(p.width_mm.map(|w| [way, w]));
    }
    let (first, last) = (known.first()?[0], known.last()?[0]);
    let at = |s: f64| {
        let k = known.partition_point(|p| p[0] < s).min(known.len() - 1);
        let (b, a) = (known[k], known[k.saturating_sub(1)]);
        if b[0] > a[0] { a[1] + (b[1] - a[1]) * ((s - a[0]) / (b[0] - a[0])).clamp(0.0, 1.0) } else { b[1] }
    };
    let steps = ((last - first) / STEP_MM) as usize + 1;
    let widths: Vec<f64> = (0..steps).map(|k| at(first + k as f64 * STEP_MM)).collect();
    let middle: Vec<f64> = widths[steps / 4..(3 * steps / 4 + 1).min(steps)].to_vec();
    let body = median(&middle)?;
    let ends = [false, true].into_iter().filter(|end| way > LONG_WIDTHS * body && l.free[usize::from(*end)]);
    let tips: Vec<(bool, Tip)> = ends.map(|end| (end, tip(&at, way, end, body, [first, last]))).collect();
    // What tapers is held as a taper: its faint tip is lost in a scan's grain, and would be no narrower width of the line.
    let taper = |of: bool| tips.iter().find(|t| t.0 == of).and_then(|t| t.1.at_90_mm).unwrap_or(0.0);
    let body_of = |k: &usize| (taper(false)..=way - taper(true)).contains(&(first + *k as f64 * STEP_MM));
    let widths = (0..steps).filter(body_of).map(|k| widths[k]).collect();
    Some(LineInk { widths, tips: tips.into_iter().map(|t| t.1).collect() })
}

/// How a line begins, or ends.
fn tip(at: &dyn Fn(f64) -> f64, way: f64, end: bool, body: f64, [first, last]: [f64; 2]) -> Tip {
    let of = |s: f64| at((if end { way - s } else { s }).clamp(first, last)) / body;
    let steps = (FAR_MM.min(way / 2.0) / STEP_MM) as usize + 1;
    let smooth = moving_mean(&(0..steps).map(|k| of(k as f64 * STEP_MM)).collect::<Vec<_>>(), ((body / STEP_MM) as usize).max(1));
    let reached = smooth.iter().position(|w| *w >= 0.9).map(|k| k as f64 * STEP_MM);
    // What is nearly as wide at its tip swells, and has no taper.
    let at_90_mm = reached.filter(|mm| *mm > TAPER_WIDTHS * body && smooth[0] < NARROW);
    let on = reached.map_or(steps, |mm| ((1.5 * mm + 1.0) / STEP_MM) as usize).min(steps);
    Tip { at_90_mm, rise: smooth[..on].to_vec() }
}

fn width(lines: &[&LineInk], share: f64) -> Option<f64> {
    quantile(&lines.iter().flat_map(|l| &l.widths).copied().collect::<Vec<_>>(), share)
}

fn taper_mm(lines: &[&LineInk]) -> Option<f64> {
    median(&lines.iter().flat_map(|l| &l.tips).filter_map(|t| t.at_90_mm).collect::<Vec<_>>())
}

fn tapered_share(lines: &[&LineInk]) -> Option<f64> {
    let all: Vec<bool> = lines.iter().flat_map(|l| &l.tips).map(|t| t.at_90_mm.is_some()).collect();
    (!all.is_empty()).then(|| all.iter().filter(|t| **t).count() as f64 / all.len() as f64)
}

/// The 95 % interval of a figure's difference, lines of either page drawn again and again.
fn difference(a: &[LineInk], b: &[LineInk], of: &Figure, seed: u64) -> Option<[f64; 2]> {
    let mut chance = 0x9A6E + seed;
    let mut drawn = |l: &[LineInk]| -> Option<f64> {
        let some: Vec<&LineInk> = (0..l.len()).map(|_| &l[((even(&mut chance) * l.len() as f64) as usize).min(l.len() - 1)]).collect();
        of(&some)
    };
    let off: Vec<f64> = (0..DRAWS).filter_map(|_| Some(-drawn(a)? + drawn(b)?)).collect();
    Some([quantile(&off, 0.025)?, quantile(&off, 0.975)?])
}
