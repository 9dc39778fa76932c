//! What every handler shares: the database and the queue of checks.

use apalis::prelude::Storage;
use apalis_sql::{Config, postgres::PostgresStorage};
use serde::{Deserialize, Serialize};
use sqlx::{
    PgPool,
    postgres::{PgConnectOptions, PgPoolOptions, PgSslMode},
};
use tokio::sync::Semaphore;
use tokio_util::sync::CancellationToken;

use std::sync::Arc;

use crate::{
    StartError,
    address::Reached,
    heavy::Heavy,
    kept::{Kept, Seen},
    metrics::Metrics,
    room::Room,
};
use eddymist_store::{Schema, model::DemoSignIn, pictures::Pictures, store::team::Mark};

/// A database that does not answer is told to a person after this long.
const WAIT: std::time::Duration = std::time::Duration::from_secs(6);

#[derive(Clone)]
pub struct State {
    pub pool: PgPool,
    /// Where pictures lie.
    pub pictures: Pictures,
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
    /// What the productions' pictures take.
    pub room: Arc<Room>,
    /// What was reckoned of the team.
    pub looks: Arc<Kept<Mark, Option<Arc<Seen>>>>,
    /// The process is told to stop.
    pub stopping: CancellationToken,
}

impl State {
    /// Connects to the database that DATABASE_URL names.
    pub async fn connect() -> Result<Self, StartError> {
        let url = std::env::var("DATABASE_URL").map_err(|_| StartError::NoDatabaseUrl)?;
        // A job holds its drawing on one connection and reads and writes on another; the rest is for the pages.
        let connections = 12 + 2 * crate::state::at_once() as u32;
        let pool = PgPoolOptions::new().max_connections(connections).acquire_timeout(WAIT).connect_with(options(&url)?).await?;
        let config = Config::new("check").set_poll_interval(std::time::Duration::from_millis(60)).set_buffer_size(8);
        Ok(Self {
            queue: PostgresStorage::new_with_config(pool.clone(), config),
            pictures: Pictures::from_environment(pool.clone()).await.map_err(StartError::Usage)?,
            pool,
            demo_sign_ins: [].into(),
            heavy: Heavy::new(),
            hashing: Arc::new(Semaphore::new(at_once())),
            reached: Arc::default(),
            metrics: Arc::default(),
            room: Arc::default(),
            looks: Arc::default(),
            stopping: CancellationToken::new(),
        })
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
        self.pictures.all_reached().await.map_err(StartError::Usage)
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

/// Under this name the environment says that another host's database may be reached without TLS.
const WITHOUT_TLS: &str = "EDDYMIST_DATABASE_WITHOUT_TLS";

/// How the database is reached: by a socket or on this machine as the address says, on another host by TLS with a certificate that holds.
pub fn options(url: &str) -> Result<PgConnectOptions, StartError> {
    let options: PgConnectOptions = url.parse().map_err(|e: sqlx::Error| StartError::Usage(format!("DATABASE_URL is no address of a database: {e}")))?;
    let here = options.get_socket().is_some()
        || options.get_host().starts_with('/')
        || options.get_host() == "localhost"
        || options.get_host().parse::<std::net::IpAddr>().is_ok_and(|a| a.is_loopback());
    if here || std::env::var(WITHOUT_TLS).is_ok_and(|v| v == "yes") {
        return Ok(options);
    }
    let stated = url.contains("sslmode=") || url.contains("ssl-mode=") || std::env::var("PGSSLMODE").is_ok();
    match (stated, options.get_ssl_mode()) {
        (false, _) => Ok(options.ssl_mode(PgSslMode::VerifyFull)),
        (true, PgSslMode::Require | PgSslMode::VerifyCa | PgSslMode::VerifyFull) => Ok(options),
        (true, mode) => Err(StartError::Usage(format!(
            "the database is on another host, and sslmode={} would send passwords and drawings in the clear: leave it out or say require, verify-ca or verify-full; where a tunnel of your own lies between, set {WITHOUT_TLS}=yes",
            format!("{mode:?}").to_lowercase()
        ))),
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

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn another_host_is_reached_by_tls_alone() {
        let mode = |url: &str| options(url).map(|o| format!("{:?}", o.get_ssl_mode())).map_err(|e| e.to_string());
        assert_eq!(mode("postgres://e:p@db.studio.example/e").as_deref(), Ok("VerifyFull"));
        assert_eq!(mode("postgres://e:p@db.studio.example/e?sslmode=require").as_deref(), Ok("Require"));
        for clear in ["disable", "allow", "prefer"] {
            assert!(mode(&format!("postgres://e:p@10.1.2.3/e?sslmode={clear}")).is_err_and(|e| e.contains("in the clear")), "{clear}");
        }
        for here in ["postgres://e@%2Frun%2Feddymist/e", "postgres:///e?host=/run/postgresql", "postgres://e@127.0.0.1/e", "postgres://e@localhost/e"] {
            assert_eq!(mode(here).as_deref(), Ok("Prefer"), "{here}");
        }
    }
}
