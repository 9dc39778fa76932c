//! How a command fails: one line, and the exit status of the contract.

use std::{fmt::Display, path::Path};

use eddymist_formats::LIMITS;

/// 1 is an internal failure, 2 unusable arguments or input.
pub struct Fail {
    pub status: u8,
    pub message: String,
}

pub type Done = Result<u8, Fail>;

impl Fail {
    /// Unusable input: which file, what is wrong.
    pub fn input(path: &Path, why: impl Display) -> Self {
        Self { status: 2, message: format!("{}: {why}", path.display()) }
    }

    /// Unusable arguments.
    pub fn usage(why: impl Display) -> Self {
        Self { status: 2, message: why.to_string() }
    }

    /// Our own fault, or the machine's.
    pub fn internal(why: impl Display) -> Self {
        Self { status: 1, message: why.to_string() }
    }
}

/// The bytes of a file.
pub fn read(path: &Path) -> Result<Vec<u8>, Fail> {
    let read = std::fs::metadata(path).and_then(|m| Ok((m.len(), if m.len() > LIMITS.bytes { Vec::new() } else { std::fs::read(path)? })));
    let (length, bytes) = read.map_err(|e| Fail::input(path, e))?;
    LIMITS.file(length).map_err(|e| Fail::input(path, e))?;
    Ok(bytes)
}

/// The text of a file.
pub fn read_text(path: &Path) -> Result<String, Fail> {
    String::from_utf8(read(path)?).map_err(|_| Fail::input(path, "this is no text file (UTF-8)"))
}

/// Writes a file.
pub fn write(path: &Path, bytes: &[u8]) -> Result<(), Fail> {
    std::fs::write(path, bytes).map_err(|e| Fail::input(path, e))
}

/// Prints a document to standard output.
pub fn print_json(document: &impl serde::Serialize) -> Result<(), Fail> {
    use std::io::Write;
    let text = serde_json::to_string(document).map_err(Fail::internal)?;
    writeln!(std::io::stdout(), "{text}").map_err(Fail::internal)
}
