//! What every handler shares: the database and the queue of checks.

use apalis::prelude::Storage;
use apalis_sql::{Config, postgres::PostgresStorage};
use serde::{Deserialize, Serialize};
use sqlx::{PgPool, postgres::PgPoolOptions};

use crate::StartError;
use eddymist_store::model::DemoSignIn;

/// A database that does not answer is told to a person after this long.
const WAIT: std::time::Duration = std::time::Duration::from_secs(6);

#[derive(Clone)]
pub struct State {
    pub pool: PgPool,
    pub queue: PostgresStorage<CheckJob>,
    /// The demo's sign-ins, where they may be shown.
    pub demo_sign_ins: std::sync::Arc<[DemoSignIn]>,
}

impl State {
    /// Connects to the database that DATABASE_URL names.
    pub async fn connect() -> Result<Self, StartError> {
        let url = std::env::var("DATABASE_URL").map_err(|_| StartError::NoDatabaseUrl)?;
        // A job holds its drawing on one connection and reads and writes on another; the rest is for the pages.
        let connections = 12 + 2 * crate::state::at_once() as u32;
        let pool = PgPoolOptions::new().max_connections(connections).acquire_timeout(WAIT).connect(&url).await?;
        let config = Config::new("check").set_poll_interval(std::time::Duration::from_millis(60)).set_buffer_size(8);
        Ok(Self { queue: PostgresStorage::new_with_config(pool.clone(), config), pool, demo_sign_ins: [].into() })
    }

    /// Brings the schemas up to date: ours, the queue's and the sessions'.
    pub async fn migrate(&self) -> Result<(), StartError> {
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
