//! Signing in and out, the first member, one's own account.

use std::time::Duration;

use axum::{
    extract,
    http::{HeaderMap, StatusCode, header},
    response::{IntoResponse, Response},
};
use tokio::sync::OwnedSemaphorePermit;
use uuid::Uuid;

use crate::{
    access::{Auth, SessionMember, SignedIn, hash_password},
    address::Client,
    plain::Json,
    problem::{Answer, Problem},
    state::State,
    work::{busy, off_thread},
};
use eddymist_store::{
    model::{ChangePassword, Credentials, FirstMember, Member, Session, SignInView},
    store::{self, sign_ins::Holds},
};

type S = extract::State<State>;

/// Under this name a session holds which sign-in it is.
const SIGN_IN: &str = "sign_in";
/// And under this one when it was last seen.
const SEEN: &str = "seen";
/// A password waits so long for its turn to be hashed.
const HASHING_TURN: Duration = Duration::from_secs(10);

pub(super) async fn session(state: &State, member: Option<Member>) -> Answer<Json<Session>> {
    let productions = match &member {
        Some(m) => store::members::productions(&state.pool, m.id).await?,
        None => Vec::new(),
    };
    let shown = !state.demo_sign_ins.is_empty() && member.is_none() && store::members::demo_production(&state.pool).await?.is_some();
    let demo_sign_ins = if shown { state.demo_sign_ins.to_vec() } else { Vec::new() };
    Ok(Json(Session { first: store::members::count(&state.pool).await? == 0, member, productions, demo_sign_ins }))
}

pub async fn read(extract::State(state): S, auth: Auth) -> Answer<Json<Session>> {
    session(&state, auth.user.map(|u| u.0)).await
}

pub async fn sign_in(
    extract::State(state): S,
    mut auth: Auth,
    kept: tower_sessions::Session,
    extract::Extension(client): extract::Extension<Client>,
    headers: HeaderMap,
    Json(c): Json<Credentials>,
) -> Answer<Json<Session>> {
    let member = tried(&state, &mut auth, client, c).await?;
    let Some(member) = member else {
        tracing::warn!(client = %client.0, "a sign-in failed");
        return Err(Problem::new(StatusCode::UNAUTHORIZED, "this address and password do not fit together; check both and try again"));
    };
    enter(&state, &mut auth, &kept, &headers, &member).await?;
    session(&state, Some(member.0)).await
}

/// Whether an address and a password fit together: counted before it is looked at, told in the same words and time whether anybody has the
/// address or not.
async fn tried(state: &State, auth: &mut Auth, client: Client, c: Credentials) -> Answer<Option<SessionMember>> {
    let network = client.network();
    let wait = store::attempts::begin(&state.pool, &c.email, &network).await?;
    if wait > 0 {
        tracing::warn!(client = %client.0, "sign-ins are locked for {wait} s");
        let said = format!("too many wrong passwords for this address from where you are; try again in {wait} seconds");
        return Err(Problem::new(StatusCode::TOO_MANY_REQUESTS, said).after(wait));
    }
    let email = c.email.clone();
    let _turn = hashing(state).await?;
    let member = auth.authenticate(c).await.map_err(|_| Problem::new(StatusCode::SERVICE_UNAVAILABLE, "the database did not answer; try again in a moment"))?;
    if member.is_some() {
        store::attempts::forget(&mut *state.pool.acquire().await?, &email, &network).await?;
    }
    Ok(member)
}

/// A turn for hashing a password.
async fn hashing(state: &State) -> Answer<OwnedSemaphorePermit> {
    match tokio::time::timeout(HASHING_TURN, state.hashing.clone().acquire_owned()).await {
        Ok(Ok(turn)) => Ok(turn),
        _ => Err(busy()),
    }
}

/// Signs a member in on this browser, under a new session: who was signed in before is so no longer.
pub(super) async fn enter(state: &State, auth: &mut Auth, kept: &tower_sessions::Session, headers: &HeaderMap, member: &Member) -> Answer<()> {
    let failed = |e: String| Problem::new(StatusCode::SERVICE_UNAVAILABLE, format!("the session could not be saved: {e}"));
    if let (Some(m), Ok(Some(id))) = (&auth.user, kept.get::<Uuid>(SIGN_IN).await) {
        store::sign_ins::end(&state.pool, m.id, id).await?;
    }
    // Nothing of the session of before is left, nor its identifier: signing out alone would keep that.
    kept.clear().await;
    kept.cycle_id().await.map_err(|e| failed(e.to_string()))?;
    auth.login(&SessionMember(member.clone())).await.map_err(|e| failed(e.to_string()))?;
    let id = store::sign_ins::begin(&state.pool, member.id, &agent(headers)).await?;
    kept.insert(SIGN_IN, id).await.map_err(|e| failed(e.to_string()))
}

/// What a browser calls itself, cut to a length.
fn agent(headers: &HeaderMap) -> String {
    headers.get(header::USER_AGENT).and_then(|v| v.to_str().ok()).unwrap_or("not set").chars().take(200).collect()
}

/// Before every route of the interface: a sign-in that was ended elsewhere holds no longer.
pub async fn end_ended_sign_ins(extract::State(state): S, mut request: extract::Request, next: axum::middleware::Next) -> Response {
    let auth = request.extensions().get::<Auth>().cloned();
    let kept = request.extensions().get::<tower_sessions::Session>().cloned();
    if let (Some(mut auth), Some(kept)) = (auth, kept)
        && let Some(member) = auth.user.clone()
    {
        let holds = match kept.get::<Uuid>(SIGN_IN).await {
            Ok(Some(id)) => store::sign_ins::holds(&state.pool, id, member.id).await,
            _ => Ok(Holds::No),
        };
        match holds {
            Ok(Holds::Yes) => {}
            // Used, it lives on: it ends when nobody has used it for so many days.
            Ok(Holds::SeenAgain) => {
                if let Err(e) = kept.insert(SEEN, time::OffsetDateTime::now_utc().unix_timestamp()).await {
                    tracing::warn!("a session could not be prolonged: {e}");
                }
            }
            Ok(Holds::No) => {
                if let Err(e) = kept.flush().await {
                    tracing::warn!("an ended session could not be cleared: {e}");
                }
                auth.user = None;
                request.extensions_mut().insert(auth);
            }
            Err(e) => return Problem::from(e).into_response(),
        }
    }
    next.run(request).await
}

