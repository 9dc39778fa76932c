//! InkML: strokes and warm-ups, in and out.
//!
//! How: contexts, declared channels with their order, units and ranges, and the explicit, first- and second-difference prefixes. Limits: contracts.md
//! lists what is refused. Source: W3C Recommendation Ink Markup Language, 20 September 2011.

use std::{collections::HashMap, rc::Rc, sync::Arc};

use eddymist_calibrate::{Exercise, Group, WarmUp, warmup::Pace};
use eddymist_ink::Stroke;
use roxmltree::{Document, Node};

use crate::{
    Limits, ReadError,
    limits::{quoted, told},
    xml,
};

mod decode;
mod format;
mod node;
mod write;

use decode::decode;
use format::Format;
use node::{LocalName, bad, whole_text};
pub use write::{write_strokes, write_warmup};

/// A trace group with its annotations; traces outside any group stand in one without.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct InkGroup {
    pub annotations: Arc<HashMap<String, String>>,
    pub strokes: Vec<Stroke>,
}

/// A file of strokes.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct InkFile {
    pub annotations: HashMap<String, String>,
    pub groups: Vec<InkGroup>,
}

/// Strokes that lie on a page, with what else of the file says something of them.
#[derive(Debug, Clone, PartialEq)]
pub struct PagedStrokes<'a> {
    pub strokes: Vec<&'a Stroke>,
    pub efforts: Vec<(f64, &'a Stroke)>,
    pub scale_from_card: bool,
}

impl InkFile {
    /// All strokes in the order of the file.
    pub fn strokes(&self) -> impl Iterator<Item = &Stroke> {
        self.groups.iter().flat_map(|g| &g.strokes)
    }

    /// The strokes of an exercise that lie on a page, and those at named efforts; where no group is of that exercise, the strokes of no
    /// exercise, else all.
    pub fn paired(&self, exercise: Exercise) -> PagedStrokes<'_> {
        let of = |name: Option<&str>| -> Vec<&Stroke> {
            self.groups.iter().filter(|g| g.annotations.get("exercise").map(String::as_str) == name).flat_map(|g| &g.strokes).collect()
        };
        let strokes = [of(Some(exercise.name())), of(None)].into_iter().find(|s| !s.is_empty()).unwrap_or_else(|| self.strokes().collect());
        let effort = |g: &InkGroup| g.annotations.get("effort")?.parse::<f64>().ok().filter(|e| (0.0..=1.0).contains(e));
        let named = self.groups.iter().filter(|g| g.annotations.get("exercise").is_some_and(|e| e == Exercise::Effort.name()));
        let efforts = named.filter_map(|g| Some((effort(g)?, g))).flat_map(|(e, g)| g.strokes.iter().map(move |s| (e, s))).collect();
        PagedStrokes { strokes, efforts, scale_from_card: self.annotations.get("scale").is_some_and(|s| s == "card") }
    }

    /// The file as a warm-up; groups without a known exercise are refused.
    pub fn warmup(self) -> Result<WarmUp, ReadError> {
        let scale_from_card = match self.annotations.get("scale").map(String::as_str) {
            Some("card") => true,
            Some("assumed") | None => false,
            Some(other) => {
                return Err(bad(format!("the annotation scale is “{}”; card or assumed are known", quoted(other))));
            }
        };
        let slips_counted = match self.annotations.get("slips").map(String::as_str) {
            Some("counted") => true,
            Some("left-out") | None => false,
            Some(other) => {
                return Err(bad(format!("the annotation slips is “{}”; counted or left-out are known", quoted(other))));
            }
        };
        let mut groups = Vec::new();
        for g in self.groups.into_iter().filter(|g| !g.strokes.is_empty()) {
            let Some(name) = g.annotations.get("exercise") else {
                return Err(bad("these strokes are no warm-up: a trace group without an “exercise” annotation".into()));
            };
            let exercise = Exercise::from_name(name)
                .ok_or_else(|| bad(format!("the exercise “{}” is not known; {} are", quoted(name), Exercise::ALL.map(|e| e.1).join(", "))))?;
            let effort = match g.annotations.get("effort") {
                Some(e) => Some(
                    e.parse::<f64>()
                        .ok()
                        .filter(|e| (0.0..=1.0).contains(e))
                        .ok_or_else(|| bad(format!("the effort “{}” is no number from 0 to 1", quoted(e))))?,
                ),
                None if exercise == Exercise::Effort => {
                    return Err(bad("an effort exercise without its “effort” annotation".into()));
                }
                None => None,
            };
            let pace = match g.annotations.get("pace") {
                Some(p) => Some(Pace::from_name(p).ok_or_else(|| bad(format!("the pace “{}” is not known; slow, normal and fast are", quoted(p))))?),
                None => None,
            };
            groups.push(Group { exercise, effort, pace, strokes: g.strokes });
        }
        if groups.is_empty() {
            return Err(bad("there are no strokes in it".into()));
        }
        Ok(WarmUp { groups, scale_from_card, slips_counted })
    }
}

