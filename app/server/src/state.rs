//! What every handler shares: the database and the queue of checks.

use apalis::prelude::Storage;
use apalis_sql::{Config, postgres::PostgresStorage};
use sqlx::{PgPool, postgres::PgPoolOptions};

use crate::{StartError, jobs::CheckJob};

/// A database that does not answer is told to a person after this long.
const WAIT: std::time::Duration = std::time::Duration::from_secs(6);

#[derive(Clone)]
pub struct State {
    pub pool: PgPool,
    pub queue: PostgresStorage<CheckJob>,
    /// Whether the demo's sign-ins may be shown.
    pub demo: bool,
}

impl State {
    /// Connects to the database that DATABASE_URL names.
    pub async fn connect(demo: bool) -> Result<Self, StartError> {
        let url = std::env::var("DATABASE_URL").map_err(|_| StartError::NoDatabaseUrl)?;
        // A job holds its drawing on one connection and reads and writes on another; the rest is for the pages.
        let connections = 12 + 2 * crate::jobs::at_once() as u32;
        let pool = PgPoolOptions::new().max_connections(connections).acquire_timeout(WAIT).connect(&url).await?;
        let config = Config::new("check").set_poll_interval(std::time::Duration::from_millis(60)).set_buffer_size(8);
        Ok(Self { queue: PostgresStorage::new_with_config(pool.clone(), config), pool, demo })
    }

    /// Brings the schemas up to date: ours, the queue's and the sessions'.
    pub async fn migrate(&self) -> Result<(), StartError> {
        sqlx::migrate!().set_ignore_missing(true).run(&self.pool).await?;
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
        for drawing in crate::store::drawings::to_queue(&self.pool, at_once).await? {
            self.enqueue(drawing).await?;
        }
        Ok(())
    }
}
