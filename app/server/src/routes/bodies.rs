//! Bodies: files that go out, and multipart that comes in.

use axum::{
    extract::Multipart,
    http::header,
    response::{IntoResponse, Response},
};

use crate::problem::Problem;

pub fn file(name: String, kind: &'static str, bytes: Vec<u8>) -> Response {
    ([(header::CONTENT_TYPE, kind.to_string()), (header::CONTENT_DISPOSITION, format!("attachment; filename=\"{name}\""))], bytes).into_response()
}

/// The files of a multipart body with the text fields beside them.
pub struct Uploaded {
    pub files: Vec<(String, Vec<u8>)>,
    pub dpi: Option<f64>,
}

/// Reads a multipart body.
pub async fn uploaded(mut body: Multipart) -> Result<Uploaded, Problem> {
    let broken = |e: axum::extract::multipart::MultipartError| {
        Problem::new(e.status(), format!("the upload broke off or is too large ({}); nothing was kept", e.body_text()))
    };
    let mut out = Uploaded { files: Vec::new(), dpi: None };
    while let Some(field) = body.next_field().await.map_err(broken)? {
        if field.name() == Some("dpi") {
            let text = field.text().await.map_err(broken)?;
            if !text.trim().is_empty() {
                let dpi = text.trim().parse::<f64>().ok().filter(|d| (50.0..=10_000.0).contains(d));
                out.dpi = Some(dpi.ok_or_else(|| Problem::input("the resolution must be a number of dpi between 50 and 10000"))?);
            }
            continue;
        }
        let name = field.file_name().unwrap_or("unnamed").to_string();
        out.files.push((name, field.bytes().await.map_err(broken)?.to_vec()));
    }
    if out.files.is_empty() { Err(Problem::input("no file came with the request")) } else { Ok(out) }
}
