//! Pressure and ink of the same strokes: read from a scan and a recording, and made a profile's response.

use eddymist_calibrate::{
    Exercise, PenCard, PressurePairs,
    pairs::{self, Drawn, Way},
};
use eddymist_formats::{Given, LIMITS, inkml};
use eddymist_ink::Stroke;
use eddymist_measure::inked::InkedLine;
use eddymist_reader::reading;
use eddymist_store::{
    model::{Access, NewProfile, PairsAsk, PairsView, ProfileReading, ProfileView, ScanLines},
    store,
};
use uuid::Uuid;

use super::{picture_bytes, tablets::sampled};
use crate::{
    problem::{Answer, Problem},
    state::State,
};

/// So many pairs are shown and saved: neighbours say the same.
const SHOWN: usize = 4000;
/// Places of a stroke that are shown.
const PLACES: usize = 200;

/// Strokes are moved by hand no farther than any stroke file reaches, mm.
const FARTHEST_MM: f64 = 10_000.0;

/// A resolution as scanners have it.
pub(super) fn a_resolution(dpi: f64) -> Answer<()> {
    if (50.0..=10_000.0).contains(&dpi) { Ok(()) } else { Err(Problem::input("the resolution must be a number of dpi between 50 and 10000")) }
}

/// Reads pairs; nothing is saved. `profile` is whose hand it was.
pub async fn read(state: &State, access: &Access, (profile, warmup): (ProfileView, String), ask: PairsAsk) -> Answer<PairsView> {
    a_resolution(ask.resolution_dpi)?;
    if let Some(n) = &ask.nudge
        && n.placement.iter().chain([&n.turn_deg, &n.dx_mm, &n.dy_mm]).any(|v| v.is_nan() || v.abs() > FARTHEST_MM)
    {
        return Err(Problem::input("the strokes were moved farther than any page reaches: undo the moves, and analyse again"));
    }
    let card = match ask.pen {
        Some(id) => Some(super::brushes::card_of(&store::pens::one(&state.pool, access.production, id).await?.ok_or_else(|| Problem::not_found("the pen"))?)),
        None => None,
    };
    super::inked::strokes(ask.strokes.iter().map(Vec::as_slice))?;
    let (_, bytes) = store::images::read(&state.pictures, access.production, &ask.scan_sha256).await?.ok_or_else(|| Problem::not_found("the scan"))?;
    let takes = picture_bytes(&bytes);
    state.heavy.work(takes, move || view(&bytes, (&profile, &warmup), &ask, card.as_ref())).await
}

fn view(bytes: &[u8], (profile, warmup): (&ProfileView, &str), ask: &PairsAsk, card: Option<&PenCard>) -> Answer<PairsView> {
    let file = ask.inkml.as_deref().map(|text| inkml::read(text, &LIMITS).map_err(Problem::input)).transpose()?;
    let own: Vec<Stroke> = ask.strokes.iter().map(|s| sampled(s)).filter(|s| !s.samples.is_empty()).collect();
    let mut drawn = match &file {
        Some(f) => {
            let of = f.paired(if ask.way == Way::Over { Exercise::Over } else { Exercise::Paper });
            Drawn { strokes: of.strokes, efforts: of.efforts, scale_from_card: of.scale_from_card, start: None }
        }
        None => Drawn { strokes: own.iter().collect(), efforts: Vec::new(), scale_from_card: false, start: None },
    };
    if drawn.strokes.is_empty() {
        return Err(Problem::input("nothing was drawn yet: draw on the surface, or drop a stroke file (InkML)"));
    }
    let page = reading::inked(bytes, Given::dpi(Some([ask.resolution_dpi; 2])))?;
    drawn.start = ask.nudge.as_ref().map(|n| n.laid(page.page.size_mm));
    let mut found = pairs::pair(&page.page, page.dpi, &drawn, ask.way, card).map_err(Problem::input)?;
    found.source = Some(page.source);
    let laid_mm = drawn.strokes.iter().map(|s| laid(s, &found)).collect();
    let found = found.thinned(SHOWN);
    let response = profile.profile.by_pairs(&found, card).map(|p| p.response).unwrap_or_default();
    let by_efforts = super::tablets::by_efforts(warmup);
    Ok(PairsView {
        efforts_off: pairs::responses_off(&by_efforts, &response),
        response,
        by_efforts,
        pen: ask.pen,
        size_mm: Some(page.page.size_mm),
        laid_mm,
        pairs: found,
    })
}

/// A stroke where it lies on the scan; the bend, under half a millimetre, is not shown.
fn laid(s: &Stroke, pairs: &PressurePairs) -> Vec<[f64; 2]> {
    let [a, b, c, d, e, f] = pairs.placement;
    let round = |v: f64| (v * 100.0).round() / 100.0;
    let stride = s.samples.len().div_ceil(PLACES).max(1);
    s.samples.iter().step_by(stride).map(|p| [round(a * p.x + b * p.y + c), round(d * p.x + e * p.y + f)]).collect()
}

/// Saves the profile anew, its response from the pairs.
pub async fn keep(state: &State, access: &Access, (profile, warmup): (ProfileView, String), ask: PairsAsk) -> Answer<Uuid> {
    let (artist, tablet, used, base) = (profile.artist.clone(), profile.tablet.clone(), profile.used.clone(), profile.profile.clone());
    let found = read(state, access, (profile, warmup.clone()), ask).await?;
    if found.response.is_empty() {
        return Err(Problem::input("these pairs show no response: this pen's width hardly goes by pressure. Use a pen that swells; the five efforts stand"));
    }
    let card = match found.pen {
        Some(id) => store::pens::one(&state.pool, access.production, id).await?.map(|p| super::brushes::card_of(&p)),
        None => None,
    };
    let profile = base.by_pairs(&found.pairs, card.as_ref()).ok_or_else(|| Problem::input("these pairs show no response"))?;
    let new = NewProfile { artist, tablet, inkml: warmup.clone() };
    let reading = ProfileReading { profile, used, inkml: warmup, slips_counted: None };
    let mut tx = state.pool.begin().await?;
    let id = store::profiles::keep(&mut tx, access, &new, &reading, Some((&found.pairs, found.pen))).await?;
    store::audit::log(&mut tx, access, "response by pairs of pressure and ink", &reading.profile.label).await?;
    tx.commit().await?;
    Ok(id)
}

/// Places along a line lie about so far apart, mm.
const APART_MM: f64 = 1.0;

/// The lines of a scan, as a hand that goes over them sees them.
pub fn lines(bytes: &[u8], resolution_dpi: Option<f64>) -> Answer<ScanLines> {
    resolution_dpi.map_or(Ok(()), a_resolution)?;
    let page = reading::inked(bytes, Given::dpi(resolution_dpi.map(|d| [d; 2])))?.page;
    let of = |l: &InkedLine| {
        let mut out: Vec<[f64; 2]> = Vec::new();
        for p in l.places.iter().map(|p| [p.x_mm, p.y_mm]) {
            if out.last().is_none_or(|q| (p[0] - q[0]).hypot(p[1] - q[1]) >= APART_MM) {
                out.push(p);
            }
        }
        out
    };
    Ok(ScanLines { lines: page.lines.iter().map(of).collect() })
}