pub async fn sign_out(extract::State(state): S, mut auth: Auth, kept: tower_sessions::Session) -> Answer<Json<Session>> {
    if let (Some(m), Ok(Some(id))) = (&auth.user, kept.get::<Uuid>(SIGN_IN).await) {
        store::sign_ins::end(&state.pool, m.id, id).await?;
    }
    if auth.user.is_some() {
        auth.logout().await.map_err(|_| Problem::new(StatusCode::SERVICE_UNAVAILABLE, "the session could not be ended; try again"))?;
    }
    session(&state, None).await
}

pub(super) fn check_new(name: &str, email: &str, password: &str) -> Answer<()> {
    if name.trim().is_empty() {
        return Err(Problem::input("a member needs a name"));
    }
    check_address(email)?;
    check_password(password)
}

pub(super) fn check_address(email: &str) -> Answer<()> {
    let (before, after) = email.trim().split_once('@').unwrap_or_default();
    if before.is_empty() || !after.contains('.') || email.chars().any(char::is_control) || email.len() > 254 {
        return Err(Problem::input("the e-mail address is not complete, such as name@studio.example"));
    }
    Ok(())
}

pub(super) fn check_password(password: &str) -> Answer<()> {
    match password.chars().count() {
        0..8 => Err(Problem::input("the password needs at least 8 characters")),
        1025.. => Err(Problem::input("the password may have 1,024 characters at most")),
        _ => Ok(()),
    }
}

pub(super) async fn hashed(state: &State, password: String) -> Answer<String> {
    let turn = hashing(state).await?;
    off_thread(move || {
        let _turn = turn;
        hash_password(&password).map_err(|e| {
            tracing::error!("a password could not be hashed: {e}");
            Problem::ours()
        })
    })
    .await
}

pub async fn first(
    extract::State(state): S,
    mut auth: Auth,
    kept: tower_sessions::Session,
    headers: HeaderMap,
    Json(new): Json<FirstMember>,
) -> Answer<Json<Session>> {
    let late = || Problem::conflict("there is a first member already; sign in, or ask a lead to add you");
    if store::members::count(&state.pool).await? > 0 {
        return Err(late());
    }
    let code: String = new.setup_code.chars().filter(|c| c.is_ascii_alphanumeric()).map(|c| c.to_ascii_uppercase()).collect();
    if !store::members::is_setup_code(&state.pool, &store::sha256(code.as_bytes())).await? {
        return Err(Problem::new(StatusCode::FORBIDDEN, "this is not the setup code: it stands where Eddymist was started, below its address"));
    }
    check_new(&new.name, &new.email, &new.password)?;
    if new.production.trim().is_empty() {
        return Err(Problem::input("the production needs a name"));
    }
    let hash = hashed(&state, new.password).await?;
    let id = store::members::create_first(&state.pool, &new.name, &new.email, &hash, &new.production).await?.ok_or_else(late)?;
    let member = store::members::by_id(&state.pool, id).await?;
    if let Some(m) = &member {
        enter(&state, &mut auth, &kept, &headers, m).await?;
    }
    session(&state, member).await
}

/// Changes one's own password; every other sign-in ends with it.
pub async fn change_password(
    extract::State(state): S,
    SignedIn(member): SignedIn,
    mut auth: Auth,
    kept: tower_sessions::Session,
    extract::Extension(client): extract::Extension<Client>,
    Json(change): Json<ChangePassword>,
) -> Answer<Json<()>> {
    check_password(&change.new)?;
    let credentials = Credentials { email: member.email.clone(), password: change.current };
    if tried(&state, &mut auth, client, credentials).await?.is_none() {
        return Err(Problem::input("the current password is not right; nothing was changed"));
    }
    let hash = hashed(&state, change.new).await?;
    store::members::set_password(&mut *state.pool.acquire().await?, member.id, &hash).await?;
    let this = kept.get::<Uuid>(SIGN_IN).await.ok().flatten();
    store::sign_ins::end_others(&state.pool, member.id, this).await?;
    if let Some(m) = store::members::by_id(&state.pool, member.id).await? {
        auth.login(&SessionMember(m))
            .await
            .map_err(|e| Problem::new(StatusCode::SERVICE_UNAVAILABLE, format!("the password is changed; sign in again: {e}")))?;
    }
    Ok(Json(()))
}

/// Where one is signed in.
pub async fn sign_ins(extract::State(state): S, SignedIn(member): SignedIn, kept: tower_sessions::Session) -> Answer<Json<Vec<SignInView>>> {
    let this = kept.get::<Uuid>(SIGN_IN).await.ok().flatten();
    Ok(Json(store::sign_ins::list(&state.pool, member.id, this).await?))
}

/// Ends one of one's sign-ins.
pub async fn end_sign_in(extract::State(state): S, SignedIn(member): SignedIn, extract::Path(id): extract::Path<Uuid>) -> Answer<Json<()>> {
    if store::sign_ins::end(&state.pool, member.id, id).await? {
        Ok(Json(()))
    } else {
        Err(Problem::new(StatusCode::NOT_FOUND, "this sign-in has ended already"))
    }
}
