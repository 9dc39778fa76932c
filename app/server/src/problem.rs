//! Errors as RFC 9457 problem documents, with a sentence a person can act on.

use std::any::Any;

use axum::{
    body::Body,
    http::{HeaderName, HeaderValue, StatusCode, header},
    response::{IntoResponse, Response},
};
use eddymist_ink::InkError;
use eddymist_reader::Unread;
use eddymist_store::pictures::Away;
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
    pub current: Option<Box<serde_json::Value>>,
    /// The field of what was sent that is wrong, where it is one.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub field: Option<String>,
    /// What goes with it besides.
    #[serde(skip)]
    #[schemars(skip)]
    pub headers: Vec<(HeaderName, String)>,
}

const NO_DATABASE: &str = "the database did not answer; nothing was changed. Try again in a moment";

pub type Answer<T> = Result<T, Problem>;

impl Problem {
    pub fn new(status: StatusCode, detail: impl ToString) -> Self {
        let title = status.canonical_reason().unwrap_or("Error").into();
        Self { status: status.as_u16(), title, detail: detail.to_string(), current: None, field: None, headers: Vec::new() }
    }

    /// Input that cannot be used.
    pub fn input(detail: impl ToString) -> Self {
        Self::new(StatusCode::UNPROCESSABLE_ENTITY, detail)
    }

    /// A brush that cannot be, with its field that is wrong.
    pub fn brush(e: InkError) -> Self {
        Self { field: e.field().map(str::to_string), ..Self::input(e) }
    }

    pub fn not_found(what: &str) -> Self {
        Self::new(StatusCode::NOT_FOUND, format!("{what} is not in this production, or is no longer there"))
    }

    pub fn conflict(detail: impl ToString) -> Self {
        Self::new(StatusCode::CONFLICT, detail)
    }

    /// A fault of the program's own.
    pub fn ours() -> Self {
        Self::new(
            StatusCode::INTERNAL_SERVER_ERROR,
            "this is a fault of ours: nothing was changed by it, and it stands in the server's log. Please report what you did",
        )
    }

    /// Try again after some seconds.
    pub fn after(mut self, seconds: i64) -> Self {
        self.headers.push((header::RETRY_AFTER, seconds.to_string()));
        self
    }

    /// An edit that started from another version than the current one.
    pub fn stale(what: &str, from: i32, current: i32, now: serde_json::Value) -> Self {
        let detail = format!(
            "{what} was changed meanwhile: you started from version {from}, and version {current} is now current. Look at it, then save yours again on top of it, or use theirs"
        );
        Self { current: Some(Box::new(now)), ..Self::conflict(detail) }
    }
}

/// A picture that was not read: its own fault, but for a machine that could start no reader.
impl From<Unread> for Problem {
    fn from(e: Unread) -> Self {
        if matches!(e, Unread::NoReader(_)) { Problem::new(StatusCode::SERVICE_UNAVAILABLE, e.to_string()).after(10) } else { Problem::input(e) }
    }
}

/// By the class of its SQLSTATE (PostgreSQL's documentation, appendix A).
impl From<sqlx::Error> for Problem {
    fn from(e: sqlx::Error) -> Self {
        let away = || Self::new(StatusCode::SERVICE_UNAVAILABLE, NO_DATABASE).after(5);
        let problem = match &e {
            sqlx::Error::Database(d) => {
                let code = d.code().unwrap_or_default().into_owned();
                match code.as_str() {
                    "23505" => Self::conflict("this is there already, or was made by somebody else meanwhile; look again, then try once more"),
                    "23503" => Self::conflict("what this refers to was removed meanwhile; nothing was changed. Look again"),
                    "22001" | "22003" | "22008" | "54000" | "54001" => Self::input("a text or a number of this is larger than can be saved; make it shorter"),
                    "22021" | "22P05" => Self::input("a text of this has characters that cannot be saved; remove them"),
                    // A file of the database may not grow for another reason than a full disk, such as a quota.
                    "53100" => full(),
                    _ if d.message().starts_with("could not extend file") => full(),
                    "40001" | "40P01" | "55P03" => {
                        Self::new(StatusCode::SERVICE_UNAVAILABLE, "two changes met in the database; nothing of yours was changed. Try again").after(1)
                    }
                    c if c.starts_with("08") || c.starts_with("53") || c.starts_with("57") => away(),
                    _ => Self::ours(),
                }
            }
            sqlx::Error::Io(e) if e.get_ref().is_some_and(|e| e.is::<Away>()) => {
                Self::new(StatusCode::SERVICE_UNAVAILABLE, "the store of pictures did not answer; nothing was changed. Try again in a moment").after(5)
            }
            sqlx::Error::Io(_)
            | sqlx::Error::Tls(_)
            | sqlx::Error::PoolTimedOut
            | sqlx::Error::PoolClosed
            | sqlx::Error::WorkerCrashed
            | sqlx::Error::Protocol(_) => away(),
            sqlx::Error::RowNotFound => Self::not_found("this"),
            _ => Self::ours(),
        };
        if problem.status == 500 {
            tracing::error!("database: {e}")
        } else {
            tracing::warn!("database: {e}")
        }
        problem
    }
}

fn full() -> Problem {
    Problem::new(StatusCode::INSUFFICIENT_STORAGE, "the server's disk is full; nothing was changed. Whoever keeps the server makes room, then try again")
}

impl From<serde_json::Error> for Problem {
    fn from(e: serde_json::Error) -> Self {
        tracing::error!("document: {e}");
        Self::ours()
    }
}

/// What a handler that broke off says.
pub fn broke_off(e: Box<dyn Any + Send + 'static>) -> Response<Body> {
    let why = e.downcast_ref::<String>().map(String::as_str).or_else(|| e.downcast_ref::<&str>().copied()).unwrap_or("it says nothing");
    tracing::error!("a handler broke off: {why}");
    Problem::ours().into_response()
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
    // Of itself only the session's store gives up with 500: the database does not answer. What breaks off in us says so itself.
    let status = if status == StatusCode::INTERNAL_SERVER_ERROR { StatusCode::SERVICE_UNAVAILABLE } else { status };
    let detail = match status {
        StatusCode::METHOD_NOT_ALLOWED => "this route does not take that method; /api/openapi.json says what it takes".into(),
        StatusCode::PAYLOAD_TOO_LARGE => "this is too large; a picture may have 256 MiB, the drawings of one request 2 GiB together".into(),
        StatusCode::TOO_MANY_REQUESTS => "too many tries; wait a few seconds and try again".into(),
        StatusCode::REQUEST_TIMEOUT => "the request did not come to its end in time; nothing was changed by what was missing".into(),
        StatusCode::GATEWAY_TIMEOUT => "this took longer than a request may; try again with less at once".into(),
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
        let headers = self.headers.clone();
        let mut r = (status, axum::Json(self)).into_response();
        r.headers_mut().insert(header::CONTENT_TYPE, HeaderValue::from_static("application/problem+json"));
        for (name, value) in headers {
            if let Ok(v) = HeaderValue::from_str(&value) {
                r.headers_mut().insert(name, v);
            }
        }
        r
    }
}
