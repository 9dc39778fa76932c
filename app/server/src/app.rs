//! The whole application: interface, pages, sessions, headers.

use std::{path::Path, sync::Arc};

use axum::{
    Json, Router,
    extract::DefaultBodyLimit,
    http::{HeaderName, HeaderValue, StatusCode},
    routing::get,
};
use axum_login::AuthManagerLayerBuilder;
use tower_http::{
    compression::CompressionLayer,
    services::{ServeDir, ServeFile},
    set_header::SetResponseHeaderLayer,
};
use tower_sessions::{Expiry, SessionManagerLayer, cookie::SameSite};
use tower_sessions_sqlx_store::PostgresStore;

use crate::{
    StartError,
    plain::only_plain_text,
    problem::Problem,
    routes::{api, session},
    state::State,
};

/// The whole application: interface, pages, sessions, headers.
pub async fn app(state: State, pages: &Path) -> Result<Router, StartError> {
    let described = Arc::new(crate::describe::openapi());
    let sessions = SessionManagerLayer::new(PostgresStore::new(state.pool.clone()))
        .with_name("eddymist")
        .with_same_site(SameSite::Strict)
        .with_http_only(true)
        // The application speaks plain HTTP on loopback; a proxy in front adds TLS.
        .with_secure(false)
        .with_expiry(Expiry::OnInactivity(time::Duration::days(14)));
    let auth = AuthManagerLayerBuilder::new(state.clone(), sessions).build();
    let ready = state.clone();
    let header =
        |name: &'static str, value: &'static str| SetResponseHeaderLayer::if_not_present(HeaderName::from_static(name), HeaderValue::from_static(value));
    Ok(api()
        .router
        .merge(session::sign_in_route())
        .route("/api/openapi.json", get(move || async move { Json((*described).clone()) }))
        .route("/readyz", get(move || async move { eddymist_store::store::members::count(&ready.pool).await.map(|_| "ready").map_err(Problem::from) }))
        .route("/api/{*rest}", axum::routing::any(|| async { Problem::new(StatusCode::NOT_FOUND, "there is no such route; /api/openapi.json lists them") }))
        .fallback_service(ServeDir::new(pages).fallback(ServeFile::new(pages.join("index.html"))))
        .layer(DefaultBodyLimit::max(UPLOAD_BYTES))
        .layer(axum::middleware::from_fn_with_state(state.clone(), session::end_ended_sign_ins))
        .layer(auth)
        .layer(axum::middleware::from_fn(only_plain_text))
        .layer(axum::middleware::map_response(crate::problem::as_problem))
        .layer(CompressionLayer::new())
        .layer(header("content-security-policy", "default-src 'self'; script-src 'self' 'wasm-unsafe-eval'; img-src 'self' data: blob:; style-src 'self' 'unsafe-inline'; frame-ancestors 'none'; base-uri 'none'; form-action 'self'"))
        .layer(header("x-content-type-options", "nosniff"))
        .layer(header("referrer-policy", "no-referrer"))
        .with_state(state)
        // Whether the process lives has nothing to do with the database, nor with who asks.
        .route("/healthz", get(|| async { "ok" })))
}

/// A picture, or all of one request's pictures together, may be this large.
const UPLOAD_BYTES: usize = 256 << 20;
