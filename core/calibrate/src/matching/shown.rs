//! The parts of a brush beside its weight, compared: one figure a stroke, of the inked strokes as of the scan.
//!
//! Every figure of the brush is of a stroke that was inked, shown as the card's scanner would show it and read by the code that read the pen
//! (`scanned`), and is held against the pen's own lines. It comes from strokes that the fit has not seen (leave one out), unless the part is
//! locked. Limits: what a sheet's lane would not read is left out; a circle that is no ring has the ink's own widths.

use eddymist_ink::{Brush, InkError, InkedStroke, Sample, Stroke};
use eddymist_measure::stats::{mean_sd, median, pooled_sd};

use rayon::prelude::*;

use super::{
    bench::Bench,
    document::{Part, PartMatch, Verdict},
    flick::{Ending, Tip},
    groups::{Lines, PenSpread, apart},
    judge::{PenFigure, judged, judged_together},
    parts::Tapered,
    weight::told_mm,
    words,
};
use crate::{nib, pen_card::WidthAtPace, tapers, warmup::Exercise};

/// A pen's lines are never told to differ by less than this share: the sheet's rays are short.
const LEAST_NIB_SPREAD: f64 = 0.01;

/// What a scan tells of raggedness, as a share of it (methods.md, section 2).
const TOLD_OF_EDGE: f64 = 0.1;

/// Rays that are so many times as far from their law as each is from its neighbours go by no law; less may be chance.
const OTHERWISE: f64 = 1.5;

/// The pen's width at a speed between its own paces, which are in the order of their speeds.
fn at_speed(paces: &[WidthAtPace], speed: f64) -> Option<f64> {
    let k = paces.partition_point(|p| p.speed_mm_s < speed);
    let (a, b) = (paces.get(k.saturating_sub(1))?, paces.get(k.min(paces.len() - 1))?);
    let t = if b.speed_mm_s > a.speed_mm_s { ((speed - a.speed_mm_s) / (b.speed_mm_s - a.speed_mm_s)).clamp(0.0, 1.0) } else { 0.0 };
    Some(a.width_mm + t * (b.width_mm - a.width_mm))
}

/// Directions are compared in so many sectors.
const SECTORS: usize = 8;

/// Means by sector of a figure of the pen's rays, over the mean of all that have some, and how many rays each has.
fn by_sector(rays: &[[f64; 2]], figure: impl Fn(&[f64; 2]) -> f64) -> [(f64, f64); SECTORS] {
    let mut sums = [(0.0, 0.0); SECTORS];
    for r in rays {
        let s = &mut sums[((r[0].rem_euclid(360.0) / 360.0 * SECTORS as f64) as usize).min(SECTORS - 1)];
        *s = (s.0 + figure(r), s.1 + 1.0);
    }
    let shown = sums.iter().filter(|s| s.1 > 0.0).count() as f64;
    let mean = sums.iter().filter(|s| s.1 > 0.0).map(|s| s.0 / s.1).sum::<f64>() / shown;
    sums.map(|s| (s.0 / s.1 / mean, s.1))
}

/// How much a ray differs from what its two neighbours make of it, as a share of its width: the median's, as a deviation. None of few rays.
///
/// The second difference of three values of deviation σ has the deviation √6·σ; a median of magnitudes is 0.6745 of a deviation.
fn from_ray_to_ray(rays: &[[f64; 2]]) -> Option<f64> {
    let mut sorted: Vec<[f64; 2]> = rays.iter().map(|r| [r[0].rem_euclid(360.0), r[1]]).collect();
    sorted.sort_by(|a, b| a[0].total_cmp(&b[0]));
    let n = sorted.len();
    let apart = |a: [f64; 2], b: [f64; 2]| (b[0] - a[0]).rem_euclid(360.0) < 25.0;
    let threes = (0..n).map(|i| [sorted[i], sorted[(i + 1) % n], sorted[(i + 2) % n]]).filter(|[a, b, c]| n > 7 && apart(*a, *b) && apart(*b, *c));
    let bends: Vec<f64> = threes.map(|t| (t[0][1] * t[2][1] / (t[1][1] * t[1][1])).ln().abs()).filter(|b| b.is_finite()).collect();
    Some(median(&bends)? / 0.6745 / 6f64.sqrt())
}

