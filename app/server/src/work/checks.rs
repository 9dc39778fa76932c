//! Checks as jobs: one a drawing, in a queue that several workers may share. A job is safe to run twice, and a worker that ends
//! in the middle loses nothing: what waits is put into the queue again.

use std::time::Duration;

use apalis::{
    layers::WorkerBuilderExt,
    prelude::{Data, Monitor, WorkerBuilder, WorkerFactoryFn},
};
use eddymist_check::{
    DrawingCheck, WeighedLine,
    sequence::{Sequence, order},
    takes::{self, Take},
};
use eddymist_reader::{Unread, reading};
use uuid::Uuid;

use crate::state::{CheckJob, State, at_once};
use eddymist_store::store::{self, drawings::Found};

/// What ends its reader is tried so often.
const READER_TRIES: i32 = 2;
/// A check is begun so often before it is given up: a server that is ended in the middle of one counts too.
const MOST_STARTS: i32 = 5;

/// Works on jobs for ever.
pub async fn work(state: State) {
    let name = format!("check-{}", Uuid::new_v4());
    tokio::spawn(sweep(state.clone()));
    let worker = WorkerBuilder::new(name).concurrency(at_once()).data(state.clone()).backend(state.queue.clone()).build_fn(run);
    if let Err(e) = Monitor::new().register(worker).run().await {
        tracing::error!("the worker has stopped: {e}");
    }
}

/// Looks now and then for drawings that wait in no queue, and for deliveries whose sequence nobody has looked at.
async fn sweep(state: State) {
    let mut at_once = true;
    loop {
        if let Err(e) = state.enqueue_waiting(at_once).await {
            tracing::warn!("the queue cannot be filled: {e}");
        } else {
            at_once = false;
        }
        for delivery in store::deliveries::without_sequence(&state.pool).await.unwrap_or_default() {
            if let Err(e) = sequence(&state, delivery).await {
                tracing::warn!("the sequence cannot be looked at: {e}");
            }
        }
        tokio::time::sleep(Duration::from_secs(3)).await;
    }
}

async fn run(job: CheckJob, state: Data<State>) -> Result<(), std::io::Error> {
    weigh(&state, job.drawing).await.map_err(|e| std::io::Error::other(e.to_string()))
}

/// Weighs one drawing that waits; nothing happens when it does not, or when another worker is at it.
pub async fn weigh(state: &State, drawing: Uuid) -> Result<(), sqlx::Error> {
    let Some(held) = store::drawings::hold(&state.pool, drawing).await? else { return Ok(()) };
    let Some(mut task) = store::drawings::task(&state.pictures, drawing).await? else { return Ok(()) };
    let tries = store::drawings::tried(&state.pool, drawing).await?;
    let (guide, file, bytes, manifest) = (task.guide.clone(), task.file.clone(), std::mem::take(&mut task.bytes), task.manifest.clone());
    let result = if tries > MOST_STARTS {
        Err(Unread::Broke(format!("its check was begun {MOST_STARTS} times and each time the server ended before it did")))
    } else {
        // It waits for its turn beside what the pages ask; the turn ends with its reader.
        let turn = state.heavy.turn_of_worker(super::picture_bytes(&bytes)).await;
        let read = tokio::task::spawn_blocking(move || {
            let _turn = turn;
            reading::weigh(&guide, &file, &bytes, &manifest)
        })
        .await;
        read.unwrap_or_else(|e| Err(Unread::Broke(format!("the check broke off ({e}); this is our fault, please report it with the drawing"))))
    };
    let result = match result {
        // Once it may have been the machine.
        Err(Unread::Broke(_)) if tries < READER_TRIES => {
            drop(held);
            return state.enqueue(drawing).await;
        }
        // The queue comes back to it.
        Err(e @ Unread::NoReader(_)) => return Err(sqlx::Error::Io(std::io::Error::other(e.to_string()))),
        other => other.map_err(|e| e.to_string()),
    };
    let found = match result {
        Ok(weighed) => {
            let own = store::decisions::dismissals(&state.pool, drawing).await?;
            let mut carried = Vec::new();
            // What was marked as intended on the previous take holds where the line is the same.
            if let (true, Some((production, before))) = (own.iter().all(|d| !d.0.carried), store::drawings::earlier(&state.pool, drawing).await?)
                && let Some(earlier) = store::drawings::one(&state.pool, production, before).await?
            {
                let (views, meant): (Vec<_>, Vec<_>) = store::decisions::dismissals(&state.pool, before).await?.into_iter().unzip();
                if let Some(check) = &earlier.check {
                    let later = Take { check: &weighed.check, lines: &weighed.lines };
                    let holds = takes::carried(&earlier.guide, &meant, &Take { check, lines: &earlier.lines }, &later);
                    carried.extend(holds.into_iter().map(|(k, d)| (views[k].id, d)));
                }
            }
            Ok(Found { weighed, meant: own.into_iter().map(|d| d.1).collect(), carried })
        }
        Err(message) => Err(message),
    };
    store::drawings::finish(&state.pool, drawing, &task, found).await?;
    drop(held);
    sequence(state, task.delivery).await
}

/// Looks at a delivery's sequence, once all its drawings are weighed; one drawing's lines are held at a time.
pub async fn sequence(state: &State, delivery: Uuid) -> Result<(), sqlx::Error> {
    let Some(task) = store::deliveries::sequence_task(&state.pool, delivery).await? else { return Ok(()) };
    let Some(_held) = store::drawings::hold(&state.pool, delivery).await? else { return Ok(()) };
    let mut all = store::drawings::checks(&state.pool, delivery).await?;
    all.sort_by(|a, b| order((&a.file, &a.manifest), (&b.file, &b.manifest)));
    let (send, mut drawn) = tokio::sync::mpsc::channel::<(DrawingCheck, Vec<WeighedLine>)>(1);
    let guide = task.guide;
    let looking = tokio::task::spawn_blocking(move || {
        let mut sequence = Sequence::new(&guide);
        while let Some((check, lines)) = drawn.blocking_recv() {
            sequence.push(&check, &lines);
        }
        sequence.finish()
    });
    for d in all {
        if let Some(check) = d.check {
            let lines = store::drawings::lines(&state.pool, d.id).await?;
            // It takes them until it has broken off, which is said below.
            let _ = send.send((check, lines)).await;
        }
    }
    drop(send);
    let found = looking.await.map_err(|e| sqlx::Error::Io(std::io::Error::other(e.to_string())))?;
    store::deliveries::set_sequence(&state.pool, delivery, task.run, &found).await
}
