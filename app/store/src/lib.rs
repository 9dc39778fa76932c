//! What is kept and shown, and every query: the ground floor of the server, a crate of its own so that both compile side by side.

pub mod model;
pub mod store;

/// Brings the program's own schema up to date.
pub async fn migrate(pool: &sqlx::PgPool) -> Result<(), sqlx::migrate::MigrateError> {
    sqlx::migrate!().set_ignore_missing(true).run(pool).await
}
