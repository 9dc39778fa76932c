//! Checks as jobs: one a drawing, in a queue that several workers may share. A job is safe to run twice.

use apalis::{
    layers::WorkerBuilderExt,
    prelude::{Data, Monitor, WorkerBuilder, WorkerFactoryFn},
};
use eddymist_formats::drawings;
use serde::{Deserialize, Serialize};

use crate::{state::State, store};

/// Weigh one drawing.
#[derive(Debug, Clone, Serialize, Deserialize)]
pub struct CheckJob {
    pub drawing: uuid::Uuid,
}

/// Works on jobs for ever, one on each core.
pub async fn work(state: State) {
    let cores = std::thread::available_parallelism().map_or(2, usize::from);
    let name = format!("check-{}", uuid::Uuid::new_v4());
    let worker = WorkerBuilder::new(name).concurrency(cores).data(state.clone()).backend(state.queue.clone()).build_fn(run);
    if let Err(e) = Monitor::new().register(worker).run().await {
        tracing::error!("the worker has stopped: {e}");
    }
}

async fn run(job: CheckJob, state: Data<State>) -> Result<(), std::io::Error> {
    let failed = |e: sqlx::Error| std::io::Error::other(e.to_string());
    // Gone or already weighed: nothing to do.
    let Some(task) = store::deliveries::task(&state.pool, job.drawing).await.map_err(failed)? else {
        return Ok(());
    };
    let result = tokio::task::spawn_blocking(move || drawings::weigh(&task.guide, &task.file, &task.bytes, &task.manifest).map_err(|e| e.to_string())).await;
    let result = result.unwrap_or_else(|e| Err(format!("the check broke off ({e}); this is our fault, please report it with the drawing")));
    store::deliveries::finish(&state.pool, job.drawing, result).await.map_err(failed)
}
