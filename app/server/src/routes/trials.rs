//! Trial pages: a brush judged in a real drawing.

use std::collections::HashSet;

use axum::{
    extract::{Multipart, Path, Query, State as Extract},
    response::Response,
};
use eddymist_calibrate::{is_response, my_page::PagesBeside};
use eddymist_formats::{
    LIMITS, images, inkml,
    trial::{self},
};
use eddymist_ink::{Course, InkedSample, Stroke};
use eddymist_reader::reading;
use uuid::Uuid;

use super::{
    archive::part,
    bodies::{Made, file, uploaded},
};
use crate::{
    plain::{Json, Sent},
    problem::{Answer, Problem},
    state::State,
    work::{
        inked::{NO_RESPONSE, strokes},
        pens::{keep_picture, media_type},
        picture_bytes,
        trials::{beside_scan, found, laid},
    },
};
use eddymist_store::{
    model::{Access, Kind, NewTrial, PageAsk, RoughView, SaveTrial, ScanLinesAsk, TrialPage, TrialSaved, TrialSizes, TrialSummary, TrialView},
    store,
};

/// Strokes of one page, and samples of all of them, at most.
const MOST_STROKES: usize = 5000;
const MOST_NUMBERS: usize = 6_000_000;

/// Keeps a rough, or a neighbouring drawing.
pub async fn rough(Extract(state): Extract<State>, access: Access, body: Multipart) -> Answer<Json<RoughView>> {
    let Some((_, bytes)) = uploaded(body).await?.files.into_iter().next() else {
        return Err(Problem::input("no file came with the request"));
    };
    let (width_px, height_px) = images::dimensions(&bytes, &LIMITS).map_err(Problem::input)?;
    let px_per_mm = images::resolution(&bytes).map(|dpi| dpi / 25.4);
    let sha256 = keep_picture(&state, access.production, media_type(&bytes), &bytes).await?;
    Ok(Json(RoughView { sha256, width_px, height_px, px_per_mm }))
}

fn checked(page: &TrialPage) -> Answer<()> {
    let sides = 1..=12_000;
    if !sides.contains(&page.width_px) || !sides.contains(&page.height_px) || !(0.2..=200.0).contains(&page.px_per_mm) {
        return Err(Problem::input("a trial page has sides of 1 to 12,000 px and 0.2 to 200 px to the mm"));
    }
    if page.strokes.len() > MOST_STROKES || page.strokes.iter().map(|s| s.samples.len()).sum::<usize>() > MOST_NUMBERS {
        return Err(Problem::input(format!("a trial page holds up to {MOST_STROKES} strokes and a million samples: begin another")));
    }
    strokes(page.strokes.iter().map(|s| s.samples.as_slice()))?;
    for s in &page.strokes {
        let fine = (0.05..=20.0).contains(&s.weight_factor) && (0.01..=100.0).contains(&s.zoom) && eddymist_formats::library::is_colour(&s.colour);
        if !fine || s.samples.is_empty() || s.samples.len() % 6 != 0 || s.samples.iter().flatten().any(|v| !v.is_finite()) {
            return Err(Problem::input("a stroke has six numbers a sample, a weight factor of 0.05 to 20, and a colour #rrggbb"));
        }
        if ![s.tapers.lead_in_mm, s.tapers.lead_out_mm].into_iter().flatten().all(|mm| (0.0..=1000.0).contains(&mm)) {
            return Err(Problem::input("a stroke's own tapers are 0 to 1000 mm long"));
        }
        s.course.as_deref().map(Course::parse).transpose().map_err(Problem::input)?;
        if !s.response.as_ref().is_none_or(|r| is_response(r)) {
            return Err(Problem::input(NO_RESPONSE));
        }
    }
    Ok(())
}

/// What a page names is the production's own. What it named before is not asked for again: it may have been removed since.
async fn own(state: &State, access: &Access, page: &TrialPage, before: Option<&TrialPage>) -> Answer<()> {
    let known = before.map(TrialPage::pictures).unwrap_or_default();
    let fresh: HashSet<String> = page.pictures().into_iter().filter(|s| !known.contains(s)).collect();
    let fresh: Vec<String> = fresh.into_iter().collect();
    if store::images::held(&state.pool, access.production, &fresh).await? < fresh.len() as i64 {
        return Err(Problem::not_found("the rough or a neighbouring drawing"));
    }
    if let Some(drawing) = page.drawing.filter(|d| before.and_then(|b| b.drawing) != Some(*d)) {
        store::drawings::one(&state.pool, access.production, drawing).await?.ok_or_else(|| Problem::not_found("the drawing to be inked again"))?;
    }
    if before.is_none() && store::brushes::held(&state.pool, access.production, &page.brushes()).await? < page.brushes().len() as i64 {
        return Err(Problem::not_found("a stroke's brush"));
    }
    Ok(())
}

pub async fn list(Extract(state): Extract<State>, access: Access, Query(ask): Query<PageAsk>) -> Answer<Json<Vec<TrialSummary>>> {
    Ok(Json(store::trials::list(&state.pool, access.production, part(&state, &access, Kind::Trials, ask).await?).await?))
}

