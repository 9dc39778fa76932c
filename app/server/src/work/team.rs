//! The team behind its page: which drawings are looked at, statistics off the threads that serve, trims and what they can be carried onto.

use std::{
    collections::{HashMap, hash_map::Entry as Slot},
    sync::Arc,
};

use eddymist_check::{
    LineGuide,
    team::{
        Entry, Span, TeamLook, entries,
        fits::{ProfileKnown, same_name},
        look,
        trim::{Trim, on_response, on_weight, outcome},
    },
};
use eddymist_ink::Brush;
use uuid::Uuid;

use crate::{
    kept::{Looked, Seen},
    problem::{Answer, Problem},
    state::State,
};
use eddymist_store::{
    model::{Access, MemberAccess, Part, *},
    store::{self, team::Takes},
};

/// The guide that holds the newest delivery, or the one asked for.
pub async fn guide_of(state: &State, access: &Access, asked: Option<Uuid>) -> Answer<Option<GuideView>> {
    let guides = store::guides::list(&state.pool, access.production).await?;
    match asked {
        Some(id) => guides.into_iter().find(|g| g.id == id).map(Some).ok_or_else(|| Problem::not_found("this guide")),
        None => {
            let newest = store::deliveries::newest_guide(&state.pool, access.production).await?;
            Ok(guides.into_iter().find(|g| Some(g.id) == newest))
        }
    }
}

pub async fn looked(state: &State, access: &Access, ask: &TeamAsk) -> Answer<Option<Looked>> {
    let some = |v: &Option<String>| v.clone().filter(|s| !s.trim().is_empty());
    let span = Span { shot: some(&ask.shot), from: some(&ask.from), to: some(&ask.to) };
    span.validate().map_err(Problem::input)?;
    if let Some(d) = ask.delivery {
        store::deliveries::one(&state.pool, access.production, d).await?.ok_or_else(|| Problem::not_found("this delivery"))?;
    }
    let Some(guide) = guide_of(state, access, ask.guide).await? else { return Ok(None) };
    // A delivery is looked at as it is; all of them together by how each drawing came first.
    let takes = if ask.delivery.is_some() { Takes::Current } else { Takes::First };
    let all = store::team::entries(&state.pool, access.production, guide.id, ask.delivery, takes).await?;
    let entries = all.iter().filter(|e| span.holds(e)).cloned().collect();
    Ok(Some(Looked { guide, entries, by: ask.by.unwrap_or_default(), all }))
}

/// Statistics off the threads that serve.
pub async fn computed<T: Send + 'static>(work: impl FnOnce() -> T + Send + 'static) -> Answer<T> {
    tokio::task::spawn_blocking(work).await.map_err(|e| {
        tracing::error!("the team's figures could not be computed: {e}");
        Problem::ours()
    })
}

async fn look_of(l: &Looked) -> Answer<TeamLook> {
    let (guide, entries, by) = (l.guide.guide.clone(), l.entries.clone(), l.by);
    computed(move || look(&guide, &entries, by)).await
}

/// The drawings that are asked for with what they say of the team, as they were reckoned or anew.
pub async fn seen(state: &State, access: &Access, ask: &TeamAsk) -> Answer<Option<Arc<Seen>>> {
    let TeamAsk { guide, delivery, shot, from, to, by, paper: _ } = ask;
    let key = format!("{} {guide:?} {delivery:?} {shot:?} {from:?} {to:?} {by:?}", access.production);
    let mark = async { Ok(store::team::mark(&state.pool, access.production).await?) };
    let reckon = async {
        let Some(looked) = looked(state, access, ask).await? else { return Ok(None) };
        let look = look_of(&looked).await?;
        Ok(Some(Arc::new(Seen { looked, look })))
    };
    state.looks.get(key, mark, reckon).await
}

pub async fn profiles(state: &State, access: &Access) -> Answer<Vec<ProfileView>> {
    Ok(store::profiles::list(&state.pool, access.production, Part::WHOLE).await?)
}

pub fn known(profiles: &[ProfileView]) -> Vec<ProfileKnown> {
    profiles
        .iter()
        .map(|p| ProfileKnown { artist: p.artist.clone(), tablet: p.tablet.clone(), full_point: p.profile.full_point, seen: p.profile.full_point_seen })
        .collect()
}

