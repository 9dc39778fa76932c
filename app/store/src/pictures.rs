//! Where pictures lie: in the database, or by their SHA-256 in a store of their own that EDDYMIST_PICTURES names (the feature `pictures`).

use std::sync::Arc;

use sqlx::PgPool;

/// Where pictures lie.
#[derive(Debug, Clone)]
pub struct Pictures {
    pub pool: PgPool,
    elsewhere: Option<Arc<imp::Elsewhere>>,
}

/// The pictures' own store does not answer, or lacks what the database says is there.
#[derive(Debug)]
pub struct Away(pub String);

impl std::fmt::Display for Away {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "the store of pictures: {}", self.0)
    }
}

impl std::error::Error for Away {}

fn away(e: impl ToString) -> sqlx::Error {
    sqlx::Error::Io(std::io::Error::other(Away(e.to_string())))
}

impl Pictures {
    /// As the environment says; what is wrong with that, in words.
    pub async fn from_environment(pool: PgPool) -> Result<Self, String> {
        let address = std::env::var("EDDYMIST_PICTURES").unwrap_or_default();
        let elsewhere = if address.trim().is_empty() { None } else { Some(Arc::new(imp::Elsewhere::open(address.trim())?)) };
        Ok(Self { pool, elsewhere })
    }

    /// Whether every picture can be reached: an error in words where some lie in a store that nobody named.
    pub async fn all_reached(&self) -> Result<(), String> {
        let query = sqlx::query_scalar!(r#"SELECT EXISTS (SELECT FROM images WHERE bytes IS NULL) AS "some!""#);
        let some = query.fetch_one(&self.pool).await.map_err(|e| e.to_string())?;
        if some && self.elsewhere.is_none() {
            return Err("pictures lie in a store of their own: set EDDYMIST_PICTURES to where (file:///… or s3://bucket/prefix)".into());
        }
        Ok(())
    }

    /// Whether pictures go to a store of their own.
    pub fn are_elsewhere(&self) -> bool {
        self.elsewhere.is_some()
    }

    /// Writes one down in the store, where there is one.
    pub(crate) async fn put(&self, sha: &str, bytes: &[u8]) -> Result<(), sqlx::Error> {
        match &self.elsewhere {
            Some(e) => e.put(sha, bytes.to_vec()).await.map_err(away),
            None => Ok(()),
        }
    }

    /// Writes it once more where it is not there: it may have been swept while its row was awaited.
    pub(crate) async fn put_again(&self, sha: &str, bytes: &[u8]) -> Result<(), sqlx::Error> {
        match &self.elsewhere {
            Some(e) if !e.has(sha).await.map_err(away)? => e.put(sha, bytes.to_vec()).await.map_err(away),
            _ => Ok(()),
        }
    }

    /// The bytes of a row: its own, or those in the store.
    pub(crate) async fn bytes(&self, sha: &str, own: Option<Vec<u8>>) -> Result<Vec<u8>, sqlx::Error> {
        match (own, &self.elsewhere) {
            (Some(bytes), _) => Ok(bytes),
            (None, Some(e)) => {
                let bytes = e.get(sha).await.map_err(away)?;
                if crate::store::sha256(&bytes) == sha { Ok(bytes) } else { Err(away(format!("what lies there as {sha} is something else"))) }
            }
            (None, None) => Err(away("EDDYMIST_PICTURES does not say where it is")),
        }
    }

    /// Takes away what no row refers to any longer.
    pub(crate) async fn remove(&self, shas: &[String]) -> Result<(), sqlx::Error> {
        if let Some(e) = &self.elsewhere {
            for sha in shas {
                e.remove(sha).await.map_err(away)?;
            }
        }
        Ok(())
    }

    /// Carries what lies in the database still over into the store, one picture at a time; how many.
    pub async fn carry_over(&self) -> Result<u64, sqlx::Error> {
        let mut n = 0;
        while self.elsewhere.is_some() {
            let mut tx = self.pool.begin().await?;
            let next = sqlx::query!(r#"SELECT sha256, bytes AS "bytes!" FROM images WHERE bytes IS NOT NULL LIMIT 1 FOR UPDATE SKIP LOCKED"#);
            let Some(row) = next.fetch_optional(&mut *tx).await? else { break };
            self.put(&row.sha256, &row.bytes).await?;
            sqlx::query!("UPDATE images SET bytes = NULL WHERE sha256 = $1", row.sha256).execute(&mut *tx).await?;
            tx.commit().await?;
            n += 1;
        }
        Ok(n)
    }
}

#[cfg(feature = "pictures")]
mod imp {
    use object_store::{ObjectStore, ObjectStoreExt, aws::AmazonS3Builder, local::LocalFileSystem, path::Path};

    /// A bucket or a folder.
    #[derive(Debug)]
    pub struct Elsewhere {
        store: Box<dyn ObjectStore>,
        prefix: Path,
    }

    impl Elsewhere {
        pub fn open(address: &str) -> Result<Self, String> {
            let wrong = |e: &dyn std::fmt::Display| format!("EDDYMIST_PICTURES={address}: {e}");
            if let Some(folder) = address.strip_prefix("file://") {
                if !folder.starts_with('/') {
                    return Err(wrong(&"a folder by its whole path is meant, such as file:///srv/eddymist/pictures"));
                }
                std::fs::create_dir_all(folder).map_err(|e| wrong(&e))?;
                // What is acknowledged is on the disk.
                let store = LocalFileSystem::new_with_prefix(folder).map_err(|e| wrong(&e))?.with_fsync(true);
                return Ok(Self { store: Box::new(store), prefix: Path::default() });
            }
            let rest = address.strip_prefix("s3://").ok_or_else(|| wrong(&"s3://bucket/prefix or file:///folder is meant"))?;
            let (bucket, prefix) = rest.split_once('/').unwrap_or((rest, ""));
            if bucket.is_empty() {
                return Err(wrong(&"the bucket is missing"));
            }
            // Keys, region and another endpoint as AWS_ACCESS_KEY_ID, AWS_SECRET_ACCESS_KEY, AWS_REGION, AWS_ENDPOINT say.
            let store = AmazonS3Builder::from_env().with_bucket_name(bucket).build().map_err(|e| wrong(&e))?;
            Ok(Self { store: Box::new(store), prefix: Path::from(prefix) })
        }

        /// In folders by the first two digits, so that none has too many.
        fn path(&self, sha: &str) -> Path {
            self.prefix.clone().join(sha.get(..2).unwrap_or("--")).join(sha)
        }

        pub async fn put(&self, sha: &str, bytes: Vec<u8>) -> object_store::Result<()> {
            self.store.put(&self.path(sha), bytes.into()).await.map(drop)
        }

        pub async fn has(&self, sha: &str) -> object_store::Result<bool> {
            match self.store.head(&self.path(sha)).await {
                Ok(_) => Ok(true),
                Err(object_store::Error::NotFound { .. }) => Ok(false),
                Err(e) => Err(e),
            }
        }

        pub async fn get(&self, sha: &str) -> object_store::Result<Vec<u8>> {
            Ok(self.store.get(&self.path(sha)).await?.bytes().await?.into())
        }

        pub async fn remove(&self, sha: &str) -> object_store::Result<()> {
            match self.store.delete(&self.path(sha)).await {
                Err(object_store::Error::NotFound { .. }) => Ok(()),
                other => other,
            }
        }
    }
}

#[cfg(not(feature = "pictures"))]
mod imp {
    /// This program was built without.
    #[derive(Debug)]
    pub enum Elsewhere {}

    impl Elsewhere {
        pub fn open(_: &str) -> Result<Self, String> {
            Err("EDDYMIST_PICTURES is set, and this program was built without it: build with --features pictures, or take the setting away".into())
        }

        pub async fn put(&self, _: &str, _: Vec<u8>) -> Result<(), String> {
            match *self {}
        }

        pub async fn has(&self, _: &str) -> Result<bool, String> {
            match *self {}
        }

        pub async fn get(&self, _: &str) -> Result<Vec<u8>, String> {
            match *self {}
        }

        pub async fn remove(&self, _: &str) -> Result<(), String> {
            match *self {}
        }
    }
}
