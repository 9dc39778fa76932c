//! A brush made from a pen and a profile, and what the bench lays out of it.

use eddymist_calibrate::{
    Exercise, PressurePairs, WarmUp,
    exercises::{self, Shown},
    fit_by,
    lanes::{Align, Lane, PenLine, lane, nearest, typical},
    matching::Part,
    smoothing::trade,
    warmup::{EFFORTS, Pace},
};
use eddymist_formats::{LIMITS, inkml};
use eddymist_ink::{Brush, Inker, Sample, Stroke};
use eddymist_measure::sheet::layout::CellKind;
use uuid::Uuid;

use crate::{
    problem::{Answer, Problem},
    state::State,
};
use eddymist_store::{
    model::{Access, Bench, BenchRequest, BrushVersion, LaneExercise, NewBrush, PenView, ProfileView, Subject},
    store,
};

/// Pen and profile that a brush is held against.
pub struct Against {
    pub pen: Option<PenView>,
    pub profile: Option<(ProfileView, WarmUp)>,
    /// Of this pen and profile.
    pub pairs: Option<PressurePairs>,
}

/// The same with the warm-up as it is kept: reading it is no work for the threads that serve.
pub struct Kept {
    pen: Option<PenView>,
    profile: Option<(ProfileView, String)>,
    pairs: Option<PressurePairs>,
}

/// What reading a warm-up and fitting to it takes.
pub const WARM_UP_BYTES: u64 = 192 << 20;

impl Kept {
    pub fn read(self) -> Answer<Against> {
        let profile = match self.profile {
            Some((view, text)) => Some((view, inkml::read(&text, &LIMITS).and_then(|f| f.warmup()).map_err(Problem::input)?)),
            None => None,
        };
        Ok(Against { pen: self.pen, profile, pairs: self.pairs })
    }
}

pub async fn against(state: &State, access: &Access, pen: Option<Uuid>, profile: Option<Uuid>) -> Answer<Kept> {
    let pen = match pen {
        Some(id) => Some(store::pens::one(&state.pool, access.production, id).await?.ok_or_else(|| Problem::not_found("the pen"))?),
        None => None,
    };
    let profile = match profile {
        Some(id) => Some(store::profiles::one(&state.pool, access.production, id).await?.ok_or_else(|| Problem::not_found("the profile"))?),
        None => None,
    };
    // Pairs of another pen, or of one that nobody knows any longer, have given the profile its response; this pen's laws are not theirs.
    let pairs = match (&pen, &profile) {
        (Some(pen), Some((p, _))) if p.profile.response_from.is_some() => {
            store::profiles::pairs(&state.pool, access.production, p.id).await?.filter(|f| f.1 == Some(pen.id)).map(|f| f.0)
        }
        _ => None,
    };
    Ok(Kept { pen, profile, pairs })
}

/// Makes a brush: fitted to a pen, copied, or plain.
pub async fn create_brush(state: &State, access: &Access, new: NewBrush) -> Answer<Uuid> {
    let (mut brush, pen, profile, says) = if let Some(source) = new.copy_of {
        let from = store::brushes::one(&state.pool, access.production, access.member.id, source).await?.ok_or_else(|| Problem::not_found("the brush"))?;
        let v = version(state, access, source, new.copy_version.unwrap_or(from.current_version)).await?;
        (v.brush, from.pen.map(|p| p.id), from.profile.map(|p| p.id), format!("copy of {}, version {}", from.name, v.version))
    } else {
        let a = against(state, access, new.pen_id, new.profile_id).await?;
        let fitted = move || {
            let a = a.read()?;
            Ok(match &a.pen {
                Some(pen) => {
                    let (warmup, profile) = (a.profile.as_ref().map(|p| &p.1), a.profile.as_ref().map(|p| &p.0.profile));
                    fit_by(&card_of(pen), warmup, profile, None, &[], a.pairs.as_ref()).map_err(Problem::input)?.brush
                }
                None => Brush::plain("plain", 0.5),
            })
        };
        let brush = state.heavy.work(WARM_UP_BYTES, fitted).await?;
        (brush, new.pen_id, new.profile_id, if new.pen_id.is_some() { "first match".into() } else { "plain brush".into() })
    };
    if !new.name.trim().is_empty() {
        brush.name = new.name.trim().into();
    }
    brush.validate().map_err(Problem::input)?;
    let mut tx = state.pool.begin().await?;
    let id = store::brushes::create(&mut tx, access, &brush, pen, profile, &says).await?;
    store::audit::pictured(&mut tx, access, "brush made", &format!("{} ({says})", brush.name), Subject::Brush, &[id]).await?;
    tx.commit().await?;
    Ok(id)
}

