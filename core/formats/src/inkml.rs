//! InkML: strokes and warm-ups, in and out.
//!
//! How: contexts, declared channels with their order, units and ranges, and the explicit, first- and second-difference prefixes. Limits: contracts.md
//! lists what is refused. Source: W3C Recommendation Ink Markup Language, 20 September 2011.

use std::collections::HashMap;

use eddymist_calibrate::{Exercise, Group, WarmUp, warmup::Pace};
use eddymist_ink::{InkedSample, Sample, Stroke};
use roxmltree::{Document, Node};

use crate::ReadError;

/// A trace group with its annotations; traces outside any group stand in one without.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct InkGroup {
    pub annotations: HashMap<String, String>,
    pub strokes: Vec<Stroke>,
}

/// A file of strokes.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct InkFile {
    pub annotations: HashMap<String, String>,
    pub groups: Vec<InkGroup>,
}

impl InkFile {
    /// All strokes in the order of the file.
    pub fn strokes(&self) -> impl Iterator<Item = &Stroke> {
        self.groups.iter().flat_map(|g| &g.strokes)
    }

    /// The file as a warm-up; groups without a known exercise are refused.
    pub fn warmup(self) -> Result<WarmUp, ReadError> {
        let scale_from_card = match self.annotations.get("scale").map(String::as_str) {
            Some("card") => true,
            Some("assumed") | None => false,
            Some(other) => {
                return Err(bad(format!("the annotation scale is “{other}”; card or assumed are known")));
            }
        };
        let mut groups = Vec::new();
        for g in self.groups.into_iter().filter(|g| !g.strokes.is_empty()) {
            let Some(name) = g.annotations.get("exercise") else {
                return Err(bad("these strokes are no warm-up: a trace group without an “exercise” annotation".into()));
            };
            let exercise =
                Exercise::from_name(name).ok_or_else(|| bad(format!("the exercise “{name}” is not known; {} are", Exercise::ALL.map(|e| e.1).join(", "))))?;
            let effort = match g.annotations.get("effort") {
                Some(e) => {
                    Some(e.parse::<f64>().ok().filter(|e| (0.0..=1.0).contains(e)).ok_or_else(|| bad(format!("the effort “{e}” is no number from 0 to 1")))?)
                }
                None if exercise == Exercise::Effort => {
                    return Err(bad("an effort exercise without its “effort” annotation".into()));
                }
                None => None,
            };
            let pace = match g.annotations.get("pace") {
                Some(p) => Some(Pace::from_name(p).ok_or_else(|| bad(format!("the pace “{p}” is not known; slow, normal and fast are")))?),
                None => None,
            };
            groups.push(Group { exercise, effort, pace, strokes: g.strokes });
        }
        if groups.is_empty() {
            return Err(bad("there are no strokes in it".into()));
        }
        Ok(WarmUp { groups, scale_from_card })
    }
}

fn bad(problem: String) -> ReadError {
    ReadError::InkMl(problem)
}

#[derive(Clone, Copy, PartialEq)]
enum Name {
    X,
    Y,
    F,
    T,
    Azimuth,
    Elevation,
    Other,
}

#[derive(Clone)]
struct Channel {
    name: Name,
    /// Factor to mm, ms or degrees.
    unit: f64,
    range: Option<(f64, f64)>,
}

type Format = Vec<Channel>;

/// Reads a file.
pub fn read(text: &str) -> Result<InkFile, ReadError> {
    if text.trim().is_empty() {
        return Err(ReadError::Empty);
    }
    let document = Document::parse(text).map_err(|e| bad(format!("not well-formed XML: {e}")))?;
    let root = document.root_element();
    if root.tag_name().name() != "ink" {
        return Err(bad(format!("the root is <{}>, and <ink> is needed", root.tag_name().name())));
    }
    let mut reader = Reader { formats: HashMap::new(), current: default_format(), traces: HashMap::new(), groups: vec![InkGroup::default()] };
    reader.define(root)?;
    reader.children(root, 0, 1.0)?;
    let groups = reader.groups.into_iter().filter(|g| !g.strokes.is_empty()).collect();
    Ok(InkFile { annotations: annotations(root), groups })
}

