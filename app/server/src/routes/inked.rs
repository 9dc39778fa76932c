//! What a brush makes of given strokes: the proof sheet, existing paths, and how dense it makes a drawing.

use axum::{
    extract::{Multipart, Path, State as Extract},
    response::Response,
};
use base64::{Engine, engine::general_purpose::STANDARD};
use eddymist_calibrate::is_response;
use eddymist_formats::{
    images::{PngKind, write_png},
    inkml,
    path_ink::PathPen,
    proof_sheet::{self, Proof},
};
use eddymist_ink::{Brush, Curve, Inker, picture::Picture};
use eddymist_measure::course::Patch;
use eddymist_reader::reading;
use uuid::Uuid;

use super::bodies::{file, uploaded};
use crate::{
    plain::{Json, Sent},
    problem::{Answer, Problem},
    state::State,
    work::{
        brushes::version,
        inked::{NO_RESPONSE, border_path, strokes},
        picture_bytes,
    },
};
use eddymist_store::{
    model::{Access, DenseStrokes, Density, InkPaths, PathLine, PathsView, TipView},
    store,
};

/// Brushes on one proof sheet at most.
const MOST_PROOFS: usize = 40;
/// Resolution at which hatching is measured, px a mm, and the pixels of it at most.
const FINE: f64 = 24.0;
const MOST_PIXELS: f64 = 30e6;
/// What inking takes: coverage of so many pixels, and outlines.
const INK_BYTES: u64 = 256 << 20;

/// The proof sheet of some versions: `id@version,id@version` as pdf or svg.
pub async fn proof(Extract(state): Extract<State>, access: Access, Path((_, list, kind)): Path<(Uuid, String, String)>) -> Answer<Response> {
    let mut chosen: Vec<(Brush, String)> = Vec::new();
    for item in list.split(',').take(MOST_PROOFS + 1) {
        let asked = item.split_once('@').and_then(|(id, v)| Some((Uuid::parse_str(id).ok()?, v.parse().ok()?)));
        let (id, number) = asked.ok_or_else(|| Problem::not_found("a brush of that name (they are named id@version, parted by commas)"))?;
        let v = version(&state, &access, id, number).await?;
        let day = v.at.get(..10).unwrap_or_default().to_string();
        chosen.push((v.brush, format!("version {number}, {}, {day}", v.by)));
    }
    if chosen.is_empty() || chosen.len() > MOST_PROOFS {
        return Err(Problem::input(format!("a proof sheet shows 1 to {MOST_PROOFS} brushes")));
    }
    let name = format!("proof-sheet.{kind}");
    let (media, bytes) = state
        .heavy
        .work(INK_BYTES, move || {
            let proofs: Vec<Proof> = chosen.iter().map(|(brush, says)| Proof { brush, says: says.clone() }).collect();
            Ok(match kind.as_str() {
                "pdf" => ("application/pdf", proof_sheet::pdf(&proofs).map_err(Problem::input)?),
                "svg" => ("image/svg+xml", proof_sheet::svg(&proofs).map_err(Problem::input)?.into_bytes()),
                _ => return Err(Problem::not_found("a proof sheet of that kind (pdf and svg are known)")),
            })
        })
        .await?;
    Ok(file(name, media, bytes))
}

/// Reads the lines of an SVG; nothing is saved.
pub async fn paths(Extract(state): Extract<State>, _: Access, body: Multipart) -> Answer<Json<PathsView>> {
    let Some((_, bytes)) = uploaded(body).await?.files.into_iter().next() else {
        return Err(Problem::input("no file came with the request"));
    };
    let takes = picture_bytes(&bytes);
    let read = move || {
        let found = reading::paths(&bytes)?;
        let lines: Vec<PathLine> = found
            .strokes
            .iter()
            .zip(&found.marks)
            .map(|(s, m)| PathLine {
                points: s.samples.iter().map(|p| [p.x, p.y]).collect(),
                colour: m.colour.clone(),
                layer: m.layer.clone(),
                name: m.name.clone(),
                length_mm: s.lengths_mm().last().copied().unwrap_or(0.0),
            })
            .collect();
        let all = lines.iter().flat_map(|l| &l.points);
        let bounds = all.fold([f64::MAX, f64::MAX, f64::MIN, f64::MIN], |b, p| [b[0].min(p[0]), b[1].min(p[1]), b[2].max(p[0]), b[3].max(p[1])]);
        Ok(PathsView { lines, in_mm: found.in_mm, bounds, page_mm: found.page_mm })
    };
    state.heavy.work(takes, read).await.map(Json)
}

