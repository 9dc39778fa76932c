//! Work that is too heavy for the threads that serve: off them, behind one semaphore that counts bytes, so that what comes at once does not
//! take more memory than there is.

use std::{sync::Arc, time::Duration};

use axum::http::{StatusCode, header};
use tokio::sync::{OwnedSemaphorePermit, Semaphore};

use crate::problem::{Answer, Problem};

/// Work that has waited so long for its turn is refused: whoever asked comes again.
const TURN: Duration = Duration::from_secs(30);
/// So many may wait for their turn; more are refused at once.
const MOST_WAITING: usize = 256;
const MIB: u64 = 1 << 20;

/// The memory that heavy work may take together.
#[derive(Clone)]
pub struct Heavy {
    free: Arc<Semaphore>,
    waiting: Arc<Semaphore>,
    /// In MiB.
    all: u32,
    /// Each takes at least this: no more of them at once than cores can work on.
    least: u32,
}

impl Heavy {
    /// Half of the machine's memory, and no less than one picture's reader may take.
    pub fn new() -> Self {
        let all = (memory_bytes() / 2 / MIB).clamp(2200, 1 << 20) as u32;
        let cores = std::thread::available_parallelism().map_or(2, usize::from) as u32;
        Self { free: Arc::new(Semaphore::new(all as usize)), waiting: Arc::new(Semaphore::new(MOST_WAITING)), all, least: (all / (4 * cores)).max(1) }
    }

    /// MiB that are free, and all of them.
    pub fn free(&self) -> (usize, u32) {
        (self.free.available_permits(), self.all)
    }

    /// A turn for work that takes about so many bytes; it ends when it is dropped.
    pub async fn turn(&self, bytes: u64) -> Answer<OwnedSemaphorePermit> {
        let Ok(_place) = self.waiting.try_acquire() else { return Err(busy()) };
        let permits = u32::try_from(bytes.div_ceil(MIB)).unwrap_or(u32::MAX).clamp(self.least, self.all);
        match tokio::time::timeout(TURN, self.free.clone().acquire_many_owned(permits)).await {
            Ok(Ok(turn)) => Ok(turn),
            _ => Err(busy()),
        }
    }

    /// A turn for a worker, who waits as long as it takes.
    pub async fn turn_of_worker(&self, bytes: u64) -> Option<OwnedSemaphorePermit> {
        let permits = u32::try_from(bytes.div_ceil(MIB)).unwrap_or(u32::MAX).clamp(self.least, self.all);
        self.free.clone().acquire_many_owned(permits).await.ok()
    }

    /// Does work that takes about so many bytes when it is its turn.
    pub async fn work<T: Send + 'static>(&self, bytes: u64, f: impl FnOnce() -> Answer<T> + Send + 'static) -> Answer<T> {
        let turn = self.turn(bytes).await?;
        off_thread(move || {
            // Held by the work itself: who asked may be gone before it ends.
            let _turn = turn;
            f()
        })
        .await
    }
}

/// Does what is short, but too long for the threads that serve.
pub async fn off_thread<T: Send + 'static>(f: impl FnOnce() -> Answer<T> + Send + 'static) -> Answer<T> {
    tokio::task::spawn_blocking(f).await.unwrap_or_else(|e| {
        tracing::error!("work broke off: {e}");
        Err(Problem::ours())
    })
}

/// Too much at once; with when to come again.
pub fn busy() -> Problem {
    let mut p = Problem::new(StatusCode::SERVICE_UNAVAILABLE, "too much is asked of the server just now; nothing was changed. Try again in ten seconds");
    p.headers.push((header::RETRY_AFTER, "10".into()));
    p
}

/// What reading a picture of so many bytes takes, its pixels and what is made of them beside it: by its header where it has one.
pub fn picture_bytes(bytes: &[u8]) -> u64 {
    use eddymist_formats::{LIMITS, images};
    let pixels = images::dimensions(bytes, &LIMITS).map_or(4_000_000, |(w, h)| u64::from(w) * u64::from(h));
    64 * MIB + bytes.len() as u64 + 16 * pixels
}

fn memory_bytes() -> u64 {
    let text = std::fs::read_to_string("/proc/meminfo").unwrap_or_default();
    let kb = text.lines().find_map(|l| l.strip_prefix("MemTotal:")?.trim().strip_suffix("kB")?.trim().parse::<u64>().ok());
    kb.map_or(8 << 30, |k| k << 10)
}