pub async fn create(Extract(state): Extract<State>, access: Access, Json(new): Json<NewTrial>) -> Answer<Made> {
    checked(&new.page)?;
    let name = new.name.trim();
    if name.is_empty() {
        return Err(Problem::input("a trial page needs a name"));
    }
    own(&state, &access, &new.page, None).await?;
    let mut tx = state.pool.begin().await?;
    let id = store::trials::create(&mut tx, &access, name, &new.page).await?;
    store::audit::log(&mut tx, &access, "trial page made", name).await?;
    tx.commit().await?;
    Ok(Made::new(&access, "trials", id))
}

pub async fn one(Extract(state): Extract<State>, access: Access, Path((_, id)): Path<(Uuid, Uuid)>) -> Answer<Json<TrialView>> {
    found(&state, &access, id).await.map(Json)
}

pub async fn save(Extract(state): Extract<State>, access: Access, Path((_, id)): Path<(Uuid, Uuid)>, sent: Sent<SaveTrial>) -> Answer<Json<TrialSaved>> {
    let now = found(&state, &access, id).await?;
    let s = sent.read().await?;
    checked(&s.page)?;
    own(&state, &access, &s.page, Some(&now.page)).await?;
    store::roll::used(&state.pool, access.production, &s.page.brushes()).await?;
    let mut tx = state.pool.begin().await?;
    match store::trials::put(&mut tx, access.production, id, s.from_revision, &s.page).await? {
        Some(revision) => {
            store::audit::versions(&mut tx, &access, "trial page saved", &now.name, None, [Some(s.from_revision), Some(revision)]).await?;
            tx.commit().await?;
            Ok(Json(TrialSaved { revision }))
        }
        None => {
            drop(tx);
            let now = found(&state, &access, id).await?;
            Err(Problem::stale("this trial page", s.from_revision, now.revision, serde_json::to_value(&now)?))
        }
    }
}

pub async fn sizes(Extract(state): Extract<State>, access: Access, Path((_, id)): Path<(Uuid, Uuid)>) -> Answer<Json<TrialSizes>> {
    let laid = laid(&state, &access, id).await?;
    let bytes = laid.bytes();
    let sized = move || {
        let ink = laid.ink()?;
        let bytes = |merged| trial::svg(&laid.size(), &ink, merged).len() as u64;
        Ok(TrialSizes { strokes_bytes: bytes(false), merged_bytes: bytes(true) })
    };
    state.heavy.work(bytes, sized).await.map(Json)
}

/// The page beside one that was inked with a pen, and scanned.
pub async fn beside(
    Extract(state): Extract<State>,
    access: Access,
    Path((_, id, sha)): Path<(Uuid, Uuid, String)>,
    Query(ask): Query<ScanLinesAsk>,
) -> Answer<Json<PagesBeside>> {
    let laid = laid(&state, &access, id).await?;
    let (_, scan) = store::images::read(&state.pictures, access.production, &sha).await?.ok_or_else(|| Problem::not_found("the scan"))?;
    let takes = laid.bytes() + 2 * picture_bytes(&scan);
    state.heavy.work(takes, move || beside_scan(&laid, &scan, ask.resolution_dpi)).await.map(Json)
}

pub async fn out(Extract(state): Extract<State>, access: Access, Path((_, id, kind)): Path<(Uuid, Uuid, String)>) -> Answer<Response> {
    let laid = laid(&state, &access, id).await?;
    let rough = match &laid.page.rough {
        Some(sha) => store::images::read(&state.pictures, access.production, sha).await?.map(|r| r.1),
        None => None,
    };
    let name = format!("trial-page.{kind}");
    let takes = laid.bytes();
    let (media, bytes) = state
        .heavy
        .work(takes, move || {
            let size = laid.size();
            Ok(match kind.as_str() {
                "svg" => ("image/svg+xml", trial::svg(&size, &laid.ink()?, false).into_bytes()),
                "merged.svg" => ("image/svg+xml", trial::svg(&size, &laid.ink()?, true).into_bytes()),
                "png" => ("image/png", trial::png(&size, &laid.ink()?, false).map_err(Problem::input)?),
                "hard.png" => ("image/png", trial::png(&size, &laid.ink()?, true).map_err(Problem::input)?),
                "ora" => {
                    let rough = rough.map(|r| reading::preview(&r, size.width_px.max(size.height_px) as u32, false)).transpose()?;
                    ("image/openraster", trial::ora(&size, &laid.ink()?, false, rough).map_err(Problem::input)?)
                }
                "inkml" => {
                    let (strokes, inked): (Vec<Stroke>, Vec<Vec<InkedSample>>) = laid
                        .strokes()?
                        .into_iter()
                        .map(|(s, i)| {
                            let widths = i.ink(&s).samples;
                            (s, widths)
                        })
                        .unzip();
                    ("application/inkml+xml", inkml::write_strokes(&strokes, Some(&inked)).into_bytes())
                }
                _ => return Err(Problem::not_found("a trial page of that kind (svg, merged.svg, png, hard.png, ora and inkml are known)")),
            })
        })
        .await?;
    Ok(file(name, media, bytes))
}
