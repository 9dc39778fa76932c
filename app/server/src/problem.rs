//! Errors as RFC 9457 problem documents, with a sentence a person can act on.

use axum::{
    Json,
    http::{StatusCode, header},
    response::{IntoResponse, Response},
};
use eddymist_reader::Unread;
use schemars::JsonSchema;
use serde::Serialize;

/// What went wrong.
#[derive(Debug, Clone, Serialize, JsonSchema)]
pub struct Problem {
    pub status: u16,
    pub title: String,
    pub detail: String,
    /// Both versions, where an edit was stale.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub current: Option<serde_json::Value>,
}

const NO_DATABASE: &str = "the database did not answer; nothing was changed. Try again in a moment";

pub type Answer<T> = Result<T, Problem>;

impl Problem {
    pub fn new(status: StatusCode, detail: impl ToString) -> Self {
        Self { status: status.as_u16(), title: status.canonical_reason().unwrap_or("Error").into(), detail: detail.to_string(), current: None }
    }

    /// Input that cannot be used.
    pub fn input(detail: impl ToString) -> Self {
        Self::new(StatusCode::UNPROCESSABLE_ENTITY, detail)
    }

    pub fn not_found(what: &str) -> Self {
        Self::new(StatusCode::NOT_FOUND, format!("{what} is not in this production, or is no longer there"))
    }

    /// An edit that started from another version than the current one.
    pub fn stale(what: &str, from: i32, current: i32, now: serde_json::Value) -> Self {
        let detail = format!(
            "{what} was changed meanwhile: you started from version {from}, and version {current} is now current. Look at it, then save yours again on top of it, or take it over"
        );
        Self { current: Some(now), ..Self::new(StatusCode::CONFLICT, detail) }
    }
}

/// A picture that was not read: its own fault, but for a machine that could start no reader.
impl From<Unread> for Problem {
    fn from(e: Unread) -> Self {
        if matches!(e, Unread::NoReader(_)) { Problem::new(StatusCode::SERVICE_UNAVAILABLE, e.to_string()) } else { Problem::input(e) }
    }
}

impl From<sqlx::Error> for Problem {
    fn from(e: sqlx::Error) -> Self {
        tracing::error!("database: {e}");
        // disk_full; or a file of the database may not grow for another reason, such as a quota.
        if e.as_database_error().is_some_and(|d| d.code().is_some_and(|c| c == "53100") || d.message().starts_with("could not extend file")) {
            return Self::new(
                StatusCode::INSUFFICIENT_STORAGE,
                "the server's disk is full; nothing was changed. Whoever keeps the server makes room, then try again",
            );
        }
        Self::new(StatusCode::SERVICE_UNAVAILABLE, NO_DATABASE)
    }
}

impl From<serde_json::Error> for Problem {
    fn from(e: serde_json::Error) -> Self {
        tracing::error!("document: {e}");
        Self::new(StatusCode::INTERNAL_SERVER_ERROR, "a stored document could not be read; nothing was changed")
    }
}

/// Turns what the framework refuses on its own (a broken body, another method, too much at once) into a problem document.
pub async fn as_problem(r: Response) -> Response {
    let status = r.status();
    let ours = r.headers().get(header::CONTENT_TYPE).is_some_and(|t| t.as_bytes().starts_with(b"application/problem"));
    if ours || !(status.is_client_error() || status.is_server_error()) {
        return r;
    }
    let (head, body) = r.into_parts();
    let text = axum::body::to_bytes(body, 4096).await.unwrap_or_default();
    let text = String::from_utf8_lossy(&text);
    // Of itself only the session's store gives up with 500: the database does not answer.
    let status = if status == StatusCode::INTERNAL_SERVER_ERROR { StatusCode::SERVICE_UNAVAILABLE } else { status };
    let detail = match status {
        StatusCode::METHOD_NOT_ALLOWED => "this route does not take that method; /api/openapi.json says what it takes".into(),
        StatusCode::PAYLOAD_TOO_LARGE => "this is too large; a picture may have 256 MiB, the drawings of one request 2 GiB together".into(),
        StatusCode::TOO_MANY_REQUESTS => "too many tries; wait a few seconds and try again".into(),
        s if s.is_client_error() => format!("the request cannot be read: {}", text.trim()),
        _ => NO_DATABASE.into(),
    };
    let mut out = Problem::new(status, detail).into_response();
    if let Some(wait) = head.headers.get(header::RETRY_AFTER) {
        out.headers_mut().insert(header::RETRY_AFTER, wait.clone());
    }
    out
}

impl IntoResponse for Problem {
    fn into_response(self) -> Response {
        let status = StatusCode::from_u16(self.status).unwrap_or(StatusCode::INTERNAL_SERVER_ERROR);
        let mut r = (status, Json(self)).into_response();
        r.headers_mut().insert(header::CONTENT_TYPE, header::HeaderValue::from_static("application/problem+json"));
        r
    }
}
