//! One page from the hand to the pairs, and how far off they are from the truth.

use eddymist_calibrate::{
    Exercise, Group, PenCard, PressurePairs, WarmUp,
    pairs::{Drawn, PairError, Way, pair, response_on_card},
    pen_card::{CardNib, FORMAT, Note, WidthAtEffort},
    profile,
    warmup::{EFFORTS, Pace},
};
use eddymist_ink::Stroke;
use eddymist_ink::{Curve, Outline};
use eddymist_measure::{
    colour::linear,
    inked::{self, InkedPage},
    scan::Scan,
    stats::{median, quantile},
};

use super::{Askew, GoesOver, Moment, OnPaper, PAGE_MM, PairedPage, courses, moments, over, paper, uneven};
use crate::{
    normal,
    pens::PENS,
    rng,
    scanner::{Lamp, Scanner, scan},
    stylus::{HANDS, Hand, TABLETS, Tablet, draw},
};

/// How a trial goes: who, with what, on what.
#[derive(Clone)]
pub struct Trial {
    pub hand: Hand,
    pub tablet: Tablet,
    pub pen: OnPaper,
    pub scanner: Scanner,
    pub askew: Askew,
    pub goes: GoesOver,
    /// By how much the named efforts are off at most, and by which law.
    pub uneven: f64,
    pub law: usize,
    pub seed: u64,
}

/// How far off the pairs are; shares of the pen's mean width.
#[derive(Debug, Clone, Copy)]
pub struct Off {
    /// Of strokes that were not in it, median and 95th percentile.
    pub width: [f64; 2],
    /// The same by the five efforts.
    pub five: [f64; 2],
    pub lag_ms: f64,
    /// The places on the scan, median and 95th percentile, mm.
    pub place_mm: [f64; 2],
    /// Factors by speed over 30 to 120 mm/s, worst; none of lines that were gone over.
    pub pace: Option<f64>,
    /// Degrees; of a chisel alone.
    pub angle_deg: Option<f64>,
}

impl Trial {
    /// A trial by its number: all hands, tablets and flexible pens come up, and both laws of each nuisance.
    pub fn by_seed(seed: u64, pen: &str) -> Option<Self> {
        let mut r = rng(seed, 0x7A);
        let mut share = || 0.5 + 0.5 * (normal(&mut r) / 1.2).tanh();
        let pen = PENS.iter().find(|p| p.id == pen)?;
        let lamp = [Lamp::Plain, Lamp::Lid(0.3), Lamp::Bands(0.15), Lamp::Gutter(0.3)][seed as usize % 4];
        Some(Self {
            hand: HANDS[seed as usize % HANDS.len()],
            tablet: TABLETS[seed as usize / 3 % TABLETS.len()],
            pen: OnPaper::new(pen),
            scanner: Scanner { turn_deg: 4.0 * share() - 2.0, lamp, ..Scanner::fair(300.0) },
            askew: Askew {
                turn_deg: 16.0 * share() - 8.0,
                shift_mm: [60.0 * share() - 20.0, 50.0 * share() - 15.0],
                stretch: [1.0 + 0.012 * (share() - 0.5), 1.0 + 0.012 * (share() - 0.5)],
                bend_mm: 0.35 * share(),
                corners: seed % 2 == 1,
            },
            goes: GoesOver { lag_ms: 40.0 + 80.0 * share(), miss_mm: 0.6 + 0.4 * share(), even: seed / 2 % 2 == 1, times: 4 },
            uneven: (if seed.is_multiple_of(2) { 0.15 } else { -0.15 }) * (0.8 + 0.2 * share()),
            law: seed as usize / 2 % 2,
            seed,
        })
    }

    /// What was drawn and recorded.
    pub fn page(&self, way: Way) -> PairedPage {
        match way {
            Way::Paper => paper(&self.hand, &self.tablet, &self.pen, &self.askew, self.seed),
            Way::Over => over(&self.hand, &self.tablet, &self.pen, &self.goes, self.seed),
        }
    }

    /// The scan of that, in linear light. A page that is gone over lies straight on the glass.
    pub fn scan(&self, way: Way, ink: &[Outline]) -> Scan {
        let scanner = if way == Way::Over { Scanner { turn_deg: 0.0, ..self.scanner } } else { self.scanner };
        let grey = scan(&scanner, ink, PAGE_MM, self.seed);
        let table: Vec<f32> = (0..256).map(|v| linear(v as f32 / 255.0)).collect();
        Scan { width: grey.width, height: grey.height, data: grey.data.iter().map(|v| table[*v as usize]).collect(), dpi: scanner.dpi }
    }

