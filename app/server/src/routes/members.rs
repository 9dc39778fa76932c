//! Members of a production, invitations, and the log.

use axum::{
    extract::{Path, Query, State as Extract},
    http::{HeaderMap, StatusCode},
};
use eddymist_check::team::fits::same_name;
use uuid::Uuid;

use super::{
    bodies::Made,
    session::{check_address, check_new, enter, hashed, session},
};
use crate::{
    access::lead_only,
    access::{Auth, Lead, OwnAccess},
    plain::Json,
    problem::{Answer, Problem},
    state::State,
};
use eddymist_store::{
    model::{Access, MemberAccess, *},
    store::{
        self,
        members::{Listed, Parted},
    },
};

pub async fn members(Extract(state): Extract<State>, access: Access) -> Answer<Json<MembersView>> {
    let lead = access.part == MemberAccess::Lead;
    let members = store::members::of_production(&state.pool, access.production).await?;
    let members = members.into_iter().map(|Listed { member: m, part, disabled }| {
        let you = m.id == access.member.id;
        MemberView { id: m.id, name: m.name, email: (lead || you).then_some(m.email), part, you, disabled: lead && disabled }
    });
    let invitations = if lead { store::invitations::open(&state.pool, access.production).await? } else { Vec::new() };
    let space = store::keeping::space(&state.pool, access.production).await?;
    Ok(Json(MembersView { members: members.collect(), invitations, space }))
}

/// A link's secret and its hash: two random identifiers of the system's generator, 244 bits.
pub(super) fn secret() -> (String, String) {
    let secret = format!("{}{}", Uuid::new_v4().simple(), Uuid::new_v4().simple());
    let hash = store::sha256(secret.as_bytes());
    (secret, hash)
}

pub async fn invite(Extract(state): Extract<State>, Lead(access): Lead, Json(i): Json<Invite>) -> Answer<Made<Invited>> {
    check_address(&i.email)?;
    let members = store::members::of_production(&state.pool, access.production).await?;
    if members.iter().any(|m| m.member.email.eq_ignore_ascii_case(i.email.trim())) {
        return Err(Problem::new(StatusCode::CONFLICT, "this address is a member of the production already; change their access instead"));
    }
    let (secret, hash) = secret();
    let mut tx = state.pool.begin().await?;
    let id = store::invitations::invite(&mut tx, &access, &i.email, i.part, &hash).await?;
    store::audit::log(&mut tx, &access, "invited", &format!("{} as {}", i.email.trim().to_lowercase(), i.part.name())).await?;
    tx.commit().await?;
    Ok(Made { at: format!("/api/v1/productions/{}/invitations/{id}", access.production), made: Invited { id, link: format!("/join/{secret}") } })
}

pub async fn withdraw(Extract(state): Extract<State>, Lead(access): Lead, Path((_, id)): Path<(Uuid, Uuid)>) -> Answer<Json<()>> {
    let mut tx = state.pool.begin().await?;
    let email = store::invitations::withdraw(&mut tx, access.production, id).await?;
    let email = email.ok_or_else(|| Problem::new(StatusCode::CONFLICT, "this invitation was accepted or withdrawn meanwhile"))?;
    store::audit::log(&mut tx, &access, "invitation withdrawn", &email).await?;
    tx.commit().await?;
    Ok(Json(()))
}

async fn opened(state: &State, secret: &str) -> Answer<store::invitations::Opened> {
    let found = store::invitations::opened(&state.pool, &store::sha256(secret.as_bytes())).await?;
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
    let hash = match o.member {
        None => {
            check_new(&new.name, &o.email, &new.password)?;
            hashed(&state, new.password).await?
        }
        Some(_) => String::new(),
    };
    let mut tx = state.pool.begin().await?;
    let member = match (o.member, &auth.user) {
        (Some(own), Some(m)) if m.id == own => store::invitations::accept(&mut tx, &o, Ok(own)).await?.ok_or_else(gone)?,
        (Some(_), _) => {
            return Err(Problem::new(StatusCode::UNAUTHORIZED, format!("{} has an account: sign in with it, then open the link again", o.email)));
        }
        (None, _) => store::invitations::accept(&mut tx, &o, Err((&new.name, &hash))).await?.ok_or_else(gone)?,
    };
    let member = store::members::by_id(&mut *tx, member).await?.ok_or_else(gone)?;
    let access = Access { member: member.clone(), production: o.production, part: o.part };
    store::audit::log(&mut tx, &access, "joined", &format!("{} as {}", member.name, o.part.name())).await?;
    tx.commit().await?;
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
            Err(Problem::new(StatusCode::CONFLICT, format!("their access was changed meanwhile: they are {} now. Look again, then choose", part.name())))
        }
        Parted::Meanwhile(None) => Err(Problem::not_found("this member")),
    }
}