/// What a trim can be carried onto: the brush that the role is drawn with, and the profile of the tablet it is drawn on.
pub async fn carries(
    state: &State,
    access: &Access,
    l: &Looked,
    profiles: &[ProfileView],
    artist: &str,
    role: &str,
    trim: &Trim,
) -> Answer<Result<Vec<Carry>, String>> {
    let mut own: Vec<&Entry> = l.entries.iter().filter(|e| e.known("artist") == Some(artist)).collect();
    entries::in_order(&mut own);
    // What was used last is what is in the artist's hand now.
    let last = |column: &str| own.iter().rev().find_map(|e| e.known(column));
    let rack = store::brushes::list(&state.pool, access.production, access.member.id, Part::WHOLE).await?;
    let roll = store::roll::read(&state.pool, access.production).await?;
    let on_roll = roll.iter().find(|r| r.role == role);
    let named = last("brush").and_then(|b| rack.iter().find(|x| same_name(&x.name, b)));
    let Some(brush) = named.or_else(|| on_roll.and_then(|r| rack.iter().find(|b| b.id == r.brush_id))) else {
        return Ok(Err(format!("no brush is known for {role}: put one on the pen roll for it, or name it in the manifest's column brush")));
    };
    let factor = on_roll.filter(|r| r.brush_id == brush.id).map_or(1.0, |r| r.weight_factor);
    let px_per_mm = l.guide.guide.page.px_per_mm.map(|p| p * factor);
    let weight = on_weight(trim, &brush.brush.weight, px_per_mm);
    let after = Brush { weight: weight.clone(), ..brush.brush.clone() };
    let carry = |onto: Onto, name: String, why: String, profile_id: Option<Uuid>, before: Vec<[f64; 2]>, curve: Vec<[f64; 2]>| Carry {
        onto,
        name,
        why,
        brush_id: brush.id,
        brush_version: brush.current_version,
        profile_id,
        before,
        after: curve,
        brush: brush.brush.clone(),
        brush_after: after.clone(),
    };
    let mut out = vec![carry(
        Onto::Brush,
        brush.name.clone(),
        format!("a brush of their own, from {}: {role} alone changes", brush.name),
        None,
        brush.brush.weight.clone(),
        weight,
    )];
    let tablet = last("tablet");
    let profile = profiles.iter().rev().find(|p| same_name(&p.artist, artist) && tablet.is_none_or(|t| same_name(&p.tablet, t)));
    if let Some(p) = profile
        && let Ok(curve) = on_response(trim, &p.profile.response, &brush.brush.weight, px_per_mm)
    {
        let why = format!("the response of {}: every brush on this tablet follows", p.tablet);
        out.push(carry(Onto::Profile, p.profile.label.clone(), why, Some(p.id), p.profile.response.clone(), curve));
    }
    Ok(Ok(out))
}

/// All trims with what became of those that were taken, and whether the member may take them.
pub async fn trims(state: &State, access: &Access) -> Answer<Vec<TrimView>> {
    let mut all = store::team::trims(&state.pool, access.production).await?;
    let guides = store::guides::list(&state.pool, access.production).await?;
    let answerers = Answerers::new(state, access).await?;
    let mut drawn: HashMap<Uuid, Vec<Entry>> = HashMap::new();
    for t in &mut all {
        t.mine = answerers.may(&t.artist);
        let (Some(at), true, Some(guide)) = (&t.answered_at, t.state == "taken", guides.iter().find(|g| g.id == t.guide_id)) else { continue };
        let Some(weight) = guide.guide.roles.iter().find(|r| r.name == t.role).and_then(|r| r.weight_px) else { continue };
        let entries = match drawn.entry(t.guide_id) {
            Slot::Occupied(e) => e.into_mut(),
            Slot::Vacant(e) => e.insert(store::team::entries(&state.pool, access.production, t.guide_id, None, Takes::Current).await?),
        };
        // Drawn since it was taken, where the manifest says when; else come in since.
        let day = at.get(..10).unwrap_or(at);
        let since: Vec<f64> = entries
            .iter()
            .filter(|e| e.known("artist").is_some_and(|a| same_name(a, &t.artist)) && e.added_at > *at && e.drawn_at().is_none_or(|d| d >= day))
            .filter_map(|e| e.role(&t.role).map(|r| r.mean_px))
            .collect();
        let (state, says) = outcome(&weight, &t.role, t.trim.before.mean_px, &since);
        (t.outcome, t.outcome_says) = (Some(state), Some(says));
    }
    Ok(all)
}

/// The member who is the artist of a trim, as a lead said, may answer it; where no member of the production is, a lead may.
pub async fn may_answer(state: &State, access: &Access, artist: &str) -> Answer<bool> {
    Ok(Answerers::new(state, access).await?.may(artist))
}

/// Who may answer what is offered to whom.
pub struct Answerers {
    part: MemberAccess,
    own: Vec<String>,
    linked: Vec<String>,
}

impl Answerers {
    pub async fn new(state: &State, access: &Access) -> Answer<Self> {
        let own = store::artists::of_member(&state.pool, access.production, access.member.id).await?;
        Ok(Self { part: access.part, own, linked: store::artists::linked(&state.pool, access.production).await? })
    }

    pub fn may(&self, artist: &str) -> bool {
        let artist = artist.trim().to_lowercase();
        let is = |all: &[String]| all.contains(&artist);
        match self.part {
            MemberAccess::Viewer => false,
            MemberAccess::Artist => is(&self.own),
            MemberAccess::Lead => is(&self.own) || !is(&self.linked),
        }
    }
}

pub fn guide_title(guide: &LineGuide, version: i32) -> String {
    format!("{}, version {version}", guide.name)
}