/// The mean of widths by direction, degrees and mm, within half a ray's distance of one, or where none is so near within a whole one, to both sides;
/// not a number where there are none.
fn toward(around: &[[f64; 2]], degrees: f64) -> f64 {
    let within = |most: f64| {
        let near = |d: f64| ((d - degrees + 180.0).rem_euclid(360.0) - 180.0).abs() <= most;
        let (sum, n) = around.iter().filter(|a| near(a[0])).fold((0.0, 0.0), |t, a| (t.0 + a[1], t.1 + 1.0));
        sum / n
    };
    Some(within(7.5)).filter(|w| w.is_finite()).unwrap_or_else(|| within(15.0))
}

impl Bench<'_> {
    /// The pen's rays, `[degrees, mm]`, or of older cards that have none, what its law makes of as many.
    fn rays(&self) -> Option<Vec<[f64; 2]>> {
        let nib = self.card.nib.as_ref()?;
        let law = || (0..24).map(|k| 15.0 * f64::from(k)).map(|d| [d, nib.width_toward(d)]).collect();
        Some(nib.rays().map_or_else(law, <[_]>::to_vec))
    }

    /// A circle's widths by direction, degrees and mm, from where the hand neither lands nor lifts.
    fn around(&self, inked: &InkedStroke) -> Vec<[f64; 2]> {
        self.scanner.ring(inked).unwrap_or_else(|| {
            let s = &inked.samples[inked.samples.len() / 25..inked.samples.len() - inked.samples.len() / 25];
            s.windows(2).map(|w| [(w[0].y - w[1].y).atan2(w[1].x - w[0].x).to_degrees(), 0.5 * (w[0].width_mm + w[1].width_mm)]).collect()
        })
    }

    /// Circles of the hand: how far their widths go by direction as the pen's do. `spread` is of the pen's lines at one effort, as a share, with its
    /// degrees of freedom.
    pub fn compare_nib(&self, brush: &Brush, spread: Option<(f64, f64)>) -> Result<Option<PartMatch>, InkError> {
        let (Some(nib), Some(rays)) = (&self.card.nib, self.rays()) else { return Ok(None) };
        let mean = rays.iter().map(|r| r[1]).sum::<f64>() / rays.len().max(1) as f64;
        // Of its rays about their law, or where they surely go otherwise from one to the next, or of its lines at one effort, whichever is more.
        let left = nib.residual_mm() / mean.max(1e-6);
        let about = from_ray_to_ray(&rays).filter(|s| left > nib::MOST_RESIDUAL && left > OTHERWISE * s).unwrap_or(left);
        let (share, df) = spread.filter(|s| s.0 > about).unwrap_or((about, (rays.len() as f64 - 3.0).max(2.0)));
        let (share, pen_sd) = (share.max(LEAST_NIB_SPREAD), (share / LEAST_NIB_SPREAD).min(1.0));
        // Pace is another part: a hand is slow where a circle begins and ends.
        let inker = self.inker(&Brush { lead_in: None, lead_out: None, pooling: None, pace: None, driver: None, ..brush.clone() })?;
        let circles = self.strokes(Exercise::Circle);
        let around: Vec<Vec<[f64; 2]>> = circles.iter().map(|s| self.around(&inker.ink(s))).collect();
        // Where the pen's rays point, and nowhere else.
        let pen = by_sector(&rays, |r| r[1]);
        let mut groups: Vec<Lines> = pen.map(|(m, n)| Lines { pen: m / share, lines: n, brush: Vec::new() }).to_vec();
        for a in &around {
            let there = by_sector(&rays, |r| toward(a, r[0]));
            if there.iter().zip(&pen).all(|(t, p)| t.0.is_finite() || p.1 == 0.0) {
                groups.iter_mut().zip(there).for_each(|(g, t)| g.brush.push(t.0 / share));
            }
        }
        let measured = words::nib_from(nib.rays().map_or(0, <[_]>::len), circles.len());
        let told = apart(&groups, PenSpread { sd: pen_sd, df }, true);
        Ok(Some(judged_together(Part::Nib, told, rays.len() as f64, share, measured, |off| words::nib(off * share))))
    }

    /// Mean width of the brush's lines at normal effort, mm, where the hand drew any.
    pub(super) fn normal_mm(&self, brush: &Brush) -> Result<Option<f64>, InkError> {
        let inker = self.inker(&Brush { lead_in: None, lead_out: None, pooling: None, ..brush.clone() })?;
        Ok(mean_sd(&self.scanner.widths_mm(&inker, &self.normal_lines().collect::<Vec<_>>())).map(|m| m.0))
    }

    /// The hand's lines at normal effort and pace.
    pub(super) fn normal_lines(&self) -> impl Iterator<Item = &Stroke> {
        self.warmup.into_iter().flat_map(|w| w.efforts()).filter(|(e, s)| (e - 0.5).abs() < 1e-6 && s.samples.len() > 8).map(|e| e.1)
    }

    /// Lines of the hand by the pen's paces: how their widths change with speed, beside the pen's at that speed. How heavy they all are is the weight,
    /// and how hard the hand pressed in this exercise. `spread` is of the pen's lines at one effort, as a share, with its degrees of freedom.
    pub fn compare_pace(&self, brush: &Brush, spread: Option<(f64, f64)>) -> Result<Option<PartMatch>, InkError> {
        let Some(mut paces) = self.card.widths_by_pace.clone().filter(|p| !p.is_empty()) else { return Ok(None) };
        paces.sort_by(|a, b| a.speed_mm_s.total_cmp(&b.speed_mm_s));
        let inker = self.inker(&Brush { lead_in: None, lead_out: None, pooling: None, ..brush.clone() })?;
        // Spreads of all its lines that are drawn alike, by the logarithm of their widths.
        let within = paces.iter().filter(|p| p.lines > 1).map(|p| (p.sd_mm / p.width_mm, f64::from(p.lines)));
        let both = within.chain(spread.map(|(s, df)| (s, df + 1.0)));
        let told = paces.iter().map(|p| told_mm(p.width_mm, self.card.resolution_dpi) / p.width_mm).fold(0.0, f64::max);
        let (share, spread) =
            pooled_sd(both).filter(|s| s.0 > 0.0).map_or((0.0, PenSpread { sd: 1.0, df: 0.0 }), |(s, df)| (s.max(told), PenSpread { sd: s / s.max(told), df }));
        let mut groups: Vec<Lines> = paces.iter().map(|p| Lines { pen: 0.0, lines: f64::from(p.lines), brush: Vec::new() }).collect();
        let strokes: Vec<&Stroke> = [Exercise::Ruled, Exercise::Diagonal].into_iter().flat_map(|e| self.strokes(e)).collect();
        for (s, width) in strokes.iter().zip(self.scanner.widths_mm(&inker, &strokes)) {
            let (way, t) = (s.lengths_mm(), s.samples.last().map_or(0.0, |l| l.t_ms) - s.samples[0].t_ms);
            let speed = way.last().copied().unwrap_or(0.0) * s.zoom / (t / 1000.0).max(1e-3);
            // The pen's paces were drawn level: a slanted line has of it what its nib makes of that direction.
            let (a, b) = (&s.samples[0], &s.samples[s.samples.len() - 1]);
            let slant = self.slant((a.y - b.y).atan2(b.x - a.x).to_degrees());
            let Some(pen) = at_speed(&paces, speed).map(|p| p * slant) else { continue };
            let far = |p: &WidthAtPace| (p.speed_mm_s / speed.max(1e-3)).ln().abs();
            if let Some(nearest) = (0..paces.len()).min_by(|i, j| far(&paces[*i]).total_cmp(&far(&paces[*j]))) {
                groups[nearest].brush.push((width / pen).ln() / share.max(1e-6));
            }
        }
        let lines: f64 = paces.iter().map(|p| f64::from(p.lines)).sum();
        let strokes = groups.iter().map(|g| g.brush.len()).sum();
        // What all have in common is no pace.
        let means: Vec<f64> = groups.iter().filter_map(|g| mean_sd(&g.brush)).map(|m| m.0).collect();
        let common = means.iter().sum::<f64>() / means.len().max(1) as f64;
        groups.iter_mut().for_each(|g| g.brush.iter_mut().for_each(|b| *b -= common));
        let told = if share > 0.0 { apart(&groups, spread, true) } else { None };
        let fast = means.last().zip(means.first()).map_or(0.0, |(l, f)| (l - f) * share);
        let measured = words::pace_from(lines, paces.len(), strokes);
        Ok(Some(judged_together(Part::Pace, told, lines, share, measured, |apart| words::pace(apart * share, fast))))
    }

    /// Dots of the hand over its lines at the same effort, each by a ratio that has not seen it, unless that part is locked.
    pub fn compare_pooling(&self, brush: &Brush, locked: bool, steadied: bool) -> Result<Option<PartMatch>, InkError> {
        let Some(p) = &self.card.pooling else { return Ok(None) };
        let dots = self.dots();
        let own = self.normal_mm(brush)?;
        let without = if locked { vec![brush.pooling; dots.len()] } else { self.pooling(brush)?.1 };
        let mut ratios = Vec::new();
        for (s, pooling) in dots.iter().zip(without) {
            ratios.extend(self.grown(&Brush { pooling, ..brush.clone() }, &[s], own)?);
        }
        let line = p.dot_mm / p.ratio;
        let pen = PenFigure { mean: p.ratio, sd: p.sd_mm.map(|s| s / line), n: f64::from(p.dots.unwrap_or(1)) };
        let measured = format!("{} dots of the pen, {} of the hand held as long", p.dots.unwrap_or(1), ratios.len());
        let mut out = judged(Part::Pooling, pen, &ratios, Some(1.0 / p.ratio), measured, words::pooling);
        // A dot that is larger before any ink pools is the hand's.
        let alone = self.grown(&Brush { pooling: None, ..brush.clone() }, &dots, own)?;
        if let Some((bare, _)) = mean_sd(&alone).filter(|m| out.verdict == Verdict::Differs && !locked && m.0 > p.ratio) {
            (out.verdict, out.says) = (Verdict::CannotBeMatched, words::dots_slide(bare - p.ratio, steadied));
        }
        Ok(Some(out))
    }

    /// Leave one flick or landing out: each is inked with a taper that did not see it, unless that part is locked.
    pub fn compare_taper(&self, tip: Tip, brush: &Brush, locked: bool) -> Result<Option<PartMatch>, InkError> {
        let Some(card) = self.card_taper(tip) else { return Ok(None) };
        let (part, name) = if tip == Tip::In { (Part::LeadIn, "landings") } else { (Part::LeadOut, "flicks") };
        let strokes = self.strokes(tip.exercise());
        let one = |(i, s): (usize, &&Stroke)| -> Result<Option<f64>, InkError> {
            let others: Vec<&Stroke> = strokes.iter().enumerate().filter(|(j, _)| *j != i).map(|(_, s)| *s).collect();
            let taper = if locked || others.is_empty() { brush.taper(tip) } else { self.taper(tip, brush, &others)?.0 };
            let inked = self.inker(&brush.with_taper(tip, taper))?.ink(s);
            let flick = self.scanner.flick(&inked, tip).unwrap_or_else(|| Ending::new(&inked, tip).flick());
            Ok(tapers::at_90_mm(&flick))
        };
        let reached: Vec<Option<f64>> = strokes.par_iter().enumerate().map(one).collect::<Result<_, _>>()?;
        let reached: Vec<f64> = reached.into_iter().flatten().collect();
        // Blunt ends have no spread, but a least distance from which on they are told not to be.
        let sd = card.sd_mm.map(|s| s.max(if card.at_90_mm > 0.0 { 0.0 } else { 0.5 * tapers::BLUNT_WIDTHS * card.body_mm }));
        let pen = PenFigure { mean: card.at_90_mm, sd, n: f64::from(card.flicks) };
        let measured = format!("{} flicks of the pen, {} {name} of the hand", card.flicks, strokes.len());
        // From 50 to 90 % of the body the pen widens by so much a mm.
        let slope = 0.4 / (card.at_90_mm - card.at_50_mm);
        let mut out = judged(part, pen, &reached, Some(slope).filter(|s| s.is_finite() && *s > 0.0), measured, |mm| words::taper(mm, name));
        if strokes.is_empty() {
            out.says = words::no_strokes(tip).into();
        } else if let Some(why) = self.taper(tip, brush, &strokes)?.1.filter(|_| out.verdict == Verdict::Differs) {
            (out.verdict, out.says) = (Verdict::CannotBeMatched, why);
        }
        Ok(Some(out))
    }

    /// How rough the hand's lines at normal effort come out, µm; where it drew fewer than three, six that the brush rules by itself, and false.
    pub(super) fn roughness(&self, brush: &Brush) -> Result<(Vec<f64>, bool), InkError> {
        let inker = self.rough_inker(&Brush { lead_in: None, lead_out: None, pooling: None, ..brush.clone() })?;
        let rough = |s: &Stroke| Some(self.scanner.line(&inker.ink(s))?.body?.raggedness_um);
        let figures: Vec<f64> = self.normal_lines().collect::<Vec<_>>().into_par_iter().filter_map(rough).collect();
        Ok(if figures.len() < 3 { ((0..6).filter_map(|k| rough(&ruled(3.0 * f64::from(k)))).collect(), false) } else { (figures, true) })
    }

    /// Edges of the hand's lines beside the pen's; `steadied` where the match was free to smooth, and did what helps.
    pub fn compare_edge(&self, brush: &Brush, locked: bool, steadied: bool) -> Result<Option<PartMatch>, InkError> {
        let Some(e) = &self.card.edge else { return Ok(None) };
        if brush.edge.strip_png.is_some() {
            return Ok(None);
        }
        let (figures, by_hand) = self.roughness(brush)?;
        let sd = e.sd_um.map(|s| s.max(TOLD_OF_EDGE * e.raggedness_um));
        let pen = PenFigure { mean: e.raggedness_um, sd, n: f64::from(e.lines.unwrap_or(1)) };
        let share = self.normal_mm(brush)?.map(|w| 0.001 / w);
        let mut out = judged(Part::Edge, pen, &figures, share, words::edge_from(e.lines.unwrap_or(1), figures.len(), by_hand), words::edge);
        let rougher = out.verdict == Verdict::Differs && out.difference.is_some_and(|d| d > 0.0);
        if rougher && by_hand && !locked && brush.edge.raggedness_um < 0.5 * e.raggedness_um {
            (out.verdict, out.says) = (Verdict::CannotBeMatched, words::edge_of_hand(mean_sd(&figures).map_or(0.0, |m| m.0), e.raggedness_um, steadied));
        }
        Ok(Some(out))
    }
}

/// A level line of the brush's own, at normal effort.
fn ruled(y: f64) -> Stroke {
    const LONG: f64 = 60.0;
    let samples = (0..200).map(|i| Sample { t_ms: 5.0 * f64::from(i), x: LONG * f64::from(i) / 199.0, y, ..Default::default() });
    let mut stroke = Stroke::new(samples.collect());
    stroke.timed = false;
    stroke
}
