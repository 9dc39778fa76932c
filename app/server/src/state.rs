//! What every handler shares: the database and the queue of checks.

use apalis::prelude::Storage;
use apalis_sql::{Config, postgres::PostgresStorage};
use serde::{Deserialize, Serialize};
use sqlx::{PgPool, postgres::PgPoolOptions};
use tokio::sync::Semaphore;
use tokio_util::sync::CancellationToken;

use std::sync::Arc;

use crate::{StartError, address::Reached, metrics::Metrics, work::Heavy};
use eddymist_store::{Schema, model::DemoSignIn};

/// A database that does not answer is told to a person after this long.
const WAIT: std::time::Duration = std::time::Duration::from_secs(6);

#[derive(Clone)]
pub struct State {
    pub pool: PgPool,
    pub queue: PostgresStorage<CheckJob>,
    /// The demo's sign-ins, where they may be shown.
    pub demo_sign_ins: Arc<[DemoSignIn]>,
    /// Turns for what is heavy.
    pub heavy: Heavy,
    /// Turns for hashing passwords, which takes 19 MiB and a core each.
    pub hashing: Arc<Semaphore>,
    /// How the application is reached.
    pub reached: Arc<Reached>,
    pub metrics: Arc<Metrics>,
    /// The process is told to stop.
    pub stopping: CancellationToken,
}

impl State {
    /// Connects to the database that DATABASE_URL names.
    pub async fn connect() -> Result<Self, StartError> {
        let url = std::env::var("DATABASE_URL").map_err(|_| StartError::NoDatabaseUrl)?;
        // A job holds its drawing on one connection and reads and writes on another; the rest is for the pages.
        let connections = 12 + 2 * crate::state::at_once() as u32;
        let pool = PgPoolOptions::new().max_connections(connections).acquire_timeout(WAIT).connect(&url).await?;
        let config = Config::new("check").set_poll_interval(std::time::Duration::from_millis(60)).set_buffer_size(8);
        Ok(Self { queue: PostgresStorage::new_with_config(pool.clone(), config), pool, demo_sign_ins: [].into(), heavy: Heavy::new(), hashing: Arc::new(Semaphore::new(at_once())), reached: Arc::default(), metrics: Arc::default(), stopping: CancellationToken::new() })
    }

    /// Whether the schema is this program's, for a command that only reads.
    pub async fn up_to_date(&self) -> Result<(), StartError> {
        match eddymist_store::schema(&self.pool).await? {
            Schema::Ours => Ok(()),
            Schema::Older => Err(StartError::Usage("the database's schema is older than this program: eddymist migrate brings it up to date".into())),
            Schema::Newer => Err(StartError::Newer),
        }
    }

    /// Brings the schemas up to date: ours, the queue's and the sessions'.
    pub async fn migrate(&self) -> Result<(), StartError> {
        if eddymist_store::schema(&self.pool).await? == Schema::Newer {
            return Err(StartError::Newer);
        }
        eddymist_store::migrate(&self.pool).await?;
        PostgresStorage::migrations().set_ignore_missing(true).run(&self.pool).await?;
        tower_sessions_sqlx_store::PostgresStore::new(self.pool.clone()).migrate().await?;
        Ok(())
    }

    /// Puts a drawing in the queue.
    pub async fn enqueue(&self, drawing: uuid::Uuid) -> Result<(), sqlx::Error> {
        self.queue.clone().push(CheckJob { drawing }).await.map(|_| ())
    }

    /// Puts into the queue what waits in none; with `at_once` all that waits.
    pub async fn enqueue_waiting(&self, at_once: bool) -> Result<(), sqlx::Error> {
        for drawing in eddymist_store::store::drawings::to_queue(&self.pool, at_once).await? {
            self.enqueue(drawing).await?;
        }
        Ok(())
    }
}

/// Weigh one drawing.
#[derive(Debug, Clone, Serialize, Deserialize)]
pub struct CheckJob {
    pub drawing: uuid::Uuid,
}

/// How many drawings a process weighs at once: one on each core, within what a database has connections for.
pub fn at_once() -> usize {
    std::thread::available_parallelism().map_or(2, usize::from).min(16)
}
