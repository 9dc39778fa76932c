//! What is counted: requests, times, refusals, the queue and the pictures; and the log of what was refused or went wrong.

use std::{
    sync::{Arc, atomic::AtomicU64},
    time::Instant,
};

use axum::{
    extract::{MatchedPath, Request, State as Extract},
    middleware::Next,
    response::Response,
};
use prometheus_client::{
    encoding::EncodeLabelSet,
    metrics::{
        counter::Counter,
        family::Family,
        gauge::Gauge,
        histogram::{Histogram, exponential_buckets},
    },
    registry::{Registry, Unit},
};

use crate::address::Client;

/// Of a request.
#[derive(Debug, Clone, PartialEq, Eq, Hash, EncodeLabelSet)]
struct Answered {
    method: String,
    status: u32,
}

/// What is counted.
pub struct Metrics {
    requests: Family<Answered, Counter>,
    seconds: Histogram,
    refusals: Family<Answered, Counter>,
    pub waiting: Gauge,
    pub pictures: Gauge,
    pub picture_bytes: Gauge,
    pub free_mebibytes: Gauge<f64, AtomicU64>,
    pub connections: Gauge,
}

impl Default for Metrics {
    fn default() -> Self {
        Self {
            requests: Family::default(),
            // From a millisecond to half a minute.
            seconds: Histogram::new(exponential_buckets(0.001, 2.0, 16)),
            refusals: Family::default(),
            waiting: Gauge::default(),
            pictures: Gauge::default(),
            picture_bytes: Gauge::default(),
            free_mebibytes: Gauge::default(),
            connections: Gauge::default(),
        }
    }
}

impl Metrics {
    pub fn registry(&self) -> Registry {
        let mut r = Registry::with_prefix("eddymist");
        r.register("requests", "Requests answered, by method and status", self.requests.clone());
        r.register_with_unit("request_duration", "Until an answer began", Unit::Seconds, self.seconds.clone());
        r.register("refusals", "Requests refused: signed out, not allowed, too large, too many, too busy", self.refusals.clone());
        r.register("queue_waiting", "Drawings that wait for their check", self.waiting.clone());
        r.register("pictures", "Pictures kept", self.pictures.clone());
        r.register_with_unit("pictures_size", "What they take", Unit::Bytes, self.picture_bytes.clone());
        r.register("heavy_free_mebibytes", "Memory that heavy work may take still", self.free_mebibytes.clone());
        r.register("database_connections", "Connections to the database", self.connections.clone());
        r
    }
}

/// Counts a request, and writes into the log what was refused or went wrong.
pub async fn observed(Extract(metrics): Extract<Arc<Metrics>>, request: Request, next: Next) -> Response {
    let from = Instant::now();
    let id = request.headers().get("x-request-id").and_then(|v| v.to_str().ok()).unwrap_or_default().to_string();
    let method = if request.method().as_str().len() <= 7 { request.method().to_string() } else { "other".into() };
    // A path may hold a secret: the route is named, not what stands in it.
    let route = request.extensions().get::<MatchedPath>().map_or("pages", MatchedPath::as_str).to_string();
    let response = next.run(request).await;
    let status = response.status();
    let answered = Answered { method, status: u32::from(status.as_u16()) };
    metrics.seconds.observe(from.elapsed().as_secs_f64());
    metrics.requests.get_or_create(&answered).inc();
    if matches!(status.as_u16(), 401 | 403 | 413 | 421 | 429 | 503) {
        metrics.refusals.get_or_create(&answered).inc();
    }
    let client = response.extensions().get::<Client>().map(|c| c.0.to_string()).unwrap_or_default();
    let ms = from.elapsed().as_millis() as u64;
    if status.is_server_error() {
        tracing::error!(id, client, route, method = answered.method, status = answered.status, ms, "went wrong");
    } else if matches!(status.as_u16(), 401 | 403 | 413 | 421 | 429) {
        tracing::warn!(id, client, route, method = answered.method, status = answered.status, ms, "refused");
    }
    response
}
