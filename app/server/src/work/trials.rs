//! A trial page inked: its strokes with their brushes, as outlines; and held against a page that was inked with a pen.

use std::collections::HashMap;

use eddymist_calibrate::my_page::{self, PagesBeside};
use eddymist_formats::{
    Given, LIMITS, ink_out,
    trial::{PageSize, TrialInk},
};
use eddymist_ink::{Brush, Course, Curve, Inked, Inker, Stroke};
use eddymist_reader::reading;
use uuid::Uuid;

use super::{inked::strokes, pairs::a_resolution};
use crate::{
    problem::{Answer, Problem},
    state::State,
};
use eddymist_store::{
    model::{Access, TrialPage, TrialView},
    store,
};

/// A brush at one of its versions, and the response of its profile.
pub type Inking = (Brush, Option<Vec<[f64; 2]>>);

/// A page with the brushes of its strokes.
pub struct Laid {
    pub page: TrialPage,
    pub brushes: HashMap<(Uuid, i32), Inking>,
}

pub async fn laid(state: &State, access: &Access, id: Uuid) -> Answer<Laid> {
    let page = found(state, access, id).await?.page;
    let mut brushes = HashMap::new();
    for s in &page.strokes {
        if let std::collections::hash_map::Entry::Vacant(free) = brushes.entry((s.brush_id, s.version)) {
            let v = crate::work::brushes::version(state, access, s.brush_id, s.version).await?;
            free.insert((v.brush, store::brushes::response(&state.pool, access.production, s.brush_id).await?));
        }
    }
    Ok(Laid { page, brushes })
}

impl Laid {
    pub fn size(&self) -> PageSize {
        PageSize { width_px: self.page.width_px as usize, height_px: self.page.height_px as usize, px_per_mm: self.page.px_per_mm }
    }

    /// About what inking and drawing it takes.
    pub fn bytes(&self) -> u64 {
        let pixels = u64::from(self.page.width_px) * u64::from(self.page.height_px);
        (64 << 20) + 12 * pixels + 400 * self.page.strokes.iter().map(|s| s.samples.len() as u64 / 6).sum::<u64>()
    }

    /// Every stroke with what inks it.
    pub fn strokes(&self) -> Answer<Vec<(Stroke, Inker)>> {
        let drawn = strokes(self.page.strokes.iter().map(|s| s.samples.as_slice()))?;
        let one = |(s, drawn): (&eddymist_store::model::TrialStroke, Stroke)| {
            let (brush, response) = &self.brushes[&(s.brush_id, s.version)];
            // Whoever looks at it: what was drawn goes through the tablet that it was drawn on.
            let response = s.response.as_ref().or(response.as_ref()).filter(|r| !r.is_empty());
            let response = response.map(|r| Curve::new(r)).transpose().map_err(Problem::input)?;
            let course = s.course.as_deref().map(Course::parse).transpose().map_err(Problem::input)?;
            let inker = Inker::new(&brush.weighed(s.weight_factor).tapered(s.tapers), response, course).map_err(Problem::input)?;
            let stroke = Stroke { zoom: s.zoom, timed: true, ..drawn };
            Ok((stroke, inker.at_px_per_mm(self.page.px_per_mm)))
        };
        self.page.strokes.iter().zip(drawn).map(one).collect()
    }

    pub fn ink(&self) -> Answer<Vec<TrialInk>> {
        let inked = self.strokes()?.into_iter().zip(&self.page.strokes);
        Ok(inked.map(|((s, i), t)| TrialInk { pass: t.role.clone(), colour: t.colour.clone(), inked: i.ink(&s).inked(WITHIN_MM) }).collect())
    }
}

/// Outlines are within this, mm.
pub const WITHIN_MM: f64 = 0.0005;

pub async fn found(state: &State, access: &Access, id: Uuid) -> Answer<TrialView> {
    store::trials::one(&state.pool, access.production, id).await?.ok_or_else(|| Problem::not_found("the trial page"))
}

/// A trial page is drawn no coarser and no finer than so many dpi, whatever the scan has.
const DPI: [f64; 2] = [150.0, 600.0];

/// The ink beside a scan's: drawn at the scan's resolution, and read by what reads the scan.
pub fn beside_scan(laid: &Laid, scan: &[u8], resolution_dpi: Option<f64>) -> Answer<PagesBeside> {
    resolution_dpi.map_or(Ok(()), a_resolution)?;
    let mine = reading::inked(scan, Given::dpi(resolution_dpi.map(|d| [d; 2])))?;
    let ink: Vec<Inked> = laid.ink()?.into_iter().map(|i| i.inked).collect();
    let dpi = mine.dpi.clamp(DPI[0], DPI[1]);
    if ink.is_empty() {
        return Err(Problem::input("nothing is inked on this trial page yet: ink the same drawing as on your own page"));
    }
    let drawn = ink_out::png(&ink, dpi, &LIMITS).map_err(Problem::input)?;
    let trial = reading::inked(&drawn, Given::dpi(Some([dpi; 2])))?;
    Ok(my_page::beside(&mine.page, &trial.page))
}
