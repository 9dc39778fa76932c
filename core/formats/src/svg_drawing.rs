//! A vector drawing drawn large, whole or by its named groups, whatever its page's size and its text's encoding.
//!
//! How: usvg resolves the file, resvg draws it. How large: as its page says, and pages of less than a megapixel larger, so that a small drawing's
//! lines are several px wide. Limits: what it refers to outside of itself is not read; pictures inside it are PNG and JPEG.

use std::{
    borrow::Cow,
    ops::Range,
    sync::{Arc, Mutex},
};

use resvg::usvg::{
    self,
    roxmltree::{Document, Node},
};

use crate::{
    Limits, ReadError,
    images::{self, NamedPicture, Rgba},
    limits::told,
    svg_bands::{self, Asks},
    xml,
};

/// A page is drawn at this many px for one of its own, a small one at more, so that a line is several px wide; but no page to more px than
/// this, unless it has as many of its own.
const OVERSAMPLED: f64 = 4.0;
const SMALL_OVERSAMPLED: f64 = 16.0;
const SMALL_PX: f32 = 256.0;
const OVERSAMPLED_PX: f64 = 4e6;
/// A page of so many times as many px as a large drawing has is in units finer than a pixel; it is drawn with as many.
const FINE_UNITS_PX: f64 = 16e6;
const FINE_FROM: f64 = 4.0;
const MOST_UNITS: f64 = 4e6;

fn bad(e: impl std::fmt::Display) -> ReadError {
    ReadError::Svg(told(e))
}

/// A file's tree, with nothing outside the file looked at; refused where a picture inside it is too large.
pub(crate) fn tree(document: &Document, limits: &Limits) -> Result<usvg::Tree, ReadError> {
    let pictures = Arc::new(Mutex::new(Ok(0u64)));
    let (seen, within) = (Arc::clone(&pictures), limits.clone());
    let resolve = move |mime: &str, data: Arc<Vec<u8>>, options: &usvg::Options| {
        let mut seen = seen.lock().ok()?;
        let so_far = *seen.as_ref().ok()?;
        match embedded(&data, so_far, &within) {
            Ok(pixels) => {
                *seen = Ok(so_far + pixels);
                drop(seen);
                usvg::ImageHrefResolver::default_data_resolver()(mime, data, options)
            }
            Err(e) => {
                *seen = Err(e);
                None
            }
        }
    };
    let resolver = usvg::ImageHrefResolver { resolve_string: Box::new(|_, _| None), resolve_data: Box::new(resolve) };
    let tree = usvg::Tree::from_xmltree(document, &usvg::Options { image_href_resolver: resolver, ..Default::default() }).map_err(bad)?;
    if let Ok(Err(e)) = pictures.lock().as_deref() {
        return Err(e.clone());
    }
    Ok(tree)
}

/// Pixels of a picture inside a file; refused where they are, with those before it, too many.
fn embedded(data: &[u8], so_far: u64, limits: &Limits) -> Result<u64, ReadError> {
    if let Some(text) = std::str::from_utf8(data).ok().filter(|t| t.contains("<svg")) {
        return xml::svg(text, limits).map(|_| 0);
    }
    match image::guess_format(data) {
        Ok(image::ImageFormat::Png | image::ImageFormat::Jpeg) => {
            let (w, h) = images::dimensions(data, limits)?;
            let all = so_far + u64::from(w) * u64::from(h);
            if all > limits.pixels {
                return Err(bad(format!("the pictures inside it have more than {} megapixels together", limits.pixels / 1_000_000)));
            }
            Ok(u64::from(w) * u64::from(h))
        }
        _ => Err(bad("a picture inside it is no PNG or JPEG; take it out, or put it in as one of them")),
    }
}

/// A part of a drawing: its name, and what of the text is not drawn for it.
struct DrawnPart {
    name: Option<String>,
    cut: Vec<Range<usize>>,
}

/// How a drawing would be drawn.
struct Plan {
    parts: Vec<DrawnPart>,
    oversampled: f64,
    width: f64,
    height: f64,
    held: u64,
    asks: Asks,
}

