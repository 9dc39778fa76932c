//! OpenRaster: a ZIP with its layers, their stack, and a merged picture of its own.
//!
//! How: the stack is read first; what its layers will need is known from it and from the headers of their pictures before one of them
//! is decoded. A picture that several layers name is decoded once. A layer's opacity, and that of the stacks that it lies in, goes
//! into its alpha; hidden ones are left out. A layer that is blended in a way that lightens is refused by name.

use std::{
    collections::{BTreeSet, HashMap},
    io::{Cursor, Read},
};

use crate::{
    Limits, ReadError,
    archive::{entry_bytes, opened},
    images::{self, NamedPicture, Rgba},
    limits::{quoted, told},
    xml,
};

/// Ways of blending in which a layer's ink lies where it lies by lying on top: what is darkened beneath it is no edge of its.
const LIKE_OVER: [&str; 4] = ["svg:src-over", "svg:multiply", "svg:darken", "svg:color-burn"];
/// The stack may have so many bytes.
const STACK_BYTES: u64 = 4 << 20;
/// A picture tells its sides within so many.
const HEAD_BYTES: u64 = 64 << 10;

fn bad(problem: impl std::fmt::Display) -> ReadError {
    ReadError::Ora(told(problem))
}

type Zip<'a> = zip::ZipArchive<Cursor<&'a [u8]>>;

fn stack(zip: &mut Zip, limits: &Limits) -> Result<String, ReadError> {
    let file = zip.by_name("stack.xml").map_err(|_| bad("there is no stack.xml in it"))?;
    let mut text = String::new();
    file.take(STACK_BYTES).read_to_string(&mut text).map_err(|e| bad(format!("stack.xml: {e}")))?;
    xml::checked(&text, limits.depth, limits).map_err(|e| bad(format!("stack.xml: {e}")))?;
    Ok(text)
}

/// The merged picture of an OpenRaster file as PNG, and the resolution that its stack states.
pub(crate) fn merged(bytes: &[u8], limits: &Limits) -> Result<(Vec<u8>, Option<f64>), ReadError> {
    let mut zip = opened(bytes, limits).map_err(bad)?;
    let file = zip.by_name("mergedimage.png").map_err(|_| bad("it has no mergedimage.png"))?;
    let merged = entry_bytes(file, limits).map_err(bad)?;
    let text = stack(&mut zip, limits).unwrap_or_default();
    let stated = roxmltree::Document::parse(&text).ok().and_then(|d| d.root_element().attribute("xres")?.parse::<f64>().ok());
    Ok((merged, stated.filter(|d| (100.0..=10_000.0).contains(d))))
}

/// A layer of the stack that is seen.
struct Layer {
    name: String,
    source: String,
    x: i64,
    y: i64,
    opacity: f64,
}

struct Stack {
    width: u64,
    height: u64,
    /// Top first, as the file has them.
    layers: Vec<Layer>,
}

fn read_stack(text: &str) -> Result<Stack, ReadError> {
    let document = roxmltree::Document::parse(text).map_err(|e| bad(format!("stack.xml: {e}")))?;
    let root = document.root_element();
    let side = |a: &str| root.attribute(a).and_then(|v| v.parse::<u64>().ok()).filter(|v| *v > 0);
    let (width, height) = side("w").zip(side("h")).ok_or_else(|| bad("stack.xml gives no size"))?;
    let mut layers = Vec::new();
    for node in root.descendants().filter(|n| n.has_tag_name("layer")) {
        let above = || node.ancestors().filter(|a| a.has_tag_name("stack") || *a == node);
        let Some(source) = node.attribute("src").filter(|_| above().all(|a| a.attribute("visibility") != Some("hidden"))) else { continue };
        if let Some(op) = above().filter_map(|a| a.attribute("composite-op")).find(|op| !LIKE_OVER.contains(op)) {
            let name = node.attribute("name").unwrap_or("without a name");
            return Err(bad(format!(
                "the layer “{}” is blended by {}, which is not read; set it to normal, or merge it with what lies beneath",
                quoted(name),
                quoted(op.trim_start_matches("svg:"))
            )));
        }
        let place = |a: &str| node.attribute(a).and_then(|v| v.parse::<i32>().ok()).unwrap_or(0).into();
        let share = |a: roxmltree::Node| a.attribute("opacity").and_then(|v| v.parse::<f64>().ok()).filter(|o| o.is_finite()).unwrap_or(1.0).clamp(0.0, 1.0);
        let mut names: Vec<&str> = above().filter_map(|a| a.attribute("name")).collect();
        names.reverse();
        layers.push(Layer { name: names.join("/"), source: source.into(), x: place("x"), y: place("y"), opacity: above().map(share).product() });
    }
    Ok(Stack { width, height, layers })
}

