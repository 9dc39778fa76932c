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

fn run(tool: &str, args: &[&str], out: Stdio) -> Result<(), StartError> {
    let (_, password) = address()?;
    let mut command = Command::new(tool);
    command.args(args).stdin(Stdio::null()).stdout(out).stderr(Stdio::piped());
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

/// What a backup does not hold, table by table: sessions, tries, links. Whoever reads it signs in nowhere by it.
const LEFT_OUT: [&str; 4] = ["tower_sessions.session", "public.sign_in_failures", "public.password_resets", "public.setup_codes"];

/// Writes everything to a file that its owner alone reads: whole or not at all, and on the disk when it is said to be there.
pub fn backup(file: &Path) -> Result<(), StartError> {
    use std::os::unix::fs::OpenOptionsExt;
    let (url, _) = address()?;
    let there = || usage(format!("{} is there already; a backup never writes over another", file.display()));
    if file.exists() {
        return Err(there());
    }
    let failed = |e: std::io::Error| StartError::Other(format!("{}: {e}", file.display()));
    let mut name = file.as_os_str().to_owned();
    name.push(".part");
    let part = std::path::PathBuf::from(name);
    let out = std::fs::OpenOptions::new().write(true).create_new(true).mode(0o600).open(&part).map_err(|e| match e.kind() {
        std::io::ErrorKind::AlreadyExists => usage(format!("{} is there: another backup is being written, or one broke off; take it away", part.display())),
        _ => failed(e),
    })?;
    let written = || {
        let mut args = vec!["--format=custom".to_string(), "--no-owner".into(), "--no-privileges".into(), "--dbname".into(), url.clone()];
        args.extend(LEFT_OUT.iter().map(|t| format!("--exclude-table-data={t}")));
        let args: Vec<&str> = args.iter().map(String::as_str).collect();
        run("pg_dump", &args, out.try_clone().map_err(failed)?.into())?;
        out.sync_all().map_err(failed)?;
        // A link, unlike a new name, never takes another file's place.
        std::fs::hard_link(&part, file).map_err(|e| if e.kind() == std::io::ErrorKind::AlreadyExists { there() } else { failed(e) })?;
        let folder = file.parent().filter(|p| !p.as_os_str().is_empty()).unwrap_or(Path::new("."));
        std::fs::File::open(folder).and_then(|f| f.sync_all()).map_err(failed)
    };
    let done = written();
    let _ = std::fs::remove_file(&part);
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
    run("pg_restore", &["--no-owner", "--no-privileges", "--single-transaction", "--exit-on-error", "--dbname", &url, &file.to_string_lossy()], Stdio::null())?;
    state.migrate().await?;
    eddymist_store::store::sign_ins::end_all(&state.pool).await?;
    Ok(())
}