    /// The lines of the scan.
    pub fn lines(&self, way: Way, ink: &[Outline]) -> Option<InkedPage> {
        inked::page(&self.scan(way, ink)).ok()
    }

    /// The same hand's five efforts, unevenly spaced.
    pub fn efforts(&self) -> WarmUp {
        let stroke = |e: f64, k: u64| {
            let meant = uneven(e, self.uneven, self.law);
            let y = 10.0 + 6.0 * k as f64;
            draw(&self.hand, &self.tablet, &[[20.0, y], [100.0, y]], |_| meant, 1.0, 4000.0 * k as f64, self.seed.wrapping_mul(77).wrapping_add(k))
        };
        let group = |(i, (e, _)): (usize, (f64, &str))| Group {
            exercise: Exercise::Effort,
            effort: Some(e),
            pace: Some(Pace::Normal),
            strokes: (0..4).map(|k| stroke(e, 10 * i as u64 + k)).filter(|s| !s.samples.is_empty()).collect(),
        };
        WarmUp { groups: EFFORTS.into_iter().enumerate().map(group).collect(), scale_from_card: false, slips_counted: false }
    }

    /// The pen's card, without error.
    pub fn card(&self) -> PenCard {
        let width = |(effort, _): (f64, &str)| WidthAtEffort {
            effort,
            width_mm: self.pen.pen.width(effort),
            sd_mm: Some(self.pen.pen.spread * self.pen.pen.width(effort)),
            lines: 6,
            each_mm: None,
            force_n: None,
        };
        PenCard {
            format: FORMAT.into(),
            version: 1,
            name: self.pen.pen.name.into(),
            resolution_dpi: 600.0,
            widths_by_effort: Some(EFFORTS.map(width).to_vec()),
            ramp: None,
            nib: None,
            lead_in: None,
            lead_out: None,
            widths_by_pace: None,
            pooling: None,
            edge: None,
            darkness: None,
            hatching: None,
            free_line: None,
            note: Note::default(),
            strip_png: None,
            nearest_standard_width_mm: None,
            source: None,
            warnings: Vec::new(),
        }
    }

    /// The pairs of what was drawn.
    pub fn pairs(&self, way: Way, drawn: &PairedPage, page: &InkedPage) -> Result<PressurePairs, PairError> {
        let strokes: Vec<&Stroke> = drawn.strokes.iter().filter(|s| !s.samples.is_empty()).collect();
        pair(page, self.scanner.dpi, &Drawn { strokes, efforts: Vec::new(), scale_from_card: false, start: None }, way, None)
    }

    /// All of it, and how far off.
    pub fn run(&self, way: Way) -> Result<Off, String> {
        let drawn = self.page(way);
        let page = self.lines(way, &drawn.ink).ok_or("the page could not be read")?;
        let pairs = self.pairs(way, &drawn, &page).map_err(|e| e.to_string())?;
        self.off(way, &drawn, &pairs).ok_or_else(|| "nothing to compare".into())
    }

