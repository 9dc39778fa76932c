//! The desk: what waits for a member, by their access, each with its next step. Empty when nothing does.

use axum::extract::State as Extract;
use eddymist_check::team::{fits::same_name, trim::Outcome};

use crate::{plain::Json, problem::Answer, state::State};
use eddymist_store::{
    model::{Access, DeskItem, MemberAccess, Part},
    store,
};

/// A profile older than this many days may no longer be true: nib tips wear, drivers change.
const OLD_DAYS: i64 = 60;

fn counted(n: i64, one: &str, many: &str) -> String {
    if n == 1 { format!("1 {one}") } else { format!("{n} {many}") }
}

pub async fn read(Extract(state): Extract<State>, access: Access) -> Answer<Json<Vec<DeskItem>>> {
    let mut out = Vec::new();
    let item = |text: String, next: &str, to: String| DeskItem { text, next: next.into(), to, returned: Vec::new() };
    // A viewer looks; nothing waits for them.
    if access.part == MemberAccess::Viewer {
        return Ok(Json(out));
    }
    let (lead, pool) = (access.part == MemberAccess::Lead, &state.pool);
    let mut returned = store::takes::returned_to(pool, access.production, access.member.id).await?.into_iter().peekable();
    while let Some(first) = returned.next() {
        let mut of = vec![first];
        while let Some(next) = returned.next_if(|r| r.delivery == of[0].delivery) {
            of.push(next);
        }
        let text = format!("{} of {} returned to you", counted(of.len() as i64, "drawing", "drawings"), of[0].delivery_name);
        let to = format!("/checks/{}?drawing={}", of[0].delivery, of[0].id);
        out.push(DeskItem { returned: of, ..item(text, "See what to fix", to) });
    }
    for t in crate::work::team::trims(&state, &access).await? {
        if t.state == "offered" && t.mine {
            out.push(item(
                format!("{} offers you a weight correction: {}", t.by, t.says.strip_prefix(&format!("{}: ", t.artist)).unwrap_or(&t.says)),
                "See the correction",
                format!("/team/trims/{}", t.id),
            ));
        }
        if lead && t.outcome == Some(Outcome::DidNot) {
            out.push(item(format!("{}’s weight correction of {} did not work", t.artist, t.role), "See why", format!("/team/trims/{}", t.id)));
        }
    }
    for d in store::deliveries::list(pool, access.production).await? {
        let waiting = d.drawings - d.done - d.failed;
        if lead && waiting == 0 && d.undecided > 0 {
            out.push(item(format!("{}: {} to decide on", d.name, counted(d.undecided, "drawing", "drawings")), "Decide", format!("/checks/{}", d.id)));
        }
        if lead && d.failed > 0 {
            out.push(item(format!("{}: {} could not be read", d.name, d.failed), "See why", format!("/checks/{}", d.id)));
        }
    }
    for b in store::brushes::list(pool, access.production, access.member.id, Part::WHOLE).await? {
        if b.unsaved {
            out.push(item(format!("{} has changes that are not saved", b.name), "Open the bench", format!("/brushes/{}", b.id)));
        }
    }
    let profiles = store::profiles::list(pool, access.production, Part::WHOLE).await?;
    let mut seen: Vec<&str> = Vec::new();
    // The newest profile of each of one's tablets.
    for p in profiles.iter().rev().filter(|p| same_name(&p.artist, &access.member.name)) {
        if seen.contains(&p.tablet.as_str()) {
            continue;
        }
        seen.push(&p.tablet);
        let days = store::days_since(&p.kept_at);
        if days > OLD_DAYS {
            out.push(item(format!("Your profile of the {} is {days} days old", p.tablet), "Re-check in 30 seconds", format!("/tablets/{}", p.id)));
        }
    }
    if store::pens::list(pool, access.production, Part { after: None, most: Some(1) }).await?.is_empty() {
        out.push(item("No pen has been added yet".into(), "Add a pen", "/pens/new".into()));
    }
    if profiles.is_empty() {
        out.push(item("No tablet has a profile yet".into(), "Warm up", "/tablets/warm-up".into()));
    }
    if lead && store::guides::list(pool, access.production).await?.is_empty() {
        out.push(item("There is no line guide yet".into(), "Set the guide", "/guides".into()));
    }
    Ok(Json(out))
}