/// Inks the lines and gives them as svg (outlines) or inkml (strokes with their widths).
pub async fn ink_paths(Extract(state): Extract<State>, access: Access, Path((_, kind)): Path<(Uuid, String)>, Json(ask): Json<InkPaths>) -> Answer<Response> {
    if ask.lines.is_empty() {
        return Err(Problem::input("no line is chosen: choose at least one"));
    }
    if ask.brushes.is_empty() || ask.brushes.len() > MOST_PROOFS {
        return Err(Problem::input(format!("lines are inked by 1 to {MOST_PROOFS} brushes")));
    }
    if ask.page_mm.iter().any(|v| !(0.01..=1e5).contains(v)) {
        return Err(Problem::input("the page's sides lie between 0.01 and 100,000 mm"));
    }
    let mut brushes = Vec::new();
    for b in &ask.brushes {
        brushes.push(version(&state, &access, b.brush_id, b.version).await?.brush);
    }
    let used: Vec<Uuid> = ask.brushes.iter().map(|b| b.brush_id).collect();
    store::roll::used(&state.pool, access.production, &used).await?;
    let name = format!("inked-paths.{kind}");
    let (media, bytes) = state
        .heavy
        .work(INK_BYTES, move || {
            let pen = PathPen { brushes: &brushes, scale: ask.scale, weight_scales: ask.weight_scales };
            Ok(match kind.as_str() {
                "svg" => ("image/svg+xml", pen.svg(&ask.lines, ask.page_mm).map_err(Problem::input)?.into_bytes()),
                "inkml" => {
                    let (strokes, inked) = pen.inked_strokes(&ask.lines).map_err(Problem::input)?;
                    ("application/inkml+xml", inkml::write_strokes(&strokes, Some(&inked)).into_bytes())
                }
                _ => return Err(Problem::not_found("inked paths of that kind (svg and inkml are known)")),
            })
        })
        .await?;
    Ok(file(name, media, bytes))
}

/// How coarse and how dark a brush makes the strokes.
pub async fn density(Extract(state): Extract<State>, access: Access, Path((_, id)): Path<(Uuid, Uuid)>, sent: Sent<DenseStrokes>) -> Answer<Json<Density>> {
    if store::brushes::held(&state.pool, access.production, &[id]).await? == 0 {
        return Err(Problem::not_found("the brush"));
    }
    let ask = sent.read().await?;
    if !is_response(&ask.response) {
        return Err(Problem::input(NO_RESPONSE));
    }
    let strokes = strokes(ask.strokes.iter().map(Vec::as_slice))?;
    let measured = move || {
        let response = (!ask.response.is_empty()).then(|| Curve::new(&ask.response)).transpose().map_err(Problem::input)?;
        let inker = Inker::new(&ask.brush, response, None).map_err(Problem::input)?;
        let inked: Vec<_> = strokes.iter().map(|s| inker.ink(s)).collect();
        let distortion = inked.iter().filter_map(|i| i.distortion()).map(|d| d.share).reduce(f64::max);
        let inks: Vec<_> = inked.iter().map(|i| i.inked(0.002)).collect();
        let bounds = inks.iter().filter_map(|i| i.bounds()).reduce(|a, b| [a[0].min(b[0]), a[1].min(b[1]), a[2].max(b[2]), a[3].max(b[3])]);
        let Some([l, t, r, b]) = bounds else { return Ok(Density { coarseness: None, tone: 0.0, distortion }) };
        let px = FINE.min((MOST_PIXELS / ((r - l) * (b - t)).max(1e-6)).sqrt());
        let (width, height) = (((r - l) * px).ceil() as usize + 2, ((b - t) * px).ceil() as usize + 2);
        let mut coverage = vec![0.0f32; width * height];
        for i in &inks {
            let c = i.raster(px, [l - 1.0 / px, t - 1.0 / px], width, height);
            coverage.iter_mut().zip(&c.data).for_each(|(o, c)| *o = 1.0 - (1.0 - *o) * (1.0 - c));
        }
        let patch = Patch { width, height, coverage };
        Ok(Density { coarseness: patch.coarseness(&patch.lines(), 1.0 / px), tone: patch.tone(), distortion })
    };
    state.heavy.work(INK_BYTES, measured).await.map(Json)
}

/// Reads a tip from a picture or a scan: levelled, its colour gone. Nothing is kept.
pub async fn tip(Extract(state): Extract<State>, _: Access, body: Multipart) -> Answer<Json<TipView>> {
    let Some((_, bytes)) = uploaded(body).await?.files.into_iter().next() else {
        return Err(Problem::input("no file came with the request"));
    };
    let takes = picture_bytes(&bytes);
    let read = move || {
        let tip = reading::tip(&bytes)?;
        let p = Picture { width: tip.width, height: tip.height, coverage: tip.coverage, px_mm: None };
        let data: Vec<u8> = p.coverage.iter().flat_map(|c| [0, (c * 255.0).round() as u8]).collect();
        let png = write_png(p.width, p.height, PngKind::GreyAlpha, &data, None).map_err(Problem::input)?;
        let tip_png = format!("data:image/png;base64,{}", STANDARD.encode(png));
        let shape_path = border_path(&p);
        Ok(TipView { tip_png, shape_path, turned_deg: tip.turned_deg, width_px: p.width as u32, height_px: p.height as u32 })
    };
    state.heavy.work(takes, read).await.map(Json)
}
