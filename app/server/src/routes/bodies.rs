//! Bodies: files that go out, and multipart that comes in.

use std::io::Write;

use axum::{
    extract::Multipart,
    http::{StatusCode, header},
    response::{IntoResponse, Response},
};

use eddymist_store::model::{Access, Created};
use serde::Serialize;
use uuid::Uuid;

use crate::{
    plain::Json,
    problem::Problem,
    work::intake::{Came, called},
};

/// A file to be kept under a name: plainly for old readers, and as it is (RFC 6266, RFC 8187).
pub fn file(name: String, kind: &'static str, bytes: Vec<u8>) -> Response {
    let plain: String = name.chars().map(|c| if c.is_ascii_alphanumeric() || ".-_ ".contains(c) { c } else { '-' }).collect();
    let whole = percent_encoding::utf8_percent_encode(&name, percent_encoding::NON_ALPHANUMERIC);
    let kept = format!("attachment; filename=\"{plain}\"; filename*=UTF-8''{whole}");
    ([(header::CONTENT_TYPE, kind.to_string()), (header::CONTENT_DISPOSITION, kept)], bytes).into_response()
}

/// What was made, and where it is.
pub struct Made<T = Created> {
    pub made: T,
    pub at: String,
}

impl Made {
    /// A thing of a production, of this kind.
    pub fn new(access: &Access, kind: &str, id: Uuid) -> Self {
        Self { made: Created { id }, at: format!("/api/v1/productions/{}/{kind}/{id}", access.production) }
    }
}

impl<T: Serialize> IntoResponse for Made<T> {
    fn into_response(self) -> Response {
        (StatusCode::CREATED, [(header::LOCATION, self.at)], Json(self.made)).into_response()
    }
}

/// How a simulated sheet, or lines, come back.
#[derive(serde::Deserialize, schemars::JsonSchema)]
pub struct Simulated {
    /// Photographed by hand, and not scanned.
    #[serde(default)]
    pub photo: bool,
}

/// The files of a multipart body with the text fields beside them.
pub struct Uploaded {
    pub files: Vec<(String, Vec<u8>)>,
    pub dpi: Option<f64>,
    /// Said to be a photo.
    pub photo: bool,
    pub note: String,
}

/// Files of one request at most.
const MOST_FILES: usize = 2000;
/// A file up to this is held in memory until it is read, a larger one on disk.
const HELD_BYTES: usize = 32 << 10;

fn too_many() -> Problem {
    Problem::input(format!("up to {MOST_FILES} files are taken at once: send the rest after them, or as a ZIP"))
}

fn broken(e: axum::extract::multipart::MultipartError) -> Problem {
    Problem::new(e.status(), format!("the upload broke off or is too large ({}); nothing was saved", e.body_text()))
}

/// The files of a multipart body, laid aside as they come: many and large ones are never held in memory.
pub async fn laid_aside(mut body: Multipart) -> Result<Vec<Came>, Problem> {
    let full = |e: std::io::Error| Problem::new(StatusCode::INSUFFICIENT_STORAGE, format!("the upload could not be stored ({e}); nothing was saved"));
    let mut out: Vec<Came> = Vec::new();
    while let Some(mut field) = body.next_field().await.map_err(broken)? {
        let Some(name) = field.file_name().map(called) else { continue };
        if out.len() == MOST_FILES {
            return Err(too_many());
        }
        let mut file = tempfile::SpooledTempFile::new(HELD_BYTES);
        while let Some(part) = field.chunk().await.map_err(broken)? {
            file.write_all(&part).map_err(full)?;
        }
        out.push((name, Box::new(file)));
    }
    if out.is_empty() { Err(Problem::input("no file came with the request")) } else { Ok(out) }
}

/// Reads a multipart body.
pub async fn uploaded(mut body: Multipart) -> Result<Uploaded, Problem> {
    let mut out = Uploaded { files: Vec::new(), dpi: None, photo: false, note: String::new() };
    while let Some(field) = body.next_field().await.map_err(broken)? {
        if field.name() == Some("dpi") {
            let text = field.text().await.map_err(broken)?;
            if !text.trim().is_empty() {
                let dpi = text.trim().parse::<f64>().ok().filter(|d| (50.0..=10_000.0).contains(d));
                out.dpi = Some(dpi.ok_or_else(|| Problem::input("the resolution must be a number of dpi between 50 and 10000"))?);
            }
            continue;
        }
        if field.name() == Some("photo") {
            out.photo = field.text().await.map_err(broken)?.trim() == "true";
            continue;
        }
        if field.name() == Some("note") {
            out.note = field.text().await.map_err(broken)?;
            continue;
        }
        let name = called(field.file_name().unwrap_or_default());
        if out.files.len() == MOST_FILES {
            return Err(too_many());
        }
        out.files.push((name, field.bytes().await.map_err(broken)?.into()));
    }
    if out.files.is_empty() { Err(Problem::input("no file came with the request")) } else { Ok(out) }
}
