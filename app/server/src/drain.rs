//! What is refused by its head is heard out a little: whoever is still sending when the connection closes sees that it broke, and not the
//! sentence that says why.

use std::{
    pin::Pin,
    sync::{Arc, Mutex, PoisonError},
    task::{Context, Poll},
    time::Duration,
};

use axum::{
    body::{Body, Bytes, HttpBody},
    extract::Request,
    http::header,
    middleware::Next,
    response::Response,
};
use http_body_util::BodyExt;

/// So much of a refused body is taken and thrown away, for so long.
const MOST: usize = 64 << 20;
const LONGEST: Duration = Duration::from_secs(20);

/// A body that is still there when its reader has dropped it.
#[derive(Clone)]
struct Lent(Arc<Mutex<Body>>);

impl Lent {
    fn with<T>(&self, f: impl FnOnce(Pin<&mut Body>) -> T) -> T {
        f(Pin::new(&mut *self.0.lock().unwrap_or_else(PoisonError::into_inner)))
    }
}

impl HttpBody for Lent {
    type Data = Bytes;
    type Error = axum::Error;

    fn poll_frame(self: Pin<&mut Self>, cx: &mut Context<'_>) -> Poll<Option<Result<http_body::Frame<Bytes>, axum::Error>>> {
        self.with(|b| b.poll_frame(cx))
    }

    fn is_end_stream(&self) -> bool {
        self.with(|b| b.is_end_stream())
    }

    fn size_hint(&self) -> http_body::SizeHint {
        self.with(|b| b.size_hint())
    }
}

/// Hears a refused request out, unless it waits to be asked for its body.
pub async fn heard_out(request: Request, next: Next) -> Response {
    let (head, body) = request.into_parts();
    if body.is_end_stream() || head.headers.contains_key(header::EXPECT) {
        return next.run(Request::from_parts(head, body)).await;
    }
    let mut lent = Lent(Arc::new(Mutex::new(body)));
    let answer = next.run(Request::from_parts(head, Body::new(lent.clone()))).await;
    if !answer.status().is_success() {
        let rest = async {
            let mut left = MOST;
            while let Some(Ok(frame)) = lent.frame().await {
                left = left.saturating_sub(frame.data_ref().map_or(0, Bytes::len));
                if left == 0 {
                    break;
                }
            }
        };
        let _ = tokio::time::timeout(LONGEST, rest).await;
    }
    answer
}