/// Pixels of all layers together, as they would be held; none where the file does not tell.
pub(crate) fn declared_pixels(bytes: &[u8], limits: &Limits) -> Option<u64> {
    let mut zip = opened(bytes, limits).ok()?;
    let stack = read_stack(&stack(&mut zip, limits).ok()?).ok()?;
    // A picture may be larger than the drawing that it lies in.
    let head = |source: &str| {
        let mut head = Vec::new();
        zip.by_name(source).ok()?.take(HEAD_BYTES).read_to_end(&mut head).ok()?;
        images::dimensions(&head, limits).ok().map(|(w, h)| u64::from(w) * u64::from(h))
    };
    let sources: BTreeSet<&str> = stack.layers.iter().map(|l| l.source.as_str()).collect();
    let largest = sources.into_iter().filter_map(head).max().unwrap_or(0);
    Some(stack.width.saturating_mul(stack.height).saturating_mul(1 + stack.layers.len() as u64).saturating_add(largest))
}

/// The layers that are seen, bottom first, each as large as the drawing.
pub(crate) fn layers(bytes: &[u8], limits: &Limits) -> Result<Vec<NamedPicture>, ReadError> {
    let mut zip = opened(bytes, limits).map_err(bad)?;
    let stack = read_stack(&stack(&mut zip, limits)?)?;
    limits.layers(stack.layers.len() as u64, stack.width, stack.height)?;
    if stack.layers.is_empty() {
        return Err(bad("no layer in it is visible"));
    }
    let (w, h) = (stack.width as usize, stack.height as usize);
    let mut pictures: HashMap<&str, Rgba> = HashMap::new();
    // A picture is let go after the last layer that names it.
    let mut left: HashMap<&str, usize> = HashMap::new();
    stack.layers.iter().for_each(|l| *left.entry(&l.source).or_default() += 1);
    let mut out = Vec::new();
    for layer in &stack.layers {
        if !pictures.contains_key(layer.source.as_str()) {
            let file = zip.by_name(&layer.source).map_err(|_| bad(format!("the layer picture “{}” is missing", quoted(&layer.source))))?;
            pictures.insert(&layer.source, images::rgba(&entry_bytes(file, limits).map_err(bad)?, limits)?);
        }
        out.push((Some(layer.name.clone()), placed(&pictures[layer.source.as_str()], layer, w, h)));
        if let Some(n) = left.get_mut(layer.source.as_str()) {
            *n -= 1;
            if *n == 0 {
                pictures.remove(layer.source.as_str());
            }
        }
    }
    out.reverse();
    Ok(out)
}

/// A layer's picture where it lies in the drawing, by rows.
fn placed(picture: &Rgba, layer: &Layer, w: usize, h: usize) -> Rgba {
    let mut data = vec![0u8; w * h * 4];
    // Columns of the picture that lie inside.
    let from = (-layer.x).clamp(0, picture.width as i64) as usize;
    let to = (w as i64 - layer.x).clamp(0, picture.width as i64) as usize;
    for y in 0..picture.height {
        let Some(row) = usize::try_from(y as i64 + layer.y).ok().filter(|t| *t < h) else { continue };
        if from >= to {
            break;
        }
        let at = 4 * (row * w + (from as i64 + layer.x) as usize);
        let source = &picture.data[4 * (y * picture.width + from)..4 * (y * picture.width + to)];
        data[at..at + source.len()].copy_from_slice(source);
    }
    if layer.opacity < 1.0 {
        data.iter_mut().skip(3).step_by(4).for_each(|a| *a = (f64::from(*a) * layer.opacity).round() as u8);
    }
    Rgba { width: w, height: h, data }
}
