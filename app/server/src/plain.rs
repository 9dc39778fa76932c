//! JSON that comes and goes: bodies within what their route takes, read by those who may, with text that is only text. The database keeps
//! no NUL, and no name, note or address has a bell in it.

use std::marker::PhantomData;

use axum::{
    body::Bytes,
    extract::{FromRequest, Request},
    http::{StatusCode, header},
    middleware::Next,
    response::{IntoResponse, Response},
};
use serde::{Serialize, de::DeserializeOwned};

use crate::problem::{Answer, Problem};

/// So many bytes of a body are read by a route that says nothing else.
pub const LITTLE_BYTES: usize = 64 << 10;
/// A body of more bytes than this is read as JSON off the threads that serve.
const READ_HERE: usize = 128 << 10;

/// What a route takes at most; it lies with the request.
#[derive(Debug, Clone, Copy)]
pub struct MostBytes(pub usize);

/// A JSON body that was read, or an answer as JSON.
pub struct Json<T>(pub T);

impl<T: Serialize> IntoResponse for Json<T> {
    fn into_response(self) -> Response {
        written(&mut |out| serde_json::to_writer(out, &self.0))
    }
}

/// An answer as JSON, written off the threads that serve: nobody knows beforehand how long it gets.
fn written(write: &mut dyn FnMut(&mut Vec<u8>) -> serde_json::Result<()>) -> Response {
    let mut out = Vec::with_capacity(1024);
    match tokio::task::block_in_place(|| write(&mut out)) {
        Ok(()) => ([(header::CONTENT_TYPE, "application/json")], out).into_response(),
        Err(e) => Problem::from(e).into_response(),
    }
}

impl<T: DeserializeOwned + Send + 'static, S: Send + Sync> FromRequest<S> for Json<T> {
    type Rejection = Problem;

    async fn from_request(request: Request, state: &S) -> Result<Self, Problem> {
        Sent::<T>::from_request(request, state).await?.read().await.map(Self)
    }
}

/// A JSON body that is not read yet: first it is asked whether what it is for exists.
pub struct Sent<T>(Request, PhantomData<fn() -> T>);

impl<T: DeserializeOwned + Send + 'static, S: Send + Sync> FromRequest<S> for Sent<T> {
    type Rejection = Problem;

    async fn from_request(request: Request, _: &S) -> Result<Self, Problem> {
        may_be_read(&request)?;
        Ok(Self(request, PhantomData))
    }
}

impl<T: DeserializeOwned + Send + 'static> Sent<T> {
    pub async fn read(self) -> Answer<T> {
        let bytes = whole(self.0).await?;
        // Of the many types of bodies as little as can be is compiled anew.
        let read = || serde_json::from_slice(&bytes).map_err(|e| no_json(&e));
        if bytes.len() > READ_HERE { tokio::task::block_in_place(read) } else { read() }
    }
}

/// Whether a request's head says that it is JSON, and not too much.
fn may_be_read(request: &Request) -> Answer<()> {
    let kind = request.headers().get(header::CONTENT_TYPE).and_then(|t| t.to_str().ok()).unwrap_or_default();
    let kind = kind.split(';').next().unwrap_or_default().trim().to_ascii_lowercase();
    if kind != "application/json" && !(kind.starts_with("application/") && kind.ends_with("+json")) {
        return Err(Problem::new(StatusCode::UNSUPPORTED_MEDIA_TYPE, "this route takes JSON: send it with content-type application/json"));
    }
    let most = most(request);
    let stated = request.headers().get(header::CONTENT_LENGTH).and_then(|l| l.to_str().ok()).and_then(|l| l.parse::<u64>().ok());
    if stated.is_some_and(|l| l > most as u64) { Err(too_large(most)) } else { Ok(()) }
}

/// A body whole, within what its route takes, without control characters in its texts.
async fn whole(request: Request) -> Answer<Bytes> {
    let most = most(&request);
    let bytes = axum::body::to_bytes(request.into_body(), most).await.map_err(|e| {
        // The limit's own error lies under axum's.
        let over = std::error::Error::source(&e).is_some_and(|s| s.is::<http_body_util::LengthLimitError>());
        if over { too_large(most) } else { Problem::new(StatusCode::BAD_REQUEST, "the request broke off; nothing was changed") }
    })?;
    let control_in = || escaped_control(&bytes);
    let found = if bytes.len() > READ_HERE { tokio::task::block_in_place(control_in) } else { control_in() };
    if found { Err(control()) } else { Ok(bytes) }
}

fn no_json(e: &serde_json::Error) -> Problem {
    match e.classify() {
        serde_json::error::Category::Data => Problem::input(format!("the request cannot be used: {}", shortened(&e.to_string()))),
        _ => Problem::new(StatusCode::BAD_REQUEST, format!("the request is no whole JSON: {}", shortened(&e.to_string()))),
    }
}

/// An error names what it found: a number of a million digits is not set back.
fn shortened(text: &str) -> String {
    const MOST: usize = 300;
    if text.chars().count() <= MOST { text.into() } else { text.chars().take(MOST).chain("…".chars()).collect() }
}

fn most(request: &Request) -> usize {
    request.extensions().get::<MostBytes>().map_or(LITTLE_BYTES, |m| m.0)
}

fn too_large(most: usize) -> Problem {
    let most = if most < 1 << 20 { format!("{} KB", most >> 10) } else { format!("{} MB", most >> 20) };
    Problem::new(StatusCode::PAYLOAD_TOO_LARGE, format!("this is too large: this route takes up to {most}"))
}

fn control() -> Problem {
    Problem::input("a control character stands in a text; take it out (line ends and tabs may stay)")
}

/// Refuses a request whose address has control characters in it.
pub async fn only_plain_text(request: Request, next: Next) -> Response {
    if coded_control(request.uri().path()) || request.uri().query().is_some_and(coded_control) {
        return control().into_response();
    }
    next.run(request).await
}

/// Whether a percent-encoded text has a control character in it.
fn coded_control(text: &str) -> bool {
    percent_encoding::percent_decode_str(text).any(|b| b < 0x20 || b == 0x7F)
}

/// Whether a string of a JSON text has an escaped control character, but for line ends and tabs. As they are, JSON has none.
fn escaped_control(json: &[u8]) -> bool {
    let mut rest = json;
    while let Some(at) = rest.iter().position(|b| *b == b'\\') {
        match rest.get(at + 1) {
            Some(b'b' | b'f') => return true,
            Some(b'u') => {
                let code = rest.get(at + 2..at + 6).and_then(|h| std::str::from_utf8(h).ok()).and_then(|h| u32::from_str_radix(h, 16).ok());
                if code.is_some_and(|c| (c < 0x20 && ![0x09, 0x0A, 0x0D].contains(&c)) || c == 0x7F) {
                    return true;
                }
            }
            _ => {}
        }
        rest = rest.get(at + 2..).unwrap_or_default();
    }
    false
}
