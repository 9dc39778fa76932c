//! What a match is fitted from and compared on: the pen's card, and the strokes of the hand by exercise.
//!
//! Limits: strokes of eight samples and fewer say nothing; a dot held less than two fifths or more than two and a half times as long as
//! the pen's says nothing of it.

use eddymist_ink::{Brush, Curve, InkError, InkedStroke, Inker, Stroke, brush::Edge};

use rayon::prelude::*;

use super::scanned::CardScanner;
use crate::{
    pen_card::PenCard,
    warmup::{Exercise, WarmUp},
};

/// What is fitted from and compared on.
pub struct Bench<'a> {
    pub card: &'a PenCard,
    pub warmup: Option<&'a WarmUp>,
    pub response: Option<&'a Curve>,
    pub scanner: CardScanner,
}

impl Bench<'_> {
    /// Inks without chance, and with edges as smooth as the nib makes them: both are other parts, and every other is read where they do not reach.
    pub(super) fn inker(&self, brush: &Brush) -> Result<Inker, InkError> {
        self.rough_inker(&Brush { edge: smooth(&brush.edge), ..brush.clone() })
    }

    /// The same with the brush's own edges.
    pub(super) fn rough_inker(&self, brush: &Brush) -> Result<Inker, InkError> {
        Inker::new(&Brush { chance: None, ..brush.clone() }, self.response.cloned(), None)
    }

    pub(super) fn strokes(&self, exercise: Exercise) -> Vec<&Stroke> {
        self.warmup.map(|w| w.strokes(exercise).filter(|s| s.samples.len() > 8).collect()).unwrap_or_default()
    }

    /// Dots of the hand that were held about as long as the pen's: one held shorter or longer says nothing of it.
    pub(super) fn dots(&self) -> Vec<&Stroke> {
        let meant = self.card.pooling.as_ref().and_then(|p| p.held_s);
        let held = |s: &Stroke| Some((s.samples.last()?.t_ms - s.samples[0].t_ms) / 1000.0);
        let alike = |s: &&Stroke| meant.zip(held(s)).is_none_or(|(m, h)| (0.4..2.5).contains(&(h / m)));
        self.strokes(Exercise::Dot).into_iter().filter(alike).collect()
    }

    /// Each dot's diameter over the width of the hand's lines at normal effort, `line_mm`; where it drew none, over the dot without pooling.
    pub(super) fn grown(&self, brush: &Brush, dots: &[&Stroke], line_mm: Option<f64>) -> Result<Vec<f64>, InkError> {
        // A held dot has neither of the tapers.
        let bare = Brush { lead_in: None, lead_out: None, ..brush.clone() };
        let (with, without) = (self.inker(&bare)?, self.inker(&Brush { pooling: None, ..bare.clone() })?);
        let widest = |i: &InkedStroke| i.samples.iter().map(|s| s.nib_mm).fold(0.0, f64::max);
        let wide = |i: &InkedStroke| self.scanner.dot_mm(i).unwrap_or_else(|| widest(i));
        Ok(dots.par_iter().map(|s| wide(&with.ink(s)) / line_mm.unwrap_or_else(|| wide(&without.ink(s))).max(1e-9)).collect())
    }
}

/// An edge without its roughness.
pub(super) fn smooth(edge: &Edge) -> Edge {
    Edge { raggedness_um: 0.0, strip_png: None, ..edge.clone() }
}

/// A number at so many parts to one.
pub(super) fn round(v: f64, digits: f64) -> f64 {
    (v * digits).round() / digits
}