fn plan(document: &Document, by_group: bool, limits: &Limits) -> Result<(Plan, usvg::Tree), ReadError> {
    let tree = tree(document, limits)?;
    let (w, h) = (f64::from(tree.size().width()), f64::from(tree.size().height()));
    // What is further across than any page in the finest of units is no drawing.
    if w.max(h) > MOST_UNITS {
        return Err(ReadError::TooLarge { width: w.ceil() as u64, height: h.ceil() as u64, most: limits.pixels });
    }
    let parts = if by_group { groups(document) } else { vec![DrawnPart { name: None, cut: Vec::new() }] };
    let asks = Asks::new(tree.root());
    let held = parts.len() as u64 + asks.apart;
    // As large as is good, and as what is held allows. A page in units far finer than a pixel is drawn smaller than it says.
    let natural = (FINE_UNITS_PX / (w * h)).sqrt().min(1.0);
    let natural = if w * h > FINE_FROM * FINE_UNITS_PX { natural } else { 1.0 };
    let most = (limits.layer_pixels as f64 / (held as f64 * w * h)).min(limits.pixels as f64 / (w * h)).sqrt();
    let good = if tree.size().width() < SMALL_PX { SMALL_OVERSAMPLED } else { OVERSAMPLED };
    let best = (OVERSAMPLED_PX / (w * h)).sqrt().floor().clamp(1.0, good);
    let oversampled = if natural < 1.0 { most.min(natural) } else { best.min(most.floor()) };
    if oversampled < natural {
        let (w, h) = (w.ceil() as u64, h.ceil() as u64);
        limits.picture(w, h)?;
        return Err(ReadError::TooMuch(format!(
            "SVG: {w}×{h} px with {} named groups, and {} more that are drawn apart at once (opacity, masks, filters): up to {} megapixels are held together",
            parts.len(),
            held - parts.len() as u64,
            limits.layer_pixels / 1_000_000
        )));
    }
    Ok((Plan { parts, oversampled, width: w, height: h, held, asks }, tree))
}

/// A file's text: UTF-8, UTF-16 by its mark, or Latin-1 where it says so.
pub(crate) fn text(bytes: &[u8]) -> Result<Cow<'_, str>, ReadError> {
    let wide = |from: usize, unit: fn([u8; 2]) -> u16| {
        let units: Vec<u16> = bytes[from..].as_chunks::<2>().0.iter().map(|u| unit(*u)).collect();
        String::from_utf16(&units).map(Cow::Owned).map_err(|_| bad("it is not UTF-16 text, though it says so"))
    };
    match bytes {
        [0xFF, 0xFE, ..] => return wide(2, u16::from_le_bytes),
        [0xFE, 0xFF, ..] => return wide(2, u16::from_be_bytes),
        [b'<', 0, ..] => return wide(0, u16::from_le_bytes),
        [0, b'<', ..] => return wide(0, u16::from_be_bytes),
        _ => {}
    }
    let bytes = bytes.strip_prefix(b"\xEF\xBB\xBF").unwrap_or(bytes);
    match std::str::from_utf8(bytes) {
        Ok(text) => Ok(Cow::Borrowed(text)),
        Err(e) => {
            let declared = String::from_utf8_lossy(&bytes[..bytes.len().min(200)]).to_lowercase();
            let latin = ["iso-8859-1", "latin1", "windows-1252", "us-ascii"].iter().any(|l| declared.contains(l));
            if latin { Ok(Cow::Owned(bytes.iter().map(|b| char::from(*b)).collect())) } else { Err(bad(format!("it is not UTF-8 text: {e}"))) }
        }
    }
}

/// Pixels that would be held at once; none where the file does not tell.
pub(crate) fn declared_pixels(bytes: &[u8], by_group: bool, limits: &Limits) -> Option<u64> {
    let text = text(bytes).ok()?;
    xml::checked(&text, limits.depth, limits).ok()?;
    let root = usvg::roxmltree::Document::parse_with_options(&text, xml::options()).ok()?;
    let (plan, _) = plan(&root, by_group, limits).ok()?;
    let [w, h] = sides(&plan);
    // Drawing takes time by what is drawn, too: a good deal less than measuring it would.
    Some((w * h) as u64 * (1 + plan.held) + plan.parts.len() as u64 * svg_bands::drawn_pixels(w, h, plan.oversampled, plan.asks) / 4)
}

