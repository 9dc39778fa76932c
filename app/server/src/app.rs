//! The whole application: interface, pages, sessions, headers.

use std::{path::Path, sync::Arc, time::Duration};

use axum::{
    Json, Router,
    extract::{DefaultBodyLimit, Request},
    http::{HeaderName, HeaderValue, StatusCode, header},
    middleware::{Next, from_fn, from_fn_with_state, map_response},
    response::{IntoResponse, Response},
    routing::get,
};
use axum_login::AuthManagerLayerBuilder;
use tower_http::{
    catch_panic::CatchPanicLayer,
    compression::CompressionLayer,
    request_id::{MakeRequestUuid, PropagateRequestIdLayer, SetRequestIdLayer},
    services::{ServeDir, ServeFile},
    set_header::SetResponseHeaderLayer,
    timeout::RequestBodyTimeoutLayer,
};
use tower_sessions::{Expiry, SessionManagerLayer, cookie::SameSite};
use tower_sessions_sqlx_store::PostgresStore;

use crate::{
    StartError, address, metrics,
    plain::{LITTLE_BYTES, only_plain_text},
    problem::{Problem, as_problem, broke_off},
    routes::{api, session},
    state::State,
};

/// A session that nobody has used for so many days ends.
pub const IDLE_DAYS: i64 = 14;
/// A sender who sends nothing for so long is no longer waited for.
const SILENT: Duration = Duration::from_secs(30);
/// An answer begins within this; one to files that are sent within that.
const ANSWERED: Duration = Duration::from_secs(300);
const ANSWERED_FILES: Duration = Duration::from_secs(2 * 3600);

/// The whole application: interface, pages, sessions, headers.
pub async fn app(state: State, pages: &Path) -> Result<Router, StartError> {
    let described = Arc::new(crate::describe::openapi());
    let sessions = SessionManagerLayer::new(PostgresStore::new(state.pool.clone()))
        .with_name(state.reached.cookie())
        .with_same_site(SameSite::Strict)
        .with_http_only(true)
        .with_secure(state.reached.secure())
        .with_path("/")
        .with_expiry(Expiry::OnInactivity(time::Duration::days(IDLE_DAYS)));
    let auth = AuthManagerLayerBuilder::new(state.clone(), sessions).build();
    let (ready, reached, measured) = (state.clone(), state.reached.clone(), state.metrics.clone());
    let header =
        |name: &'static str, value: &'static str| SetResponseHeaderLayer::if_not_present(HeaderName::from_static(name), HeaderValue::from_static(value));
    let interface = api()
        .router
        .route("/api/openapi.json", get(move || async move { Json((*described).clone()) }))
        .route("/readyz", get(move || async move { eddymist_store::store::members::count(&ready.pool).await.map(|_| "ready").map_err(Problem::from) }))
        .route("/api/{*rest}", axum::routing::any(|| async { Problem::new(StatusCode::NOT_FOUND, "there is no such route; /api/openapi.json lists them") }))
        .layer(DefaultBodyLimit::max(LITTLE_BYTES))
        .layer(from_fn_with_state(state.clone(), session::end_ended_sign_ins))
        .layer(auth)
        // What is private is nobody's to keep: neither a proxy's, nor that of a browser whose member has left.
        .layer(header("cache-control", "no-store"))
        .layer(from_fn(crate::etag::tagged));
    Ok(interface
        .fallback_service(ServeDir::new(pages).fallback(ServeFile::new(pages.join("index.html"))))
        .layer(from_fn(only_plain_text))
        .layer(CatchPanicLayer::custom(broke_off))
        .layer(from_fn(in_time))
        .layer(map_response(as_problem))
        .layer(from_fn(crate::drain::heard_out))
        .layer(RequestBodyTimeoutLayer::new(SILENT))
        .layer(CompressionLayer::new())
        .layer(header("content-security-policy", "default-src 'self'; script-src 'self' 'wasm-unsafe-eval'; img-src 'self' data: blob:; style-src 'self' 'unsafe-inline'; frame-ancestors 'none'; base-uri 'none'; form-action 'self'"))
        .layer(header("x-content-type-options", "nosniff"))
        .layer(header("referrer-policy", "no-referrer"))
        .layer(header("cross-origin-opener-policy", "same-origin"))
        .layer(header("cross-origin-resource-policy", "same-origin"))
        .layer(from_fn_with_state(reached, address::known))
        .layer(from_fn_with_state(measured, metrics::observed))
        .layer(PropagateRequestIdLayer::x_request_id())
        .layer(SetRequestIdLayer::x_request_id(MakeRequestUuid))
        .with_state(state)
        // Whether the process lives has nothing to do with the database, nor with who asks.
        .route("/healthz", get(|| async { "ok" })))
}

/// An answer begins in time, or the work is dropped: what it had begun to change is taken back by its transaction.
async fn in_time(request: Request, next: Next) -> Response {
    let files = request.headers().get(header::CONTENT_TYPE).is_some_and(|t| t.as_bytes().starts_with(b"multipart/"));
    match tokio::time::timeout(if files { ANSWERED_FILES } else { ANSWERED }, next.run(request)).await {
        Ok(answer) => answer,
        Err(_) => StatusCode::GATEWAY_TIMEOUT.into_response(),
    }
}
