//! Members of a production, invitations, and the log.

use axum::{
    Json,
    extract::{Path, Query, State as Extract},
    http::{HeaderMap, StatusCode},
};
use sha2::{Digest, Sha256};
use uuid::Uuid;

use super::session::{check_address, check_new, enter, hashed, session};
use crate::{
    access::lead_only,
    access::{Auth, Lead, OwnAccess},
    problem::{Answer, Problem},
    state::State,
};
use eddymist_store::{
    model::{Access, MemberAccess, *},
    store::{self, members::Parted},
};

pub async fn members(Extract(state): Extract<State>, access: Access) -> Answer<Json<MembersView>> {
    let lead = access.part == MemberAccess::Lead;
    let members = store::members::of_production(&state.pool, access.production).await?;
    let members = members.into_iter().map(|(m, part)| {
        let you = m.id == access.member.id;
        MemberView { id: m.id, name: m.name, email: (lead || you).then_some(m.email), part, you }
    });
    let invitations = if lead { store::invitations::open(&state.pool, access.production).await? } else { Vec::new() };
    Ok(Json(MembersView { members: members.collect(), invitations }))
}

fn secret_hash(secret: &str) -> String {
    Sha256::digest(secret.as_bytes()).iter().map(|b| format!("{b:02x}")).collect()
}

pub async fn invite(Extract(state): Extract<State>, Lead(access): Lead, Json(i): Json<Invite>) -> Answer<Json<Invited>> {
    check_address(&i.email)?;
    let members = store::members::of_production(&state.pool, access.production).await?;
    if members.iter().any(|(m, _)| m.email.eq_ignore_ascii_case(i.email.trim())) {
        return Err(Problem::new(StatusCode::CONFLICT, "this address is a member of the production already; change their part instead"));
    }
    // Two random identifiers of the system's generator: 244 bits.
    let secret = format!("{}{}", Uuid::new_v4().simple(), Uuid::new_v4().simple());
    let id = store::invitations::invite(&state.pool, &access, &i.email, i.part, &secret_hash(&secret)).await?;
    store::audit::log(&state.pool, &access, "invited", &format!("{} as {}", i.email.trim().to_lowercase(), i.part.name())).await?;
    Ok(Json(Invited { id, link: format!("/join/{secret}") }))
}

pub async fn withdraw(Extract(state): Extract<State>, Lead(access): Lead, Path((_, id)): Path<(Uuid, Uuid)>) -> Answer<Json<()>> {
    let email = store::invitations::withdraw(&state.pool, access.production, id).await?;
    let email = email.ok_or_else(|| Problem::new(StatusCode::CONFLICT, "this invitation was accepted or withdrawn meanwhile"))?;
    store::audit::log(&state.pool, &access, "invitation withdrawn", &email).await?;
    Ok(Json(()))
}

async fn opened(state: &State, secret: &str) -> Answer<store::invitations::Opened> {
    let found = store::invitations::opened(&state.pool, &secret_hash(secret)).await?;
    found.ok_or_else(|| Problem::new(StatusCode::NOT_FOUND, "this invitation was used, withdrawn, or is older than two weeks; ask for a new one"))
}

pub async fn invitation(Extract(state): Extract<State>, Path(secret): Path<String>) -> Answer<Json<InvitationOpened>> {
    let o = opened(&state, &secret).await?;
    Ok(Json(InvitationOpened { production: o.production_name, email: o.email, part: o.part, by: o.by, has_account: o.member.is_some() }))
}

pub async fn join(
    Extract(state): Extract<State>,
    Path(secret): Path<String>,
    mut auth: Auth,
    kept: tower_sessions::Session,
    headers: HeaderMap,
    Json(new): Json<Join>,
) -> Answer<Json<Session>> {
    let o = opened(&state, &secret).await?;
    let gone = || Problem::new(StatusCode::CONFLICT, "this invitation was answered meanwhile; sign in, or ask for a new one");
    let member = match (o.member, &auth.user) {
        (Some(own), Some(m)) if m.id == own => store::invitations::accept(&state.pool, &o, Ok(own)).await?.ok_or_else(gone)?,
        (Some(_), _) => {
            return Err(Problem::new(StatusCode::UNAUTHORIZED, format!("{} has an account: sign in with it, then open the link again", o.email)));
        }
        (None, _) => {
            check_new(&new.name, &o.email, &new.password)?;
            let hash = hashed(new.password).await?;
            store::invitations::accept(&state.pool, &o, Err((&new.name, &hash))).await?.ok_or_else(gone)?
        }
    };
    let member = store::members::by_id(&state.pool, member).await?.ok_or_else(gone)?;
    let access = Access { member: member.clone(), production: o.production, part: o.part };
    store::audit::log(&state.pool, &access, "joined", &format!("{} as {}", member.name, o.part.name())).await?;
    if auth.user.as_ref().is_none_or(|u| u.id != member.id) {
        enter(&state, &mut auth, &kept, &headers, &member).await?;
    }
    session(&state, Some(member)).await
}

fn parted(done: Parted) -> Answer<()> {
    match done {
        Parted::Done => Ok(()),
        Parted::LastLead => Err(Problem::new(StatusCode::CONFLICT, "a production keeps one lead: make somebody else a lead first")),
        Parted::Meanwhile(Some(part)) => {
            Err(Problem::new(StatusCode::CONFLICT, format!("their part was changed meanwhile: they are {} now. Look again, then choose", part.name())))
        }
        Parted::Meanwhile(None) => Err(Problem::not_found("this member")),
    }
}

async fn name_of(state: &State, id: Uuid) -> Answer<String> {
    Ok(store::members::by_id(&state.pool, id).await?.ok_or_else(|| Problem::not_found("this member"))?.name)
}

pub async fn change_part(Extract(state): Extract<State>, Lead(access): Lead, Path((_, id)): Path<(Uuid, Uuid)>, Json(c): Json<ChangePart>) -> Answer<Json<()>> {
    parted(store::members::set_part(&state.pool, access.production, id, Some(c.from), Some(c.part)).await?)?;
    store::audit::log(&state.pool, &access, "part changed", &format!("{}: {} to {}", name_of(&state, id).await?, c.from.name(), c.part.name())).await?;
    Ok(Json(()))
}

/// A lead takes a member out, or a member leaves. What they did stays, under their name.
pub async fn take_out(Extract(state): Extract<State>, OwnAccess(access): OwnAccess, Path((_, id)): Path<(Uuid, Uuid)>) -> Answer<Json<()>> {
    let own = id == access.member.id;
    if !own {
        lead_only(&access)?;
    }
    parted(store::members::set_part(&state.pool, access.production, id, None, None).await?)?;
    store::audit::log(&state.pool, &access, if own { "left" } else { "taken out" }, &name_of(&state, id).await?).await?;
    Ok(Json(()))
}

pub async fn log(Extract(state): Extract<State>, access: Access, Query(ask): Query<LogAsk>) -> Answer<Json<Vec<LogRow>>> {
    Ok(Json(store::audit::read(&state.pool, access.production, ask.before).await?))
}