/// The sides of a plan's pictures, px.
fn sides(plan: &Plan) -> [usize; 2] {
    [plan.width, plan.height].map(|s| (s * plan.oversampled).round() as usize)
}

/// The drawing's layers, bottom first, and how many of their px are one of the drawing.
pub(crate) fn layers(bytes: &[u8], by_group: bool, limits: &Limits) -> Result<(Vec<NamedPicture>, f64), ReadError> {
    let text = text(bytes)?;
    let document = xml::svg(&text, limits)?;
    let (plan, whole) = plan(&document, by_group, limits)?;
    let mut layers = Vec::new();
    let sides = sides(&plan);
    for part in plan.parts {
        let picture = if part.cut.is_empty() {
            draw(&whole, sides, plan.oversampled)?
        } else {
            let left = without(&text, &part.cut);
            draw(&tree(&xml::svg(&left, limits)?, limits)?, sides, plan.oversampled)?
        };
        layers.push((part.name, picture));
    }
    Ok((layers, plan.oversampled))
}

/// The whole drawing at so many px for one of its own.
pub(crate) fn drawn(text: &str, oversampled: f64, limits: &Limits) -> Result<Rgba, ReadError> {
    let tree = tree(&xml::svg(text, limits)?, limits)?;
    draw(&tree, [tree.size().width(), tree.size().height()].map(|s| (f64::from(s) * oversampled).round() as usize), oversampled)
}

/// A tree on a page of the drawing's sides: a page that is as large as what is on it would be another for each part.
fn draw(tree: &usvg::Tree, [width, height]: [usize; 2], oversampled: f64) -> Result<Rgba, ReadError> {
    svg_bands::draw(tree, width, height, oversampled).ok_or_else(|| bad("its size is 0"))
}

/// The text with some of its elements not drawn, but still there for whatever refers to them.
fn without(text: &str, hidden: &[Range<usize>]) -> String {
    let (mut out, mut from) = (String::with_capacity(text.len() + 40 * hidden.len()), 0);
    for r in hidden {
        out.push_str(&text[from..r.start]);
        out.push_str("<g display=\"none\">");
        out.push_str(&text[r.clone()]);
        out.push_str("</g>");
        from = r.end;
    }
    out + &text[from..]
}

/// The drawing once for each of its named groups that holds no other named group, with all else hidden, and once for what lies beside them in
/// each group that does. A group's name is its label, with or without a namespace, else its id; before it stand those of the groups that
/// it lies in.
fn groups(document: &Document) -> Vec<DrawnPart> {
    let mut out = Vec::new();
    // Groups to be looked into, with their names and what is hidden beside them; the last is looked into first.
    let mut stack = vec![(document.root_element(), String::new(), Vec::new())];
    while let Some((inside, path, hidden)) = stack.pop() {
        let children: Vec<Node> = inside.children().filter(is_drawn).collect();
        let named: Vec<&Node> = children.iter().filter(|n| name(n).is_some() || children.len() == 1 && n.tag_name().name() == "g").collect();
        if named.len() < children.len() || named.is_empty() {
            let mut cut: Vec<Range<usize>> = hidden.clone();
            cut.extend(named.iter().map(|n| n.range()));
            cut.sort_by_key(|r| r.start);
            out.push(DrawnPart { name: (!path.is_empty()).then(|| path.clone()), cut });
        }
        for group in named.iter().rev() {
            let mut cut: Vec<Range<usize>> = hidden.clone();
            cut.extend(children.iter().filter(|n| n != group).map(|n| n.range()));
            let path = match name(group) {
                Some(n) if path.is_empty() => n.to_string(),
                Some(n) => format!("{path}/{n}"),
                None => path.clone(),
            };
            stack.push((**group, path, cut));
        }
    }
    out
}

fn is_drawn(n: &Node) -> bool {
    n.is_element()
        && !["defs", "style", "title", "desc", "metadata", "symbol", "clipPath", "mask", "linearGradient", "radialGradient", "pattern", "filter"]
            .contains(&n.tag_name().name())
}

/// A group's name.
fn name<'a>(n: &Node<'a, '_>) -> Option<&'a str> {
    (n.tag_name().name() == "g").then_some(())?;
    let label = n.attributes().find(|a| a.name() == "label").map(|a| a.value());
    label.or_else(|| n.attribute("id")).filter(|l| !l.trim().is_empty())
}
