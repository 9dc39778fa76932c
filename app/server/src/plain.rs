//! Text that is only text: no control characters in what a request names or sends as JSON. The database keeps no NUL, and no name, note
//! or address has a bell in it.

use axum::{
    body::Body,
    extract::Request,
    http::{StatusCode, header},
    middleware::Next,
    response::{IntoResponse, Response},
};

use crate::problem::Problem;

/// A JSON body is looked at whole; larger ones than this are refused, whatever their route.
const MOST_JSON: usize = 64 << 20;

fn refused() -> Response {
    Problem::new(StatusCode::UNPROCESSABLE_ENTITY, "a control character stands in a text; take it out (line ends and tabs may stay)").into_response()
}

/// Refuses a request whose address or JSON body has control characters in a text.
pub async fn only_plain_text(request: Request, next: Next) -> Response {
    if coded_control(request.uri().path()) || request.uri().query().is_some_and(coded_control) {
        return refused();
    }
    let json = request.headers().get(header::CONTENT_TYPE).is_some_and(|t| t.as_bytes().starts_with(b"application/json"));
    if !json {
        return next.run(request).await;
    }
    let (head, body) = request.into_parts();
    match axum::body::to_bytes(body, MOST_JSON).await {
        Ok(bytes) if escaped_control(&bytes) => refused(),
        Ok(bytes) => next.run(Request::from_parts(head, Body::from(bytes))).await,
        Err(_) => {
            Problem::new(StatusCode::PAYLOAD_TOO_LARGE, format!("this is too large, or broke off; up to {} MB are read", MOST_JSON >> 20)).into_response()
        }
    }
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
