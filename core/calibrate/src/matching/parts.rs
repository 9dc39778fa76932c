//! The parts of a brush beside its weight, fitted: taken from the pen card as far as card and warm-up show them.
//!
//! Tapers are fitted to what is left over: on a flick the pressure already falls, and the brush adds only what the pen does
//! beyond that. What neither shows stays as the starting brush has it, and is said.

use eddymist_ink::{
    Brush, InkError, Stroke,
    brush::{AngleFrom, Edge, Nib, NibShape, Pooling, Taper},
};
use eddymist_measure::stats::{mean_sd, median};

use super::{
    bench::{Bench, round, smooth},
    document::Part,
    flick::{Ending, Tip, left_over},
    words,
};
use crate::{
    isotonic,
    pen_card::{CardNib, CardTaper},
    tapers,
};

/// Takes from the card what it shows of the parts that are open; the rest stays as the brush has it, and is said.
pub(super) fn fit_parts(bench: &Bench, brush: &mut Brush, open: &dyn Fn(Part) -> bool, assumed: &mut Vec<String>) {
    let mut of_nib = Vec::new();
    let mut keeps = |part: Part, name: &str| {
        if open(part) {
            assumed.push(format!("{name}: the card does not show it, so it is as the starting brush has it"));
        }
    };
    let (own, said) = bench.own_nib();
    match own {
        Some(own) if open(Part::Nib) => {
            brush.nib = bench.nib(&own, brush);
            of_nib = said;
        }
        None => keeps(Part::Nib, "nib"),
        _ => {}
    }
    match bench.pace() {
        // Driven by effort alone a pace would do nothing.
        Some(pace) if open(Part::Pace) => (brush.pace, brush.driver) = (Some(pace), None),
        None => keeps(Part::Pace, "pace"),
        _ => {}
    }
    if bench.card.pooling.is_none() {
        keeps(Part::Pooling, "pooling");
    }
    match bench.card.lead_in {
        Some(_) if open(Part::LeadIn) => brush.lead_in = bench.lead_in(brush),
        None => keeps(Part::LeadIn, "lead-in"),
        _ => {}
    }
    if bench.card.lead_out.is_none() {
        keeps(Part::LeadOut, "lead-out");
    }
    match bench.edge(brush) {
        Some(edge) if open(Part::Edge) => brush.edge = edge,
        None => keeps(Part::Edge, "edge"),
        _ => {}
    }
    assumed.extend(of_nib);
    if open(Part::LeadIn) || open(Part::LeadOut) {
        assumed.push("the tapers' shares and speed limits: as the starting brush has them, nothing shows them".into());
    }
}