    /// How far off pairs are.
    pub fn off(&self, way: Way, drawn: &PairedPage, pairs: &PressurePairs) -> Option<Off> {
        let (card, warmup) = (self.card(), self.efforts());
        let five = profile(&warmup, "").ok()?.curve().ok()?;
        let curve = |knots: &[[f64; 2]]| Curve::new(knots).ok();
        let by_effort = curve(&card.widths_by_effort.iter().flatten().map(|w| [w.effort, w.width_mm]).collect::<Vec<_>>())?;
        let widths = curve(&pairs.widths)?;
        let pace = pairs.pace.as_deref().and_then(curve);
        let level = mean_log(pairs, |p, n| n.width_toward(p.direction_deg));
        let toward = |d: f64| pairs.nib.as_ref().map_or(1.0, |n| n.width_toward(d) / level);
        // Strokes of the same hand that were not in it.
        let (mut own, mut named, mut mean) = (Vec::new(), Vec::new(), Vec::new());
        for (k, c) in courses(self.seed + 7777).iter().enumerate() {
            let s = draw(&self.hand, &super::clean(&self.tablet), &c.path, |u| c.effort(u), c.pace, 0.0, self.seed + 31 * k as u64);
            for (m, p) in moments(&self.hand, &self.tablet, &s).iter().zip(&s.samples).step_by(3) {
                let raw = p.pressure?;
                // Past what the tablet tells apart no pair can say anything.
                if raw >= self.tablet.full_point - 1e-6 {
                    continue;
                }
                let speed = if way == Way::Over { 59.16 } else { m.speed };
                let truth = self.pen.width(m.effort, speed, m.direction_deg);
                let told = widths.value(raw) * pace.as_ref().map_or(1.0, |p| p.value(m.speed)) * toward(m.direction_deg);
                own.push((told - truth).abs());
                // The five efforts know neither pace nor nib: those are told to them.
                named.push((by_effort.value(five.value(raw)) * truth / self.pen.pen.width(m.effort) - truth).abs());
                mean.push(truth);
            }
        }
        let mean = mean.iter().sum::<f64>() / mean.len().max(1) as f64;
        let both = |v: &[f64]| Some([median(v)? / mean, quantile(v, 0.95)? / mean]);
        let speeds: Vec<f64> = pairs.pairs.iter().map(|p| p.speed_mm_s).collect();
        let reference = median(&speeds)?;
        let pace_off = |v: f64| {
            let told = pace.as_ref().map_or(1.0, |p| p.value(v) / p.value(reference));
            (told / (self.pen.pace(v) / self.pen.pace(reference)) - 1.0).abs()
        };
        let angle = match (self.pen.ways.nib_angle_deg(), &pairs.nib) {
            (Some(truth), Some(CardNib::Ellipse { angle_deg, .. })) => Some(((angle_deg - truth + 90.0).rem_euclid(180.0) - 90.0).abs()),
            (Some(_), _) => Some(90.0),
            _ => None,
        };
        Some(Off {
            width: both(&own)?,
            five: both(&named)?,
            lag_ms: pairs.lag_ms - if way == Way::Over { self.goes.lag_ms } else { 0.0 },
            place_mm: self.places(way, drawn, pairs)?,
            pace: (way == Way::Paper).then(|| [30.0, 50.0, 70.0, 95.0, 120.0].map(pace_off).into_iter().fold(0.0, f64::max)),
            angle_deg: angle,
        })
    }

    /// How far the pairs' places lie from where the pen truly was, mm; of lines that were gone over, from their middle.
    fn places(&self, way: Way, drawn: &PairedPage, pairs: &PressurePairs) -> Option<[f64; 2]> {
        if way == Way::Over {
            return Some([pairs.registration_mm.median, pairs.registration_mm.p95]);
        }
        let (sin, cos) = (-self.scanner.turn_deg.to_radians()).sin_cos();
        let [w, h] = PAGE_MM;
        let middle = [0.5 * (w * cos.abs() + h * sin.abs()), 0.5 * (w * sin.abs() + h * cos.abs())];
        let kept: Vec<&Vec<Moment>> = drawn.moments.iter().filter(|m| !m.is_empty()).collect();
        let mut off = Vec::new();
        for p in &pairs.pairs {
            let of = kept.get(p.stroke as usize)?;
            let k = of.partition_point(|m| m.t_ms < 1000.0 * p.t_s - 0.06).min(of.len() - 1);
            let (x, y) = (of[k].at[0] - 0.5 * w, of[k].at[1] - 0.5 * h);
            off.push((middle[0] + cos * x - sin * y - p.x_mm).hypot(middle[1] + sin * x + cos * y - p.y_mm));
        }
        Some([median(&off)?, quantile(&off, 0.95)?])
    }

    /// The response of the pairs on the card's scale, and the truth at its knots: the greatest difference in effort.
    pub fn response_off(&self, pairs: &PressurePairs) -> Option<f64> {
        let knots = response_on_card(pairs, &self.card())?;
        let truth = |raw: f64| super::effort_of(&self.hand, &self.tablet, raw);
        Some(knots.iter().filter(|k| k[0] < self.tablet.full_point - 0.01).map(|k| (k[1] - truth(k[0])).abs()).fold(0.0, f64::max))
    }
}

/// The mean over the pairs of a nib's widths, by their logarithms.
fn mean_log(pairs: &PressurePairs, width: impl Fn(&eddymist_calibrate::pairs::Pair, &CardNib) -> f64) -> f64 {
    let Some(n) = &pairs.nib else { return 1.0 };
    (pairs.pairs.iter().map(|p| width(p, n).max(1e-6).ln()).sum::<f64>() / pairs.pairs.len().max(1) as f64).exp()
}
