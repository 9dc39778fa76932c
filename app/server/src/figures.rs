//! What is counted, as OpenMetrics text on a listener of its own.

use std::net::SocketAddr;

use axum::{
    Router,
    extract::State as Extract,
    http::header,
    response::{IntoResponse, Response},
    routing::get,
};
use prometheus_client::encoding::text::encode;

use crate::{StartError, state::State};

/// Serves what is counted to this machine.
pub async fn serve(listen: &str, state: State) -> Result<(), StartError> {
    let address: SocketAddr = listen.parse().map_err(|_| StartError::Usage(format!("--metrics {listen}: expected an address such as 127.0.0.1:9380")))?;
    if !address.ip().is_loopback() {
        return Err(StartError::Usage(format!("--metrics {listen}: the figures are for this machine alone; give a loopback address such as 127.0.0.1:9380")));
    }
    let listener = tokio::net::TcpListener::bind(address).await.map_err(|e| StartError::Listen(listen.into(), e))?;
    let app = Router::new().route("/metrics", get(shown)).with_state(state);
    tokio::spawn(async move {
        if let Err(e) = axum::serve(listener, app).await {
            tracing::error!("the figures are no longer served: {e}");
        }
    });
    Ok(())
}

async fn shown(Extract(state): Extract<State>) -> Response {
    let m = &state.metrics;
    // A database that is away leaves the figures of before.
    if let Ok(c) = eddymist_store::store::keeping::counts(&state.pool).await {
        m.waiting.set(c.waiting);
        m.pictures.set(c.pictures);
        m.picture_bytes.set(c.picture_bytes);
    }
    m.free_mebibytes.set(state.heavy.free().0 as f64);
    m.connections.set(i64::from(state.pool.size()));
    let mut text = String::new();
    match encode(&mut text, &m.registry()) {
        Ok(()) => ([(header::CONTENT_TYPE, "application/openmetrics-text; version=1.0.0; charset=utf-8")], text).into_response(),
        Err(e) => {
            tracing::error!("the figures could not be written: {e}");
            crate::problem::Problem::ours().into_response()
        }
    }
}
