//! Why the server, a worker or a command did not start.

/// Why the server did not start.
#[derive(Debug, thiserror::Error)]
pub enum StartError {
    #[error("DATABASE_URL is not set; it names the PostgreSQL database, such as postgres://user@127.0.0.1/eddymist")]
    NoDatabaseUrl,
    #[error("the database cannot be reached or used: {0}")]
    Database(#[from] sqlx::Error),
    #[error("the database's schema cannot be brought up to date: {0}")]
    Migrate(#[from] sqlx::migrate::MigrateError),
    #[error("the database's schema is newer than this program: somebody has started a newer Eddymist on it. Start that one, or restore a backup of before")]
    Newer,
    #[error("cannot listen on {0}: {1}")]
    Listen(String, std::io::Error),
    /// What was asked for is not there.
    #[error("{0}")]
    Usage(String),
    #[error("{0}")]
    Other(String),
}

impl StartError {
    /// The command's exit status.
    pub fn status(&self) -> u8 {
        if matches!(self, Self::NoDatabaseUrl | Self::Usage(_)) { 2 } else { 1 }
    }
}