fn default_format() -> Format {
    [Name::X, Name::Y].map(|name| Channel { name, unit: 1.0, range: None }).to_vec()
}

fn annotations(node: Node) -> HashMap<String, String> {
    node.children()
        .filter(|n| n.has_tag_name_local("annotation"))
        .filter_map(|n| Some((n.attribute("type")?.to_string(), n.text().unwrap_or("").trim().to_string())))
        .collect()
}

trait LocalName {
    fn has_tag_name_local(&self, name: &str) -> bool;
    fn own_id(&self) -> Option<&str>;
}

impl LocalName for Node<'_, '_> {
    fn has_tag_name_local(&self, name: &str) -> bool {
        self.is_element() && self.tag_name().name() == name
    }
    fn own_id(&self) -> Option<&str> {
        self.attribute(("http://www.w3.org/XML/1998/namespace", "id")).or_else(|| self.attribute("id"))
    }
}

struct Reader {
    formats: HashMap<String, Format>,
    current: Format,
    /// Where the trace of an id went: group and stroke.
    traces: HashMap<String, (usize, usize)>,
    groups: Vec<InkGroup>,
}

impl Reader {
    /// Contexts, sources and formats anywhere in the file, by id; those at the top level become current.
    fn define(&mut self, root: Node) -> Result<(), ReadError> {
        for node in root.descendants().filter(|n| n.has_tag_name_local("traceFormat")) {
            let f = format_of(node)?;
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

    fn children(&mut self, node: Node, mut group: usize, zoom: f64) -> Result<(), ReadError> {
        for child in node.children().filter(Node::is_element) {
            match child.tag_name().name() {
                "context" => {
                    if let Some(f) = child.descendants().find(|n| n.has_tag_name_local("traceFormat")) {
                        self.current = format_of(f)?;
                    } else if let Some(f) = child.own_id().and_then(|id| self.formats.get(id)) {
                        self.current = f.clone();
                    }
                }
                "traceFormat" | "inkSource" => {
                    if let Some(f) = child.descendants().find(|n| n.has_tag_name_local("traceFormat")) {
                        self.current = format_of(f)?;
                    }
                }
                "traceGroup" => {
                    let mut notes = self.groups[group].annotations.clone();
                    notes.extend(annotations(child));
                    let zoom = match notes.get("zoom") {
                        Some(z) => {
                            z.parse::<f64>().ok().filter(|z| *z > 0.0 && z.is_finite()).ok_or_else(|| bad(format!("the zoom “{z}” is no number over 0")))?
                        }
                        None => zoom,
                    };
                    self.groups.push(InkGroup { annotations: notes, strokes: Vec::new() });
                    let held = self.current.clone();
                    if let Some(r) = child.attribute("contextRef") {
                        self.current = self.format(r)?;
                    }
                    let notes = self.groups[group].annotations.clone();
                    self.children(child, self.groups.len() - 1, zoom)?;
                    self.current = held;
                    // What follows the group stands after it.
                    self.groups.push(InkGroup { annotations: notes, strokes: Vec::new() });
                    group = self.groups.len() - 1;
                }
                "trace" => self.trace(child, group, zoom)?,
                _ => {}
            }
        }
        Ok(())
    }

    fn format(&self, reference: &str) -> Result<Format, ReadError> {
        self.formats.get(reference.trim_start_matches('#')).cloned().ok_or_else(|| bad(format!("the context “{reference}” is not defined in the file")))
    }

    fn trace(&mut self, node: Node, group: usize, zoom: f64) -> Result<(), ReadError> {
        if node.attribute("type") == Some("penUp") {
            return Ok(());
        }
        let format = match node.attribute("contextRef") {
            Some(r) => self.format(r)?,
            None => self.current.clone(),
        };
        let samples = decode(node.text().unwrap_or(""), &format)?;
        let prior = node.attribute("priorRef").and_then(|r| self.traces.get(r.trim_start_matches('#')).copied());
        let place = match prior.filter(|_| matches!(node.attribute("continuation"), Some("middle" | "end"))) {
            Some((g, s)) => {
                self.groups[g].strokes[s].samples.extend(samples);
                (g, s)
            }
            None if samples.is_empty() => return Ok(()),
            None => {
                let timed = format.iter().any(|c| c.name == Name::T);
                self.groups[group].strokes.push(Stroke { samples, zoom, timed });
                (group, self.groups[group].strokes.len() - 1)
            }
        };
        if let Some(id) = node.own_id() {
            self.traces.insert(id.to_string(), place);
        }
        Ok(())
    }
}

fn format_of(node: Node) -> Result<Format, ReadError> {
    let mut out = Vec::new();
    for c in node.descendants().filter(|n| n.has_tag_name_local("channel")) {
        let text = c.attribute("name").unwrap_or("");
        let name = match text {
            "X" => Name::X,
            "Y" => Name::Y,
            "F" => Name::F,
            "T" => Name::T,
            "OA" => Name::Azimuth,
            "OE" => Name::Elevation,
            _ => Name::Other,
        };
        let unit = match (name, c.attribute("units")) {
            (Name::Other | Name::F, _) | (_, None) => 1.0,
            (_, Some(u)) => unit(name, u).ok_or_else(|| bad(format!("channel {text} is in “{u}”, which cannot be turned into {}", expected(name))))?,
        };
        let bound = |a: &str| -> Result<Option<f64>, ReadError> {
            c.attribute(a)
                .map(|v| v.parse::<f64>().ok().filter(|v| v.is_finite()).ok_or_else(|| bad(format!("channel {text}: {a} is “{v}”, no number"))))
                .transpose()
        };
        let range = match (bound("min")?, bound("max")?) {
            (Some(a), Some(b)) if b > a => Some((a, b)),
            (Some(_), Some(_)) => return Err(bad(format!("channel {text}: max must be over min"))),
            (None, Some(b)) if b > 0.0 => Some((0.0, b)),
            _ => None,
        };
        out.push(Channel { name, unit, range });
    }
    if !out.iter().any(|c| c.name == Name::X) || !out.iter().any(|c| c.name == Name::Y) {
        return Err(bad("the trace format has no X and Y channel".into()));
    }
    Ok(out)
}

fn expected(name: Name) -> &'static str {
    match name {
        Name::X | Name::Y => "mm; mm, cm, m, in, pt and pc are read",
        Name::T => "ms; ms and s are read",
        _ => "degrees; deg and rad are read",
    }
}

fn unit(name: Name, u: &str) -> Option<f64> {
    Some(match (name, u) {
        (Name::X | Name::Y, "mm") => 1.0,
        (Name::X | Name::Y, "cm") => 10.0,
        (Name::X | Name::Y, "m") => 1000.0,
        (Name::X | Name::Y, "in") => 25.4,
        (Name::X | Name::Y, "pt") => 25.4 / 72.0,
        (Name::X | Name::Y, "pc") => 25.4 / 6.0,
        (Name::T, "ms") => 1.0,
        (Name::T, "s") => 1000.0,
        (Name::Azimuth | Name::Elevation, "deg") => 1.0,
        (Name::Azimuth | Name::Elevation, "rad") => 180.0 / std::f64::consts::PI,
        _ => return None,
    })
}

#[derive(Clone, Copy, PartialEq)]
enum Mode {
    Explicit,
    First,
    Second,
}

/// Decodes the text of one trace: explicit values, first and second differences, repeats and gaps.
fn decode(text: &str, format: &Format) -> Result<Vec<Sample>, ReadError> {
    let mut modes = vec![Mode::Explicit; format.len()];
    let mut value = vec![0.0f64; format.len()];
    let mut velocity = vec![0.0f64; format.len()];
    let mut out = Vec::new();
    for (index, point) in text.split(',').enumerate() {
        let mut rest = point.trim_start();
        if rest.is_empty() {
            continue;
        }
        let mut found: Vec<Option<f64>> = Vec::with_capacity(format.len());
        while !rest.is_empty() {
            let k = found.len();
            if k == format.len() {
                return Err(bad(format!("point {} has more values than the format's {} channels", index + 1, format.len())));
            }
            let prefix = match rest.as_bytes()[0] {
                b'!' => Some(Mode::Explicit),
                b'\'' => Some(Mode::First),
                b'"' => Some(Mode::Second),
                _ => None,
            };
            if let Some(m) = prefix {
                modes[k] = m;
                rest = rest[1..].trim_start();
                if rest.is_empty() {
                    return Err(bad(format!("point {} ends after a prefix, without its value", index + 1)));
                }
            }
            if let Some(r) = rest.strip_prefix('?') {
                found.push(None);
                rest = r.trim_start();
                continue;
            }
            if let Some(r) = rest.strip_prefix('*') {
                // The last value goes on, or the last difference does.
                match modes[k] {
                    Mode::Explicit => {}
                    Mode::First | Mode::Second => value[k] += velocity[k],
                }
                found.push(Some(value[k]));
                rest = r.trim_start();
                continue;
            }
            // A channel of truth values, such as a button's; none of them is read.
            if let ('T' | 'F', Name::Other) = (char::from(rest.as_bytes()[0]), format[k].name) {
                value[k] = f64::from(u8::from(rest.starts_with('T')));
                found.push(Some(value[k]));
                rest = rest[1..].trim_start();
                continue;
            }
            let end = rest
                .char_indices()
                .skip(1)
                .find(|(i, c)| {
                    c.is_whitespace() || matches!(c, '!' | '\'' | '"' | '?' | '*') || (matches!(c, '-' | '+') && !matches!(rest.as_bytes()[i - 1], b'e' | b'E'))
                })
                .map_or(rest.len(), |(i, _)| i);
            let number: f64 =
                number(&rest[..end]).filter(|v: &f64| v.is_finite()).ok_or_else(|| bad(format!("“{}” in point {} is no number", &rest[..end], index + 1)))?;
            match modes[k] {
                Mode::Explicit => {
                    velocity[k] = number - value[k];
                    value[k] = number;
                }
                Mode::First => {
                    velocity[k] = number;
                    value[k] += number;
                }
                Mode::Second => {
                    velocity[k] += number;
                    value[k] += velocity[k];
                }
            }
            found.push(Some(value[k]));
            rest = rest[end..].trim_start();
        }
        if let Some(s) = sample(&found, format, index)? {
            out.push(s);
        }
    }
    Ok(out)
}

/// A decimal number, or a whole one in hexadecimal after `#`.
fn number(text: &str) -> Option<f64> {
    match text.strip_prefix('#') {
        Some(hex) => i64::from_str_radix(hex, 16).ok().map(|v| v as f64),
        None => text.parse().ok(),
    }
}

fn sample(found: &[Option<f64>], format: &Format, index: usize) -> Result<Option<Sample>, ReadError> {
    let mut s = Sample::default();
    let (mut x, mut y) = (None, None);
    for (v, c) in found.iter().zip(format) {
        let Some(v) = *v else { continue };
        match c.name {
            Name::X => x = Some(v * c.unit),
            Name::Y => y = Some(v * c.unit),
            Name::T => s.t_ms = v * c.unit,
            Name::Azimuth => s.azimuth_deg = Some(v * c.unit),
            Name::Elevation => s.elevation_deg = Some(v * c.unit),
            Name::F => {
                let raw = c.range.map_or(v, |(lo, hi)| (v - lo) / (hi - lo));
                if !(-1e-9..=1.0 + 1e-9).contains(&raw) {
                    return Err(bad(format!(
                        "the force {v} of point {} lies outside its range; give the channel's min and max, or values from 0 to 1",
                        index + 1
                    )));
                }
                s.pressure = Some(raw.clamp(0.0, 1.0));
            }
            Name::Other => {}
        }
    }
    Ok(x.zip(y).map(|(x, y)| Sample { x, y, ..s }))
}

/// Writes a warm-up.
pub fn write_warmup(w: &WarmUp) -> String {
    let strokes: Vec<&Stroke> = w.groups.iter().flat_map(|g| &g.strokes).collect();
    let mut out = head(&strokes, false);
    out.push_str(&format!("<annotation type=\"scale\">{}</annotation>\n", if w.scale_from_card { "card" } else { "assumed" }));
    for g in &w.groups {
        out.push_str("<traceGroup>\n");
        out.push_str(&format!("<annotation type=\"exercise\">{}</annotation>\n", g.exercise.name()));
        if let Some(e) = g.effort {
            out.push_str(&format!("<annotation type=\"effort\">{e}</annotation>\n"));
        }
        if let Some(p) = g.pace {
            out.push_str(&format!("<annotation type=\"pace\">{}</annotation>\n", p.name()));
        }
        if let Some(z) = g.strokes.first().map(|s| s.zoom).filter(|z| *z != 1.0) {
            out.push_str(&format!("<annotation type=\"zoom\">{z}</annotation>\n"));
        }
        for s in &g.strokes {
            trace(&mut out, s, &strokes, None);
        }
        out.push_str("</traceGroup>\n");
    }
    out.push_str("</ink>\n");
    out
}

/// Writes strokes; inked ones carry their width `W` and their smoothed places.
pub fn write_strokes(strokes: &[Stroke], inked: Option<&[Vec<InkedSample>]>) -> String {
    let all: Vec<&Stroke> = strokes.iter().collect();
    let mut out = head(&all, inked.is_some());
    for (i, s) in strokes.iter().enumerate() {
        trace(&mut out, s, &all, inked.map(|k| k[i].as_slice()));
    }
    out.push_str("</ink>\n");
    out
}

fn has(strokes: &[&Stroke], f: impl Fn(&Sample) -> bool) -> bool {
    strokes.iter().flat_map(|s| &s.samples).any(f)
}

fn head(strokes: &[&Stroke], width: bool) -> String {
    let mut out = String::from("<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n<ink xmlns=\"http://www.w3.org/2003/InkML\">\n<traceFormat>\n");
    let mut channel = |name: &str, rest: &str| out.push_str(&format!("<channel name=\"{name}\" type=\"decimal\"{rest}/>\n"));
    channel("X", " units=\"mm\"");
    channel("Y", " units=\"mm\"");
    if has(strokes, |s| s.pressure.is_some()) {
        channel("F", " min=\"0\" max=\"1\"");
    }
    if strokes.iter().any(|s| s.timed) {
        channel("T", " units=\"ms\"");
    }
    if has(strokes, |s| s.azimuth_deg.is_some()) {
        channel("OA", " units=\"deg\"");
    }
    if has(strokes, |s| s.elevation_deg.is_some()) {
        channel("OE", " units=\"deg\"");
    }
    if width {
        channel("W", " units=\"mm\"");
    }
    out.push_str("</traceFormat>\n");
    out
}

fn trace(out: &mut String, s: &Stroke, all: &[&Stroke], inked: Option<&[InkedSample]>) {
    let optional =
        [has(all, |p| p.pressure.is_some()), all.iter().any(|s| s.timed), has(all, |p| p.azimuth_deg.is_some()), has(all, |p| p.elevation_deg.is_some())];
    let number = |v: Option<f64>, digits: usize| match v {
        Some(v) => {
            let t = format!("{v:.digits$}");
            if t.contains('.') { t.trim_end_matches('0').trim_end_matches('.').to_string() } else { t }
        }
        None => "?".into(),
    };
    out.push_str("<trace>");
    for (i, p) in s.samples.iter().enumerate() {
        let place = inked.map_or((p.x, p.y), |k| (k[i].x, k[i].y));
        let mut values = vec![number(Some(place.0), 4), number(Some(place.1), 4)];
        for (on, v, digits) in
            [(optional[0], p.pressure, 6), (optional[1], Some(p.t_ms), 3), (optional[2], p.azimuth_deg, 2), (optional[3], p.elevation_deg, 2)]
        {
            if on {
                values.push(number(v, digits));
            }
        }
        if let Some(k) = inked {
            values.push(number(Some(k[i].width_mm), 5));
        }
        if i > 0 {
            out.push_str(", ");
        }
        out.push_str(&values.join(" "));
    }
    out.push_str("</trace>\n");
}
