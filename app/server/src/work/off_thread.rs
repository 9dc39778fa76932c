//! Work that is too heavy for the threads that serve.

use crate::problem::{Answer, Problem};

pub async fn off_thread<T: Send + 'static>(f: impl FnOnce() -> Answer<T> + Send + 'static) -> Answer<T> {
    tokio::task::spawn_blocking(f)
        .await
        .unwrap_or_else(|_| Err(Problem::input("the picture could not be worked on; this is our fault, please report it with the file")))
}