/// Reads a file.
pub fn read(text: &str, limits: &Limits) -> Result<InkFile, ReadError> {
    if text.trim().is_empty() {
        return Err(ReadError::Empty);
    }
    xml::checked(text, limits.ink_depth, limits).map_err(bad)?;
    let document = Document::parse(text).map_err(|e| bad(format!("not well-formed XML: {}", told(e))))?;
    let root = document.root_element();
    if root.tag_name().name() != "ink" {
        return Err(bad(format!("the root is <{}>, and <ink> is needed", quoted(root.tag_name().name()))));
    }
    let mut reader =
        Reader { limits, formats: HashMap::new(), current: Rc::new(Format::default()), traces: HashMap::new(), groups: Vec::new(), seen: 0, samples: 0 };
    reader.define(root)?;
    reader.children(root, &Arc::default(), 1.0)?;
    Ok(InkFile { annotations: annotations(root), groups: reader.groups })
}

fn annotations(node: Node) -> HashMap<String, String> {
    node.children()
        .filter(|n| n.has_tag_name_local("annotation"))
        .filter_map(|n| Some((n.attribute("type").filter(|t| KNOWN.contains(t))?.to_string(), whole_text(n).trim().chars().take(NOTE_CHARS).collect())))
        .collect()
}

/// Annotations that are looked at; groups in groups hand them on, so that others would multiply.
const KNOWN: [&str; 6] = ["exercise", "effort", "pace", "zoom", "scale", "slips"];
const NOTE_CHARS: usize = 200;

struct Reader<'a> {
    limits: &'a Limits,
    formats: HashMap<String, Rc<Format>>,
    current: Rc<Format>,
    /// Where the trace of an id went: group and stroke.
    traces: HashMap<String, (usize, usize)>,
    groups: Vec<InkGroup>,
    /// Traces and samples so far.
    seen: usize,
    samples: usize,
}

