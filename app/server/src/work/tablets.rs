//! A tablet profile from a warm-up: read, made and kept.

use eddymist_calibrate::{
    Exercise, Group, WarmUp,
    profile::{has_slips, profile, used_histogram},
    warmup::Pace,
};
use eddymist_formats::{LIMITS, inkml};
use eddymist_ink::{Sample, Stroke};
use uuid::Uuid;

use crate::{
    problem::{Answer, Problem},
    state::State,
};
use eddymist_store::{
    model::{Access, DrawnGroup, NewProfile, ProfileReading},
    store,
};

/// Reads a warm-up and what it tells.
pub fn reading(text: &str, label: &str, slips_counted: Option<bool>) -> Answer<ProfileReading> {
    let mut found = inkml::read(text, &LIMITS).and_then(|f| f.warmup()).map_err(Problem::input)?;
    let known = (found.scale_from_card, found.slips_counted);
    found.slips_counted = slips_counted.unwrap_or(found.slips_counted);
    let warmup = found.scaled_by_card().ok_or_else(|| {
        Problem::input("the traced sides are no card's: lay a bank card down and trace one long and one short side of it, or leave the card out")
    })?;
    let inkml = if (warmup.scale_from_card, warmup.slips_counted) == known { text.to_string() } else { inkml::write_warmup(&warmup) };
    let profile = profile(&warmup, label).map_err(Problem::input)?;
    let slips_counted = has_slips(&warmup).then_some(warmup.slips_counted);
    Ok(ProfileReading { used: used_histogram(&warmup, BINS), profile, inkml, slips_counted })
}

/// The strokes that the page took, as a warm-up.
pub fn from_page(groups: Vec<DrawnGroup>) -> Answer<WarmUp> {
    super::inked::strokes(groups.iter().flat_map(|g| &g.strokes).map(Vec::as_slice))?;
    let mut out = Vec::new();
    for g in groups {
        let exercise = Exercise::from_name(&g.exercise).ok_or_else(|| Problem::input(format!("the exercise “{}” is not known", g.exercise)))?;
        let pace = g.pace.as_deref().map(|p| Pace::from_name(p).ok_or_else(|| Problem::input(format!("the pace “{p}” is not known")))).transpose()?;
        let strokes: Vec<Stroke> = g.strokes.iter().map(|s| sampled(s)).collect();
        if !strokes.is_empty() {
            out.push(Group { exercise, effort: g.effort, pace, strokes });
        }
    }
    Ok(WarmUp { groups: out, scale_from_card: false, slips_counted: false })
}

/// The response that a kept warm-up's own exercises give; empty where they give none.
pub fn by_efforts(warmup: &str) -> Vec<[f64; 2]> {
    reading(warmup, "", None).map(|r| r.profile.response).unwrap_or_default()
}

/// A stroke as the page took it: six numbers a sample.
pub fn sampled(numbers: &[Option<f64>]) -> Stroke {
    let samples = numbers
        .chunks_exact(6)
        .filter_map(|v| Some(Sample { t_ms: v[0]?, x: v[1]?, y: v[2]?, pressure: v[3].map(|p| p.clamp(0.0, 1.0)), azimuth_deg: v[4], elevation_deg: v[5] }));
    Stroke::new(samples.collect())
}

/// Keeps the profile of a warm-up.
pub async fn keep_profile(state: &State, access: &Access, new: NewProfile) -> Answer<Uuid> {
    if new.artist.trim().is_empty() || new.tablet.trim().is_empty() {
        return Err(Problem::input("say whose hand it was and on which tablet"));
    }
    let label = format!("{} on the {}", new.artist.trim(), new.tablet.trim());
    let (text, named) = (new.inkml.clone(), label.clone());
    let reading = state.heavy.work(super::brushes::WARM_UP_BYTES, move || reading(&text, &named, None)).await?;
    let mut tx = state.pool.begin().await?;
    let id = store::profiles::keep(&mut tx, access, &new, &reading, None).await?;
    store::audit::log(&mut tx, access, "profile saved", &label).await?;
    tx.commit().await?;
    Ok(id)
}

const BINS: usize = 40;
