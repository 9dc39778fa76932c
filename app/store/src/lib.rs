//! What is kept and shown, and every query: the ground floor of the server, a crate of its own so that both compile side by side.

pub mod model;
pub mod pictures;
pub mod store;

/// Brings the program's own schema up to date.
pub async fn migrate(pool: &sqlx::PgPool) -> Result<(), sqlx::migrate::MigrateError> {
    sqlx::migrate!().set_ignore_missing(true).run(pool).await
}

/// How a database's schema stands to this program's.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Schema {
    Ours,
    Older,
    /// A newer program has brought it up to date.
    Newer,
}

/// How the schema stands.
pub async fn schema(pool: &sqlx::PgPool) -> Result<Schema, sqlx::Error> {
    let known = sqlx::migrate!().iter().map(|m| m.version).max().unwrap_or(0);
    // The queue's migrations are kept in the same table, by days for numbers: ours are few.
    const OURS: i64 = 1_000_000;
    let there: bool = sqlx::query_scalar("SELECT to_regclass('_sqlx_migrations') IS NOT NULL").fetch_one(pool).await?;
    let last: Option<i64> =
        if there { sqlx::query_scalar("SELECT max(version) FROM _sqlx_migrations WHERE version < $1").bind(OURS).fetch_one(pool).await? } else { None };
    let last = last.unwrap_or(0);
    Ok(if last > known {
        Schema::Newer
    } else if last < known {
        Schema::Older
    } else {
        Schema::Ours
    })
}
