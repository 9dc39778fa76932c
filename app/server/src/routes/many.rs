//! What recurs: a finding at the same place in several drawings of a delivery, marked as intended in all of them at once.

use axum::extract::{Path, State as Extract};
use eddymist_check::takes;
use uuid::Uuid;

use super::drawings::{checked_text, marked, own, renew};
use crate::{
    access::Lead,
    plain::Json,
    problem::{Answer, Problem},
    state::State,
    work::intake,
};
use eddymist_store::{
    model::{Access, Alike, DismissMany, MarkedOne},
    store,
};

/// A finding is marked in so many drawings at once.
const MOST: usize = 2000;

/// The other drawings of the delivery that have a finding of this kind and role at the same place, and are of the same size.
pub async fn alike(Extract(state): Extract<State>, access: Access, Path((_, id, finding)): Path<(Uuid, Uuid, usize)>) -> Answer<Json<Vec<Alike>>> {
    let d = own(&state, &access, id).await?;
    let gone = || Problem::not_found("the finding");
    let check = d.check.ok_or_else(gone)?;
    let found = check.findings.get(finding).ok_or_else(gone)?;
    let mut meant = store::decisions::dismissals_of(&state.pool, d.delivery).await?;
    let mut out = Vec::new();
    for mut one in store::drawings::checks(&state.pool, d.delivery).await? {
        let Some(other) = one.check.as_mut().filter(|c| one.id != id && (c.width_px, c.height_px) == (check.width_px, check.height_px)) else { continue };
        takes::dismiss(&d.guide, other, &meant.remove(&one.id).unwrap_or_default());
        if let Some(at) = takes::alike(found, other) {
            out.push(Alike { drawing: one.id, file: one.file, finding: other.findings[at].clone() });
        }
    }
    Ok(Json(out))
}

/// Marks findings of several drawings as intended, with one reason; what is no longer found, or is marked already, is passed over.
pub async fn dismiss(
    Extract(state): Extract<State>,
    Lead(access): Lead,
    Path((_, id)): Path<(Uuid, Uuid)>,
    Json(ask): Json<DismissMany>,
) -> Answer<Json<Vec<MarkedOne>>> {
    let delivery = intake::own(&state, &access, id).await?;
    let why = checked_text(&ask.why, "say why it is intended, so that the artist and the next lead know")?;
    if ask.findings.len() > MOST {
        return Err(Problem::input(format!("a finding is marked in up to {MOST} drawings at once")));
    }
    let mut tx = state.pool.begin().await?;
    let mut out = Vec::new();
    for one in &ask.findings {
        let mut d = own(&state, &access, one.drawing).await?;
        if d.delivery != id {
            return Err(Problem::not_found("the drawing in this delivery"));
        }
        marked(&state, &mut d).await?;
        let Some(found) = d.check.as_ref().and_then(|c| takes::alike(&one.finding, c).map(|k| c.findings[k].clone())) else { continue };
        let dismissal = store::decisions::dismiss(&mut tx, &access, one.drawing, &found, &why).await?;
        renew(&mut tx, &mut d).await?;
        out.push(MarkedOne { drawing: one.drawing, dismissal });
    }
    let kind = ask.findings.first().map(|f| f.finding.message.clone()).unwrap_or_default();
    store::audit::log(&mut tx, &access, "marked as intended", &format!("{kind} on {} drawings of {}: {why}", out.len(), delivery.name)).await?;
    tx.commit().await?;
    Ok(Json(out))
}