async fn name_of(state: &State, id: Uuid) -> Answer<String> {
    store::members::name(&state.pool, id).await?.ok_or_else(|| Problem::not_found("this member"))
}

pub async fn change_part(Extract(state): Extract<State>, Lead(access): Lead, Path((_, id)): Path<(Uuid, Uuid)>, Json(c): Json<ChangePart>) -> Answer<Json<()>> {
    let name = name_of(&state, id).await?;
    let mut tx = state.pool.begin().await?;
    parted(store::members::set_part(&mut tx, access.production, id, Some(c.from), Some(c.part)).await?)?;
    store::audit::log(&mut tx, &access, "access changed", &format!("{name}: {} to {}", c.from.name(), c.part.name())).await?;
    tx.commit().await?;
    Ok(Json(()))
}

/// A lead takes a member out, or a member leaves. What they did stays, under their name.
pub async fn take_out(Extract(state): Extract<State>, OwnAccess(access): OwnAccess, Path((_, id)): Path<(Uuid, Uuid)>) -> Answer<Json<()>> {
    let own = id == access.member.id;
    if !own {
        lead_only(&access)?;
    }
    let name = name_of(&state, id).await?;
    let mut tx = state.pool.begin().await?;
    parted(store::members::set_part(&mut tx, access.production, id, None, None).await?)?;
    store::audit::log(&mut tx, &access, if own { "left" } else { "member removed" }, &name).await?;
    tx.commit().await?;
    Ok(Json(()))
}

pub async fn log(Extract(state): Extract<State>, access: Access, Query(ask): Query<LogAsk>) -> Answer<Json<Vec<LogRow>>> {
    let mut rows = store::audit::read(&state.pool, access.production, ask.before).await?;
    // Addresses are the leads' to see.
    if access.part != MemberAccess::Lead {
        let hidden = |word: &str| if word.contains('@') { "an address".to_string() } else { word.to_string() };
        rows.iter_mut().for_each(|r| r.subject = r.subject.split(' ').map(hidden).collect::<Vec<_>>().join(" "));
    }
    Ok(Json(rows))
}

/// The artists of the manifests with the members who they are; to a lead, with a member whose name fits where nobody is said to be one.
pub async fn artists(Extract(state): Extract<State>, access: Access) -> Answer<Json<Vec<ArtistLink>>> {
    let mut links = store::artists::list(&state.pool, access.production).await?;
    if access.part == MemberAccess::Lead {
        let members = store::members::of_production(&state.pool, access.production).await?;
        for l in links.iter_mut().filter(|l| l.member.is_none()) {
            let mut fitting = members.iter().filter(|m| m.part != MemberAccess::Viewer && same_name(&m.member.name, &l.artist));
            // Of two of one name neither is offered.
            l.fits = fitting.next().filter(|_| fitting.next().is_none()).map(|m| m.member.id);
        }
    }
    Ok(Json(links))
}

/// Says which member an artist is: what is offered to the artist is theirs from then on.
pub async fn link_artist(Extract(state): Extract<State>, Lead(access): Lead, Json(ask): Json<LinkArtist>) -> Answer<Json<()>> {
    if ask.artist.trim().is_empty() || ask.artist.chars().count() > 200 {
        return Err(Problem::input("an artist has a name of up to 200 characters, as the manifests have it"));
    }
    let name = match ask.member {
        Some(id) => name_of(&state, id).await?,
        None => "no member".into(),
    };
    let mut tx = state.pool.begin().await?;
    if !store::artists::link(&mut tx, &access, &ask.artist, ask.member).await? {
        return Err(Problem::not_found("this member"));
    }
    store::audit::log(&mut tx, &access, "artist linked", &format!("{} is {name}", ask.artist)).await?;
    tx.commit().await?;
    Ok(Json(()))
}