impl Bench<'_> {
    /// The nib as the card has it, held as the page has it.
    pub fn nib(&self, own: &CardNib, start: &Brush) -> Nib {
        let keep = |shape: NibShape| Nib { shape, angle_from: AngleFrom::Page, widen_by_tilt: start.nib.widen_by_tilt, ..Nib::round() };
        match own {
            CardNib::Round { .. } => keep(NibShape::Round),
            CardNib::Ellipse { length_mm, breadth_mm, angle_deg, .. } => {
                Nib { breadth: Some((breadth_mm / length_mm).clamp(0.01, 1.0)), angle_deg: *angle_deg, ..keep(NibShape::Ellipse) }
            }
            CardNib::Spring { opening_mm, pull_deg, .. } => Nib { opening_mm: Some(*opening_mm), pull_deg: Some(*pull_deg), ..keep(NibShape::Spring) },
        }
    }

    /// Factors on the width by the hand's speed, from the card's three paces; none where they do not go one way.
    pub fn pace(&self) -> Option<Vec<[f64; 2]>> {
        let paces = self.card.widths_by_pace.as_ref()?;
        let normal = paces.iter().find(|p| p.pace == "normal")?.width_mm;
        let mut points: Vec<(f64, f64, f64)> = paces.iter().map(|p| (p.speed_mm_s, p.width_mm / normal, f64::from(p.lines))).collect();
        points.sort_by(|a, b| a.0.total_cmp(&b.0));
        points.dedup_by(|a, b| a.0 == b.0);
        let (first, last) = (points.first()?.1, points.last()?.1);
        // Isotonic regression rises: where the pen runs thin with speed it is turned over.
        let sign = if last < first { -1.0 } else { 1.0 };
        let turned: Vec<(f64, f64, f64)> = points.iter().map(|p| (p.0, sign * p.1, p.2)).collect();
        let knots = points.iter().zip(isotonic::regression(&turned)).map(|(p, y)| [round(p.0, 10.0), round(sign * y, 1e4)]).collect::<Vec<_>>();
        (knots.len() > 1).then_some(knots)
    }

    /// The pooling at which the dots of the hand, or else a pen held still as long as the card's, grow as the card's had; its time stays the brush's.
    /// Besides it what each dot would come to with each of the others left out.
    pub fn pooling(&self, start: &Brush) -> Result<(Option<Pooling>, Vec<Option<Pooling>>), InkError> {
        let dots = self.dots();
        let none = |p: Option<Pooling>| (p, vec![p; dots.len()]);
        let Some(p) = self.card.pooling.as_ref().filter(|p| p.ratio > 1.0) else { return Ok(none(None)) };
        let time_s = start.pooling.map_or(0.4, |b| b.time_s);
        let Some(held) = p.held_s else { return Ok(none(start.pooling)) };
        let of = |ratio: f64| Pooling { ratio: round(ratio.clamp(1.0, 10.0), 1e3), time_s };
        let guess = 1.0 + (p.ratio - 1.0) / (1.0 - (-held / time_s).exp()).max(0.05);
        if dots.is_empty() {
            return Ok(none(Some(of(guess))));
        }
        let own = self.normal_mm(start)?;
        // A dot grows straight with the ratio: two of them tell where the mean comes to the pen's. Once more from there, where it is not so straight.
        let mut best = (guess, Vec::new());
        for _ in 0..2 {
            let grown = |ratio: f64| self.grown(&Brush { pooling: Some(Pooling { ratio, time_s }), ..start.clone() }, &dots, own);
            let (low, high) = (best.0.clamp(1.0, 9.0), best.0.clamp(1.0, 9.0) + 0.1);
            let lines: Vec<[f64; 2]> = grown(low)?.iter().zip(grown(high)?).map(|(a, b)| [*a, (b - a) / (high - low)]).collect();
            let without = |left_out: Option<usize>| {
                let (n, at, slope) = lines
                    .iter()
                    .enumerate()
                    .filter(|(i, _)| lines.len() < 2 || left_out != Some(*i))
                    .fold((0.0, 0.0, 0.0), |t, (_, l)| (t.0 + 1.0, t.1 + l[0], t.2 + l[1]));
                (low + (p.ratio * n - at) / f64::max(slope, 0.1 * n)).clamp(1.0, 10.0)
            };
            best = (without(None), (0..lines.len()).map(|i| Some(of(without(Some(i))))).collect());
        }
        Ok((Some(of(best.0)), best.1))
    }

    /// The taper at one end that is left over on the hand's flicks or landings, and why the pen's cannot be reached, where it cannot.
    pub fn taper(&self, tip: Tip, brush: &Brush, strokes: &[&Stroke]) -> Result<(Option<Taper>, Option<String>), InkError> {
        let own = brush.taper(tip);
        let Some(card) = self.card_taper(tip) else { return Ok((own, None)) };
        let (share, over_mm_s) = own.as_ref().map_or((1.0, 0.0), |t| (t.share, t.over_mm_s));
        let inker = self.inker(&brush.with_taper(tip, None))?;
        let hand: Vec<Ending> = strokes.iter().map(|s| Ending::new(&inker.ink(s), tip)).collect();
        let least = card.at_90_mm + card.sd_mm.unwrap_or(0.0).max(0.05 * card.at_90_mm);
        let alone = median(&hand.iter().filter_map(|e| tapers::at_90_mm(&e.flick())).collect::<Vec<_>>()).unwrap_or(0.0);
        // Ink is joined straight between samples: it cannot run out over less than the last two are apart.
        let apart = median(&hand.iter().filter_map(|e| e.way_mm.get(1).copied()).collect::<Vec<_>>()).unwrap_or(0.0);
        let hinders = if alone > least {
            Some(words::hand_runs(tip).to_string())
        } else if apart > least {
            Some(words::reports_apart(apart, tip))
        } else {
            None
        };
        if card.at_90_mm <= 0.0 {
            return Ok((None, hinders));
        }
        let (mut length_mm, mut shape) = left_over(&card, &hand);
        // What is read of them on paper is held against the pen, and the ink's own profile reaches nine tenths a little elsewhere: the search goes there.
        let mut aim = card.clone();
        for _ in 0..if hinders.is_some() { 0 } else { 2 } {
            let taper = (length_mm > 0.05).then_some(Taper { length_mm, share, tip_width_mm: card.tip_width_mm, shape, over_mm_s });
            let made = self.inker(&brush.with_taper(tip, taper))?;
            let read: Vec<f64> = strokes.iter().filter_map(|s| tapers::at_90_mm(&self.scanner.flick(&made.ink(s), tip)?)).collect();
            let Some((mean, _)) = mean_sd(&read) else { break };
            let further = (aim.at_90_mm + card.at_90_mm - mean).clamp(0.5 * card.at_90_mm, 2.0 * card.at_90_mm);
            (aim.length_mm, aim.at_90_mm) = (card.length_mm * further / card.at_90_mm, further);
            (length_mm, shape) = left_over(&aim, &hand);
        }
        let tip_width_mm = round(card.tip_width_mm, 1e4);
        let taper = (length_mm > 0.05).then(|| Taper { length_mm: round(length_mm, 100.0), share, tip_width_mm, shape: round(shape, 100.0), over_mm_s });
        Ok((taper, hinders))
    }

    /// The card's taper at an end.
    pub fn card_taper(&self, tip: Tip) -> Option<CardTaper> {
        match tip {
            Tip::In => self.card.lead_in.clone(),
            Tip::Out => self.card.lead_out.clone(),
        }
    }

    /// The lead-in as the card has it, for a warm-up without a stroke that lands while moving.
    pub fn lead_in(&self, start: &Brush) -> Option<Taper> {
        let t = self.card.lead_in.as_ref()?;
        let (share, over_mm_s) = start.lead_in.map_or((1.0, 0.0), |b| (b.share, b.over_mm_s));
        (t.at_90_mm > 0.0).then(|| Taper {
            length_mm: round(t.length_mm, 100.0),
            share,
            tip_width_mm: round(t.tip_width_mm, 1e4),
            shape: round(t.shape, 100.0),
            over_mm_s,
        })
    }

    /// The edge with what is left of the pen's raggedness once the hand's own lines on this tablet have theirs.
    pub fn left_of_edge(&self, brush: &Brush) -> Result<Edge, InkError> {
        let Some(e) = self.card.edge.as_ref().filter(|_| brush.edge.strip_png.is_none()) else { return Ok(brush.edge.clone()) };
        let (own, by_hand) = self.roughness(&Brush { edge: smooth(&brush.edge), ..brush.clone() })?;
        let hand = if by_hand { median(&own).unwrap_or(0.0) } else { 0.0 };
        let wanted = (e.raggedness_um.powi(2) - hand * hand).max(0.0).sqrt();
        let with = |um: f64| Edge { raggedness_um: round(um, 10.0), ..brush.edge.clone() };
        // Of waves that are long the measure takes a part for the hand's: what is read of the brush says how much.
        let read = median(&self.roughness(&Brush { edge: with(wanted), ..brush.clone() })?.0).map_or(0.0, |r| (r * r - hand * hand).max(0.0).sqrt());
        Ok(with(if read > 0.0 { wanted * (wanted / read).clamp(0.5, 2.0) } else { wanted }))
    }

    /// Raggedness and its correlation as the card has them.
    pub fn edge(&self, start: &Brush) -> Option<Edge> {
        let e = self.card.edge.as_ref()?;
        Some(Edge {
            raggedness_um: round(e.raggedness_um, 10.0),
            correlation_um: e.raggedness_correlation_um.map_or(start.edge.correlation_um.max(100.0), |c| round(c, 1.0)),
            ..start.edge.clone()
        })
    }
}

/// A brush's taper by its end.
pub(super) trait Tapered {
    fn taper(&self, tip: Tip) -> Option<Taper>;
    fn with_taper(&self, tip: Tip, taper: Option<Taper>) -> Self;
}

impl Tapered for Brush {
    fn taper(&self, tip: Tip) -> Option<Taper> {
        match tip {
            Tip::In => self.lead_in,
            Tip::Out => self.lead_out,
        }
    }

    fn with_taper(&self, tip: Tip, taper: Option<Taper>) -> Self {
        match tip {
            Tip::In => Self { lead_in: taper, ..self.clone() },
            Tip::Out => Self { lead_out: taper, ..self.clone() },
        }
    }
}
