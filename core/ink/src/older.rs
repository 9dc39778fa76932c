//! Names that documents had before: renamed before they are read, wherever a brush or a smoothing stands in them.

use serde_json::{Map, Value};

/// Gives every brush and every smoothing within a document the names of today; what has them already stays as it is.
pub fn renamed(document: &mut Value) {
    match document {
        Value::Array(all) => all.iter_mut().for_each(renamed),
        Value::Object(fields) => {
            if fields.contains_key("nib") && fields.contains_key("weight") {
                rename(fields, "lay", "stroke");
                rename(fields, "jitter", "chance");
                if let Some(Value::Object(stroke)) = fields.get_mut("stroke") {
                    stroke_kind(stroke);
                }
            }
            match fields.get("kind").and_then(Value::as_str) {
                Some("average") => rename(fields, "window_ms", "span_ms"),
                Some("tow") => rename(fields, "radius_mm", "slack_mm"),
                _ => {}
            }
            fields.values_mut().for_each(renamed);
        }
        _ => {}
    }
}

fn stroke_kind(stroke: &mut Map<String, Value>) {
    let (kind, ends) = match stroke.get("kind").and_then(Value::as_str) {
        Some("bent") => ("shaped", Some("stretch")),
        Some("capped-run") => ("shaped", Some("keep")),
        Some("bristled") => ("dry-brush", None),
        Some("stamped") => ("stamped", None),
        _ => return,
    };
    stroke.insert("kind".into(), kind.into());
    if let Some(ends) = ends {
        stroke.entry("ends").or_insert(ends.into());
    }
    let names: &[_] = match kind {
        "dry-brush" => &[("stiffness", "snap"), ("load", "ink_held")],
        "stamped" => &[("scatter", "stray"), ("tooth_png", "paper_png"), ("tooth_high_is_light", "paper_high_is_light")],
        _ => &[],
    };
    names.iter().for_each(|(old, new)| rename(stroke, old, new));
}

/// Where both are there, the old name stays, and is refused as unknown.
fn rename(fields: &mut Map<String, Value>, old: &str, new: &str) {
    if !fields.contains_key(new)
        && let Some(value) = fields.remove(old)
    {
        fields.insert(new.into(), value);
    }
}
