//! The parent's side: starts the same binary as a reader, hands it question and picture, and makes sentences of how it ended.

use std::{
    io::{Read, Write},
    process::{Child, Command, ExitStatus, Stdio},
    sync::mpsc,
    time::Duration,
};

use serde::de::DeserializeOwned;

use crate::ask::{Allowance, Ask, Refused};

/// Why a picture was not read.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum Unread {
    /// The picture's own fault: what is wrong, and what would be accepted.
    #[error("{0}")]
    Refused(String),
    #[error("no scanner’s resolution is in the file; give it in dpi")]
    NoResolution,
    /// It ended its reader: tried again it may do better, for one time.
    #[error("{0}")]
    Broke(String),
    /// No reader could be started: the machine's fault.
    #[error("a picture could not be read just now: {0}; try again in a moment")]
    NoReader(String),
}

/// A reader that has neither answered nor been ended by its bounds after this long hangs: long, since on a busy machine it waits its turn.
const HANGS: Duration = Duration::from_secs(900);

/// Asks one thing of one picture.
pub(crate) fn asked<T: DeserializeOwned>(ask: &Ask, bytes: &[u8]) -> Result<T, Unread> {
    let failed = |e: std::io::Error| Unread::NoReader(e.to_string());
    let mut question = Vec::new();
    ciborium::into_writer(ask, &mut question).map_err(|e| Unread::NoReader(e.to_string()))?;
    let mut child = command().map_err(failed)?.spawn().map_err(failed)?;
    let (Some(mut to), Some(mut from), Some(mut complaints)) = (child.stdin.take(), child.stdout.take(), child.stderr.take()) else {
        return Err(Unread::NoReader("it has no pipes".into()));
    };
    std::thread::scope(|s| {
        // A reader that ends early does not take all of it: how it ended says why.
        s.spawn(move || {
            let length = (question.len() as u64).to_le_bytes();
            let _ = to.write_all(&length).and_then(|()| to.write_all(&question)).and_then(|()| to.write_all(bytes));
        });
        let complaint = s.spawn(move || {
            let mut text = Vec::new();
            let _ = complaints.by_ref().take(4096).read_to_end(&mut text);
            let _ = std::io::copy(&mut complaints, &mut std::io::sink());
            String::from_utf8_lossy(&text).into_owned()
        });
        let (done, ended) = mpsc::channel();
        s.spawn(move || {
            let mut answer = Vec::new();
            let _ = from.read_to_end(&mut answer);
            let _ = done.send(answer);
        });
        let answer = ended.recv_timeout(HANGS);
        let status = end(&mut child, answer.is_err()).map_err(failed)?;
        let complaint = complaint.join().unwrap_or_default();
        let answer =
            answer.map_err(|_| Unread::Broke(format!("reading it hung for {} s; this is our fault, please report it with the file", HANGS.as_secs())))?;
        understood(&answer, status, &complaint)
    })
}

fn command() -> std::io::Result<Command> {
    // The running program, also where its file has been replaced meanwhile.
    let this = std::path::Path::new("/proc/self/exe");
    let this = if this.exists() { this.to_path_buf() } else { std::env::current_exe()? };
    let mut command = Command::new(this);
    command.arg("read").env_clear().stdin(Stdio::piped()).stdout(Stdio::piped()).stderr(Stdio::piped());
    // Parts of memory that every thread sets aside for itself would count as taken.
    command.env("MALLOC_ARENA_MAX", "2");
    Ok(command)
}

fn end(child: &mut Child, hangs: bool) -> std::io::Result<ExitStatus> {
    if hangs {
        child.kill()?;
    }
    child.wait()
}

fn understood<T: DeserializeOwned>(answer: &[u8], status: ExitStatus, complaint: &str) -> Result<T, Unread> {
    let (head, rest) = answer.split_at_checked(16).unwrap_or((&[], answer));
    if status.success() {
        let answer: Result<T, Refused> = ciborium::from_reader(rest).map_err(|e| Unread::Broke(ours(&e.to_string())))?;
        return answer.map_err(|r| if r.no_resolution { Unread::NoResolution } else { Unread::Refused(r.message) });
    }
    let eight = |k: usize| head.get(k..k + 8).and_then(|b| b.try_into().ok()).map(u64::from_le_bytes);
    let allowed = eight(0).zip(eight(8)).map_or(Allowance::new(0), |(bytes, seconds)| Allowance { bytes, seconds });
    Err(Unread::Broke(broke(signal(status), allowed, complaint)))
}

#[cfg(unix)]
fn signal(status: ExitStatus) -> Option<i32> {
    std::os::unix::process::ExitStatusExt::signal(&status)
}

#[cfg(not(unix))]
fn signal(_: ExitStatus) -> Option<i32> {
    None
}

fn ours(what: &str) -> String {
    format!("reading it broke off ({what}); this is our fault, please report it with the file")
}

/// The sentence for a reader that was ended. Numbers of signals: POSIX's, and 24 and 9 for processor time.
fn broke(signal: Option<i32>, allowed: Allowance, complaint: &str) -> String {
    match signal {
        Some(24) => format!(
            "reading it took more than {} s of processor time, which is what a picture of its size gets: save it simpler, flat or smaller",
            allowed.seconds
        ),
        _ if complaint.contains("memory allocation of") || complaint.contains("Cannot allocate memory") => {
            format!(
                "reading it took more than {} MB of memory, which is what a picture of its size gets: save it simpler, flat or smaller",
                allowed.bytes >> 20
            )
        }
        Some(9) => "reading it was ended by the system, as it is when memory runs out: save it simpler, flat or smaller".into(),
        Some(s) => ours(&format!("signal {s}")),
        None => ours(complaint.lines().next().unwrap_or("without a word").trim_start_matches("eddymist read: ")),
    }
}