impl Reader<'_> {
    /// Contexts, sources and formats anywhere in the file, by id; those at the top level become current.
    fn define(&mut self, root: Node) -> Result<(), ReadError> {
        for node in root.descendants().filter(|n| n.has_tag_name_local("traceFormat")) {
            let f = Rc::new(Format::read(node)?);
            // The format is known by its own id and those of what holds it.
            for holder in node.ancestors().take_while(|a| *a != root) {
                if let Some(id) = holder.own_id() {
                    self.formats.insert(id.to_string(), f.clone());
                }
            }
        }
        for context in root.descendants().filter(|n| n.has_tag_name_local("context")) {
            let reference = ["inkSourceRef", "traceFormatRef", "contextRef"].iter().find_map(|a| context.attribute(*a));
            if let (Some(id), Some(r)) = (context.own_id(), reference)
                && let Some(f) = self.formats.get(r.trim_start_matches('#')).cloned()
            {
                self.formats.insert(id.to_string(), f);
            }
        }
        Ok(())
    }

    /// What lies in a node, under the annotations that hold there.
    fn children(&mut self, node: Node, notes: &Arc<HashMap<String, String>>, zoom: f64) -> Result<(), ReadError> {
        // What follows an inner group stands after it, in a group of its own.
        let mut group = None;
        for child in node.children().filter(Node::is_element) {
            match child.tag_name().name() {
                "context" => {
                    if let Some(f) = child.descendants().find(|n| n.has_tag_name_local("traceFormat")) {
                        self.current = Rc::new(Format::read(f)?);
                    } else if let Some(f) = child.own_id().and_then(|id| self.formats.get(id)) {
                        self.current = f.clone();
                    }
                }
                "traceFormat" | "inkSource" => {
                    if let Some(f) = child.descendants().find(|n| n.has_tag_name_local("traceFormat")) {
                        self.current = Rc::new(Format::read(f)?);
                    }
                }
                "traceGroup" => {
                    let own = annotations(child);
                    let inside = if own.is_empty() { notes.clone() } else { Arc::new(notes.iter().map(|(k, v)| (k.clone(), v.clone())).chain(own).collect()) };
                    let zoom = match inside.get("zoom") {
                        Some(z) => z
                            .parse::<f64>()
                            .ok()
                            .filter(|z| *z > 0.0 && z.is_finite())
                            .ok_or_else(|| bad(format!("the zoom “{}” is no number over 0", quoted(z))))?,
                        None => zoom,
                    };
                    let held = self.current.clone();
                    if let Some(r) = child.attribute("contextRef") {
                        self.current = self.format(r)?;
                    }
                    self.children(child, &inside, zoom)?;
                    self.current = held;
                    group = None;
                }
                "trace" => self.trace(child, &mut group, notes, zoom)?,
                _ => {}
            }
        }
        Ok(())
    }

    fn format(&self, reference: &str) -> Result<Rc<Format>, ReadError> {
        self.formats
            .get(reference.trim_start_matches('#'))
            .cloned()
            .ok_or_else(|| bad(format!("the context “{}” is not defined in the file", quoted(reference))))
    }

    fn trace(&mut self, node: Node, group: &mut Option<usize>, notes: &Arc<HashMap<String, String>>, zoom: f64) -> Result<(), ReadError> {
        if node.attribute("type") == Some("penUp") {
            return Ok(());
        }
        let format = match node.attribute("contextRef") {
            Some(r) => self.format(r)?,
            None => self.current.clone(),
        };
        self.seen += 1;
        if self.seen > self.limits.strokes {
            return Err(bad(format!("a file has up to {} traces", self.limits.strokes)));
        }
        let samples = decode(&whole_text(node), &format, self.seen, self.limits)?;
        self.samples += samples.len();
        if self.samples > self.limits.samples {
            return Err(bad(format!("a file has up to {} samples", self.limits.samples)));
        }
        let prior = node.attribute("priorRef").and_then(|r| self.traces.get(r.trim_start_matches('#')).copied());
        let place = match prior.filter(|_| matches!(node.attribute("continuation"), Some("middle" | "end"))) {
            Some((g, s)) => {
                let whole = &mut self.groups[g].strokes[s].samples;
                whole.extend(samples);
                if whole.len() > self.limits.stroke_samples {
                    return Err(bad(format!("trace {}: a stroke has up to {} samples with what continues it", self.seen, self.limits.stroke_samples)));
                }
                (g, s)
            }
            None if samples.is_empty() => return Ok(()),
            None => {
                let group = *group.get_or_insert_with(|| {
                    self.groups.push(InkGroup { annotations: notes.clone(), strokes: Vec::new() });
                    self.groups.len() - 1
                });
                self.groups[group].strokes.push(Stroke { samples, zoom, timed: format.timed() });
                (group, self.groups[group].strokes.len() - 1)
            }
        };
        if let Some(id) = node.own_id() {
            self.traces.insert(id.to_string(), place);
        }
        Ok(())
    }
}
