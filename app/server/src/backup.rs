//! `backup` and `restore`: PostgreSQL's own tools, so that what they write is what PostgreSQL reads.

use std::{
    path::Path,
    process::{Command, Stdio},
};

use crate::{StartError, state::State};

fn usage(text: impl Into<String>) -> StartError {
    StartError::Usage(text.into())
}

/// The database's address without its password, which goes by the environment: arguments are seen by everybody on a machine.
fn address() -> Result<(String, Option<String>), StartError> {
    let url = std::env::var("DATABASE_URL").map_err(|_| StartError::NoDatabaseUrl)?;
    let Some((scheme, rest)) = url.split_once("://") else { return Ok((url, None)) };
    let Some((user, host)) = rest.rsplit_once('@') else { return Ok((url, None)) };
    match user.split_once(':') {
        Some((name, password)) => {
            let plain = percent_encoding::percent_decode_str(password).decode_utf8_lossy().into_owned();
            Ok((format!("{scheme}://{name}@{host}"), Some(plain)))
        }
        None => Ok((url.clone(), None)),
    }
}

fn run(tool: &str, args: &[&str]) -> Result<(), StartError> {
    let (_, password) = address()?;
    let mut command = Command::new(tool);
    command.args(args).stdin(Stdio::null()).stdout(Stdio::null()).stderr(Stdio::piped());
    if let Some(p) = password {
        command.env("PGPASSWORD", p);
    }
    let out = command.output().map_err(|e| match e.kind() {
        std::io::ErrorKind::NotFound => usage(format!("{tool} is not installed: it comes with Debian's package postgresql-client")),
        _ => StartError::Other(format!("{tool}: {e}")),
    })?;
    if out.status.success() {
        return Ok(());
    }
    let said = String::from_utf8_lossy(&out.stderr);
    Err(StartError::Other(format!("{tool} did not do it: {}", said.lines().next().unwrap_or("it says nothing"))))
}

/// Writes everything to a file: whole or not at all.
pub fn backup(file: &Path) -> Result<(), StartError> {
    let (url, _) = address()?;
    if file.exists() {
        return Err(usage(format!("{} is there already; a backup never writes over another", file.display())));
    }
    let part = file.with_extension("part");
    let to = part.to_string_lossy().into_owned();
    let done = run("pg_dump", &["--format=custom", "--no-owner", "--no-privileges", "--file", &to, "--dbname", &url]);
    let done = done.and_then(|()| std::fs::rename(&part, file).map_err(|e| StartError::Other(format!("{}: {e}", file.display()))));
    if done.is_err() {
        let _ = std::fs::remove_file(&part);
    }
    done
}

/// Reads a backup into an empty database, in one transaction, and brings its schema up to date. Checks that waited go on; everybody
/// signs in again.
pub async fn restore(file: &Path) -> Result<(), StartError> {
    if !file.is_file() {
        return Err(usage(format!("{} is no file; name one that eddymist backup wrote", file.display())));
    }
    let state = State::connect().await?;
    let tables = eddymist_store::store::tables(&state.pool).await?;
    if tables > 0 {
        return Err(usage(format!(
            "the database that DATABASE_URL names has {tables} tables already; a backup is restored into an empty one (createdb makes it)"
        )));
    }
    let (url, _) = address()?;
    run("pg_restore", &["--no-owner", "--no-privileges", "--single-transaction", "--exit-on-error", "--dbname", &url, &file.to_string_lossy()])?;
    state.migrate().await?;
    eddymist_store::store::sign_ins::end_all(&state.pool).await?;
    Ok(())
}
