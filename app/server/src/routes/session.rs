//! Signing in and out, the first member, adding members.

use std::sync::Arc;

use axum::{Json, Router, extract, http::StatusCode, routing::post};
use tower_governor::{GovernorLayer, governor::GovernorConfigBuilder};

use crate::{
    access::{Access, Auth, Credentials, Member, PartIn, hash_password},
    demo::SIGN_INS,
    problem::{Answer, Problem},
    state::State,
    store,
    views::{Created, DemoSignIn, FirstMember, NewMember, Session},
};

type S = extract::State<State>;

async fn session(state: &State, member: Option<Member>) -> Answer<Json<Session>> {
    let productions = match &member {
        Some(m) => store::members::productions(&state.pool, m.id).await?,
        None => Vec::new(),
    };
    let shown = state.demo && member.is_none() && store::members::demo_production(&state.pool).await?.is_some();
    let demo_sign_ins = if shown {
        SIGN_INS.iter().map(|s| DemoSignIn { name: s.name.into(), email: s.email.into(), password: s.password.into(), part: s.part }).collect()
    } else {
        Vec::new()
    };
    Ok(Json(Session { first: store::members::count(&state.pool).await? == 0, member, productions, demo_sign_ins }))
}

pub async fn read(extract::State(state): S, auth: Auth) -> Answer<Json<Session>> {
    session(&state, auth.user).await
}

/// The route that guesses are slowed down on.
pub fn sign_in_route() -> Router<State> {
    let router = Router::new().route("/api/v1/session", post(sign_in));
    match GovernorConfigBuilder::default().per_millisecond(500).burst_size(30).finish() {
        Some(config) => router.layer(GovernorLayer::new(Arc::new(config))),
        None => router,
    }
}

async fn sign_in(extract::State(state): S, mut auth: Auth, Json(c): Json<Credentials>) -> Answer<Json<Session>> {
    let wait = store::members::locked_for(&state.pool, &c.email).await?;
    if wait > 0 {
        return Err(Problem::new(StatusCode::TOO_MANY_REQUESTS, format!("too many wrong passwords for this address; try again in {wait} seconds")));
    }
    let member =
        auth.authenticate(c.clone()).await.map_err(|_| Problem::new(StatusCode::SERVICE_UNAVAILABLE, "the database did not answer; try again in a moment"))?;
    let Some(member) = member else {
        store::members::sign_in_failed(&state.pool, &c.email).await?;
        return Err(Problem::new(StatusCode::UNAUTHORIZED, "this address and password do not fit together; check both and try again"));
    };
    store::members::sign_in_worked(&state.pool, member.id).await?;
    auth.login(&member).await.map_err(|e| Problem::new(StatusCode::SERVICE_UNAVAILABLE, format!("the session could not be kept: {e}")))?;
    session(&state, Some(member)).await
}

pub async fn sign_out(extract::State(state): S, mut auth: Auth) -> Answer<Json<Session>> {
    auth.logout().await.map_err(|_| Problem::new(StatusCode::SERVICE_UNAVAILABLE, "the session could not be ended; try again"))?;
    session(&state, None).await
}

fn check_new(name: &str, email: &str, password: &str) -> Answer<()> {
    if name.trim().is_empty() {
        return Err(Problem::input("a member needs a name"));
    }
    let (before, after) = email.trim().split_once('@').unwrap_or_default();
    if before.is_empty() || !after.contains('.') {
        return Err(Problem::input("the e-mail address is not complete, such as name@studio.example"));
    }
    if password.chars().count() < 8 {
        return Err(Problem::input("the password needs at least 8 characters"));
    }
    Ok(())
}

async fn hashed(password: String) -> Answer<String> {
    tokio::task::spawn_blocking(move || hash_password(&password))
        .await
        .map_err(|e| e.to_string())
        .and_then(|h| h)
        .map_err(|e| Problem::new(StatusCode::INTERNAL_SERVER_ERROR, format!("the password could not be kept: {e}")))
}

pub async fn first(extract::State(state): S, mut auth: Auth, Json(new): Json<FirstMember>) -> Answer<Json<Session>> {
    check_new(&new.name, &new.email, &new.password)?;
    if new.production.trim().is_empty() {
        return Err(Problem::input("the production needs a name"));
    }
    let hash = hashed(new.password).await?;
    let id = store::members::create_first(&state.pool, &new.name, &new.email, &hash, &new.production).await?;
    let id = id.ok_or_else(|| Problem::new(StatusCode::CONFLICT, "there is a first member already; sign in, or ask a lead to add you"))?;
    let member = store::members::by_id(&state.pool, id).await?;
    if let Some(m) = &member {
        auth.login(m)
            .await
            .map_err(|e| Problem::new(StatusCode::SERVICE_UNAVAILABLE, format!("the member is made, but the session could not be kept: {e}")))?;
    }
    session(&state, member).await
}

pub async fn add_member(extract::State(state): S, access: Access, Json(new): Json<NewMember>) -> Answer<Json<Created>> {
    access.lead()?;
    check_new(&new.name, &new.email, &new.password)?;
    let hash = hashed(new.password).await?;
    let id = store::members::create(&state.pool, &new.name, &new.email, &hash).await?;
    let id = id.ok_or_else(|| Problem::new(StatusCode::CONFLICT, "this e-mail address has an account already"))?;
    store::members::join(&state.pool, access.production, id, new.part).await?;
    store::audit::log(&state.pool, &access, "member added", &format!("{} as {}", new.name, PartIn::name(new.part))).await?;
    Ok(Json(Created { id }))
}
