//! How a pen card comes about without a sheet: read from a document, or made of ruled lines and of what was marked on a scan.
//!
//! Limits: a single line gives width, edge and strip; its weight curve is assumed flat and said to be (`matching`).

use eddymist_ink::{DocumentError, check_document};
use eddymist_measure::{
    scan::{
        self, LineMeasurement,
        mark::{MarkKind, MarkedStroke},
    },
    stats::{mean_sd, median},
};

use crate::{
    pen_card::{CardEdge, CardPooling, FORMAT, LineEdge, Note, PenCard, WidthAtEffort, rounded},
    tapers::{self, Flick},
};

impl PenCard {
    /// A card from ruled lines. `efforts` names each line's effort where the artist said it, in the lines' order.
    pub fn from_lines(name: &str, m: &LineMeasurement, efforts: &[Option<f64>], note: Note) -> Self {
        let mut groups: Vec<(f64, Vec<f64>)> = Vec::new();
        for (line, effort) in m.lines.iter().zip(efforts) {
            let Some(e) = effort else { continue };
            match groups.iter_mut().find(|g| (g.0 - e).abs() < 1e-9) {
                Some(g) => g.1.push(line.width_mm.mean),
                None => groups.push((*e, vec![line.width_mm.mean])),
            }
        }
        groups.sort_by(|a, b| a.0.total_cmp(&b.0));
        let widths: Vec<WidthAtEffort> = groups
            .iter()
            .filter_map(|(effort, w)| {
                let (mean, sd) = mean_sd(w)?;
                Some(WidthAtEffort {
                    effort: *effort,
                    width_mm: mean,
                    sd_mm: (w.len() > 1).then_some(sd),
                    lines: w.len() as u32,
                    each_mm: Some(rounded(w.clone(), 1e4)),
                    force_n: None,
                })
            })
            .collect();
        let of = |f: &dyn Fn(&scan::MeasuredLine) -> f64| median(&m.lines.iter().map(f).collect::<Vec<_>>());
        let edges: Vec<LineEdge> = m
            .lines
            .iter()
            .filter_map(|l| {
                Some(LineEdge {
                    raggedness_um: l.raggedness_um?,
                    raggedness_interval_um: l.raggedness_interval_um,
                    correlation_um: l.raggedness_correlation_um,
                    wander_um: l.wander_um,
                    blurriness_um: l.blurriness_um?,
                    blurriness_interval_um: l.blurriness_interval_um,
                    from_mm: l.from_mm,
                })
            })
            .collect();
        Self {
            format: FORMAT.into(),
            version: 1,
            name: name.into(),
            resolution_dpi: m.resolution_dpi,
            widths_by_effort: (!widths.is_empty()).then_some(widths),
            ramp: None,
            nib: None,
            lead_in: None,
            lead_out: None,
            widths_by_pace: None,
            pooling: None,
            edge: CardEdge::from_lines(&edges),
            darkness: of(&|l| l.darkness),
            hatching: None,
            free_line: None,
            note,
            strip_png: None,
            nearest_standard_width_mm: m.nearest_standard_width_mm,
            source: m.source.clone(),
            warnings: m.warnings.clone(),
        }
    }

    /// Adds what the artist marked on the scan: flicks and dots. A dot's ratio needs a line at normal effort.
    pub fn add_marks(&mut self, marks: &[MarkedStroke]) {
        let flicks = |kind: MarkKind| -> Vec<Flick> {
            marks.iter().filter(|m| m.kind == kind).map(|m| Flick { widths_mm: m.width_mm.clone(), step_mm: m.step_mm }).collect()
        };
        self.lead_in = tapers::taper(&flicks(MarkKind::FlickIn)).or(self.lead_in.take());
        self.lead_out = tapers::taper(&flicks(MarkKind::FlickOut)).or(self.lead_out.take());
        let dots: Vec<f64> = marks.iter().filter_map(|m| m.dot_mm).collect();
        let normal = self.widths_by_effort.iter().flatten().find(|w| w.effort == 0.5).map(|w| w.width_mm);
        match normal {
            Some(line) => self.pooling = CardPooling::of(&dots, line, None).or(self.pooling.take()),
            None if !dots.is_empty() => self.warnings.push("a dot was marked, and no line at normal effort to compare it with".into()),
            None => {}
        }
    }

    /// Reads a pen card, or a line-measurement that serves as one: its lines then count as of normal effort.
    pub fn from_json(text: &str) -> Result<Self, DocumentError> {
        let malformed = |problem: String| DocumentError::Malformed { expected: FORMAT, problem };
        let value: serde_json::Value = serde_json::from_str(text).map_err(|e| malformed(e.to_string()))?;
        if value.get("format").and_then(|f| f.as_str()) == Some(scan::FORMAT) {
            check_document(&value, scan::FORMAT)?;
            let m: LineMeasurement = serde_json::from_value(value).map_err(|e| malformed(e.to_string()))?;
            if m.lines.is_empty() {
                return Err(malformed("the line-measurement holds no line".into()));
            }
            let normal = vec![Some(0.5); m.lines.len()];
            let card = Self::from_lines("measured line", &m, &normal, Note::default());
            card.validate().map_err(malformed)?;
            return Ok(card);
        }
        check_document(&value, FORMAT)?;
        let card: Self = serde_json::from_value(value).map_err(|e| malformed(e.to_string()))?;
        card.validate().map_err(malformed)?;
        Ok(card)
    }
}