/// A pen's card, with widths at one effort at least.
pub fn card_of(pen: &PenView) -> eddymist_calibrate::PenCard {
    eddymist_calibrate::PenCard { widths_by_effort: pen.card.widths_by_effort.clone().or_else(|| normal(pen)), ..pen.card.clone() }
}

/// All of a pen's lines as of normal effort, where the artist said no efforts: the quick way.
pub fn normal(pen: &PenView) -> Option<Vec<eddymist_calibrate::pen_card::WidthAtEffort>> {
    let measured = pen.measurement.as_ref()?;
    let all = vec![Some(0.5); measured.lines.len()];
    eddymist_calibrate::PenCard::from_lines(&pen.name, measured, &all, Default::default()).widths_by_effort
}

/// Pen and brush over one ruler, part by part.
pub fn laid_out(a: &Against, ask: &BenchRequest, under: Option<&Brush>) -> Answer<Bench> {
    let warmup = a.profile.as_ref().map(|p| &p.1);
    let profile = a.profile.as_ref().map(|p| &p.0.profile);
    let locked: Vec<Part> = Part::ALL.iter().map(|p| p.0).filter(|p| !ask.fit.contains(p)).collect();
    let found = match &a.pen {
        Some(pen) => Some(fit_by(&card_of(pen), warmup, profile, Some(&ask.brush), &locked, a.pairs.as_ref()).map_err(Problem::input)?),
        None => None,
    };
    let brush = found.as_ref().map_or(&ask.brush, |f| &f.brush);
    let inker = |brush: &Brush| {
        let response = profile.map(|p| p.curve()).transpose().map_err(Problem::input)?;
        // The pen's line is the middle one of its kind, and so is the brush's: what is left to chance would make any of one stroke.
        Inker::new(&Brush { chance: None, ..brush.clone() }, response, None).map_err(Problem::input)
    };
    let effort = ask.effort.unwrap_or(0.5);
    let mut lane = exercise(a, ask.exercise, effort, &inker(brush)?)?;
    if let Some(earlier) = under {
        lane.under = exercise(a, ask.exercise, effort, &inker(earlier)?)?.brush;
    }
    let spread = a.pen.as_ref().and_then(|p| p.card.pooled_spread_mm()).map(|mm| 1000.0 * mm);
    let smoothing = warmup.and_then(|w| trade(&brush.smoothing.position, w));
    let efforts = EFFORTS.iter().map(|e| e.0).collect();
    Ok(Bench { lane, smoothing, found, spread_um: spread.filter(|s| *s > 0.0), efforts, effort })
}

