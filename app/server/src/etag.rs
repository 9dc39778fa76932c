//! Documents and files with a tag by what is in them (RFC 9110, 8.8.3): a program that has one already is told so and gets nothing twice.

use axum::{
    body::{Body, HttpBody, to_bytes},
    extract::Request,
    http::{HeaderValue, Method, StatusCode, header},
    middleware::Next,
    response::{IntoResponse, Response},
};
use eddymist_store::store::sha256;

use crate::{problem::Problem, work::pens::known};

/// Larger answers are not tagged: they would be held and hashed each time.
const MOST: u64 = 8 << 20;

/// Tags what a GET gives whole.
pub async fn tagged(request: Request, next: Next) -> Response {
    let asked = (request.method() == Method::GET).then(|| request.headers().clone());
    let response = next.run(request).await;
    let Some(headers) = asked else { return response };
    // A stream has no exact size.
    let whole = response.body().size_hint().exact().is_some_and(|n| n > 0 && n <= MOST);
    if response.status() != StatusCode::OK || !whole || response.headers().contains_key(header::ETAG) {
        return response;
    }
    let (mut head, body) = response.into_parts();
    let Ok(bytes) = to_bytes(body, MOST as usize).await else { return Problem::ours().into_response() };
    let tag = format!("\"{}\"", sha256(&bytes));
    let Ok(value) = HeaderValue::from_str(&tag) else { return Problem::ours().into_response() };
    head.headers.insert(header::ETAG, value);
    if known(&headers, &tag) {
        head.status = StatusCode::NOT_MODIFIED;
        head.headers.remove(header::CONTENT_LENGTH);
        return Response::from_parts(head, Body::empty());
    }
    Response::from_parts(head, Body::from(bytes))
}
