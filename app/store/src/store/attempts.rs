//! Tries to sign in: counted by address and network before a password is looked at, so that no two of them slip by together.

use sqlx::{PgConnection, PgPool};

use super::sha256;

/// Counts a try; gives the seconds to wait where there were too many before. From the fifth on the address is locked for that network, for
/// a minute first and twice as long each time, up to a quarter of an hour. An address that nobody has is counted alike.
pub async fn begin(pool: &PgPool, address: &str, network: &str) -> Result<i64, sqlx::Error> {
    let wait = sqlx::query_scalar!(
        r#"INSERT INTO sign_in_failures AS f (address_sha256, network, failures) VALUES ($1, $2, 1)
           ON CONFLICT (address_sha256, network) DO UPDATE SET
             failures = CASE WHEN f.locked_until > now() THEN f.failures WHEN f.last_at < now() - interval '1 day' THEN 1 ELSE f.failures + 1 END,
             locked_until = CASE WHEN f.locked_until > now() THEN f.locked_until
               WHEN f.failures + 1 >= 5 THEN now() + interval '1 minute' * least(15, power(2, least(f.failures - 4, 10))) END,
             last_at = CASE WHEN f.locked_until > now() THEN f.last_at ELSE now() END
           RETURNING CASE WHEN last_at < now() THEN ceil(extract(epoch FROM locked_until - now()))::bigint ELSE 0 END AS "wait!""#,
        key(address),
        network
    )
    .fetch_one(pool)
    .await?;
    Ok(wait.max(0))
}

/// The password was right: the tries before it count no more.
pub async fn forget(db: &mut PgConnection, address: &str, network: &str) -> Result<(), sqlx::Error> {
    sqlx::query!("DELETE FROM sign_in_failures WHERE address_sha256 = $1 AND network = $2", key(address), network).execute(db).await.map(drop)
}

/// Under every network: whoever keeps the machine lets a member in again.
pub async fn forget_all(db: &mut PgConnection, address: &str) -> Result<(), sqlx::Error> {
    sqlx::query!("DELETE FROM sign_in_failures WHERE address_sha256 = $1", key(address)).execute(db).await.map(drop)
}

/// What somebody typed as an address may be a password: it is not kept.
fn key(address: &str) -> String {
    sha256(address.trim().to_lowercase().as_bytes())
}