/// One exercise: the pen's, and the hand's as inked.
pub fn exercise(a: &Against, which: Option<LaneExercise>, effort: f64, inker: &Inker) -> Answer<Lane> {
    let warmup = a.profile.as_ref().map(|p| &p.1);
    let sheet = a.pen.as_ref().and_then(|p| p.sheet.as_ref()).map(|s| &s.reading);
    let shown = |what| exercises::shown(what, sheet, warmup, inker).map_err(Problem::input);
    // A sheet's own strokes show the exercises that are no ruled lines.
    let of_sheet = |kind: CellKind, id: &str| {
        let cell = sheet?.cells.iter().find(|c| c.kind == kind && (id.is_empty() || c.id == id))?;
        typical(cell.strokes.iter(), |s| mean(s.width_mm.iter().copied())).map(|s| PenLine::from_stroke(s, None))
    };
    let (stand_in, own);
    // What the pen's lines were drawn with, where the lane's stroke is meant to be drawn so too.
    let (mut meant, mut pen_mm_s) = (None, None);
    let (line, stroke, align) = match which {
        Some(LaneExercise::Dots) => return shown(Shown::Dots),
        Some(LaneExercise::Fan) => return shown(Shown::Fan),
        Some(LaneExercise::Circle) => return shown(Shown::Circle),
        Some(LaneExercise::Hatching) => return shown(Shown::Hatching),
        Some(which @ (LaneExercise::Slow | LaneExercise::Normal | LaneExercise::Fast)) => {
            let pace = match which {
                LaneExercise::Slow => Pace::Slow,
                LaneExercise::Fast => Pace::Fast,
                _ => Pace::Normal,
            };
            own = warmup.map(|w| w.at_pace(pace)).unwrap_or_default();
            meant = Some(0.5);
            let paces = a.pen.iter().flat_map(|p| p.card.widths_by_pace.iter().flatten());
            pen_mm_s = paces.clone().find(|p| p.pace == pace.name()).map(|p| p.speed_mm_s);
            (of_sheet(CellKind::Pace, &format!("pace-{}", pace.name())), nearest(&own, inker, 0.5), Align::Body)
        }
        Some(LaneExercise::Flick) => (of_sheet(CellKind::FlickOut, ""), warmup.and_then(|w| typical(w.strokes(Exercise::Flick), |s| pressed(s))), Align::End),
        Some(LaneExercise::Ramp) => (of_sheet(CellKind::Ramp, ""), warmup.and_then(|w| w.strokes(Exercise::Ramp).next()), Align::Start),
        None => {
            let near = |e: f64| (e - effort).abs() < 1e-6;
            let of_pen = a.pen.iter().flat_map(|p| &p.lines).filter(|l| near(l.effort.unwrap_or(0.5)));
            // Without a hand a ruled stroke stands in for it, pressed by the effort itself.
            stand_in = warmup.is_none().then(|| ruled(effort));
            let of_hand = warmup.iter().flat_map(|w| w.efforts()).filter(|s| near(s.0)).map(|s| s.1);
            meant = warmup.map(|_| effort);
            (typical(of_pen, |l| mean(l.width_mm.iter().copied())).cloned(), nearest(of_hand, inker, effort).or(stand_in.as_ref()), Align::Body)
        }
    };
    let shown = lane(line.as_ref(), stroke, inker, align).with_pace(pen_mm_s, stroke);
    Ok(if let Some(meant) = meant { shown.with_press(stroke, inker, meant) } else { shown })
}

/// A straight stroke of one pressure: 70 mm in a second.
fn ruled(pressure: f64) -> Stroke {
    let at = |i: i32| Sample { t_ms: 5.0 * f64::from(i), x: 0.35 * f64::from(i), pressure: Some(pressure), ..Sample::default() };
    Stroke::new((0..=200).map(at).collect())
}

fn mean(of: impl Iterator<Item = f64>) -> f64 {
    let (n, sum) = of.fold((0.0, 0.0), |(n, sum), v| (n + 1.0, sum + v));
    if n > 0.0 { sum / n } else { 0.0 }
}

/// How hard a stroke was pressed, in the mean.
fn pressed(stroke: &Stroke) -> f64 {
    mean(stroke.samples.iter().filter_map(|s| s.pressure))
}

/// One version of a brush.
pub async fn version(state: &State, access: &Access, id: Uuid, version: i32) -> Answer<BrushVersion> {
    store::brushes::version(&state.pool, access.production, id, version).await?.ok_or_else(|| Problem::not_found("this version of the brush"))
}
