//! The desk and a first look at the team.

use axum::{Json, extract::State as Extract};
use eddymist_check::{DrawingCheck, LineGuide, team};

use crate::{
    access::Access,
    problem::Answer,
    state::State,
    store,
    views::{DeskItem, TeamCell, TeamRow, TeamView},
};

pub async fn read(Extract(state): Extract<State>, access: Access) -> Answer<Json<Vec<DeskItem>>> {
    let mut out = Vec::new();
    let item = |text: String, next: &str, to: String| DeskItem { text, next: next.into(), to };
    for b in store::brushes::list(&state.pool, access.production).await? {
        if b.unsaved {
            out.push(item(format!("{} has changes that are not saved", b.name), "Go on at the bench", format!("/brushes/{}", b.id)));
        }
    }
    for (delivery, name, n, first) in store::drawings::returned_to(&state.pool, access.production, &access.member.name).await? {
        let n = if n == 1 { "1 drawing".into() } else { format!("{n} drawings") };
        out.push(item(format!("{n} of {name} came back to you"), "See what to mend", format!("/checks/{delivery}?drawing={first}")));
    }
    for d in store::deliveries::list(&state.pool, access.production).await? {
        if d.undecided > 0 && access.part == crate::access::PartIn::Lead {
            let n = if d.undecided == 1 { "1 drawing".into() } else { format!("{} drawings", d.undecided) };
            out.push(item(format!("{}: {n} to decide on", d.name), "Decide", format!("/checks/{}", d.id)));
        }
        if d.failed > 0 {
            out.push(item(format!("{}: {} could not be read", d.name, d.failed), "See why", format!("/checks/{}", d.id)));
        }
    }
    if store::pens::list(&state.pool, access.production).await?.is_empty() {
        out.push(item("No pen has been brought in yet".into(), "Bring in a pen", "/pens/new".into()));
    }
    if store::profiles::list(&state.pool, access.production).await?.is_empty() {
        out.push(item("No tablet has a profile yet".into(), "Warm up", "/tablets/warm-up".into()));
    }
    if store::guides::list(&state.pool, access.production).await?.is_empty() {
        out.push(item("There is no line guide yet".into(), "Set the guide", "/guides".into()));
    }
    Ok(Json(out))
}

pub async fn team(Extract(state): Extract<State>, access: Access) -> Answer<Json<TeamView>> {
    let mut checks: Vec<DrawingCheck> = Vec::new();
    for d in store::deliveries::list(&state.pool, access.production).await? {
        checks.extend(store::drawings::checks(&state.pool, d.id).await?.into_iter().filter_map(|d| d.check));
    }
    let guide: Option<LineGuide> = store::guides::list(&state.pool, access.production).await?.into_iter().next().map(|g| g.guide);
    let Some(guide) = guide else {
        return Ok(Json(TeamView { sentences: Vec::new(), roles: Vec::new(), rows: Vec::new() }));
    };
    let standings = team::standings(&guide, &checks);
    let mut rows: Vec<TeamRow> = Vec::new();
    for s in &standings {
        let cell = TeamCell {
            role: s.role.clone(),
            mean_px: s.mean_px,
            interval: s.interval,
            drawings: s.drawings as i64,
            weight: guide.roles.iter().find(|r| r.name == s.role).and_then(|r| r.weight_px),
        };
        match rows.iter_mut().find(|r| r.artist == s.artist) {
            Some(row) => row.cells.push(cell),
            None => rows.push(TeamRow { artist: s.artist.clone(), cells: vec![cell] }),
        }
    }
    Ok(Json(TeamView { sentences: team::sentences(&guide, &standings), roles: guide.roles.iter().filter(|r| r.judge).map(|r| r.name.clone()).collect(), rows }))
}
