//! From the guide to the measure: what is checked, and which layer is whose.

use eddymist_measure::{
    Picture,
    colour::parse_hex,
    drawing::{self, Layer, Plan, Source},
};

use serde::{Deserialize, Serialize};

use crate::guide::LineGuide;

/// A layer of a drawing, named after the groups that it lies in with `/` between; a flat picture is one without a name.
#[derive(Debug, Clone, Copy)]
pub struct NamedLayer<'a> {
    pub name: Option<&'a str>,
    pub picture: Picture<'a>,
}

/// The ink across a line, as the check sees it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Across {
    /// One number a step, 0…1, the place in the middle.
    pub coverage: Vec<f32>,
    pub step_px: f64,
}

/// The ink across a line at a place in px of the drawing, over five of the widest target's widths; the normal in degrees.
pub fn across(guide: &LineGuide, layers: &[NamedLayer], oversampled: f64, at: [f64; 2], normal_deg: f64) -> Across {
    let scale = layers.first().map_or(1.0, |l| l.picture.width as f64 / guide.page.width_px);
    let plan = plan(guide, scale);
    let (s, c) = normal_deg.to_radians().sin_cos();
    let half = (2.5 * plan.widest_px).clamp(4.0 * oversampled, 400.0);
    let coverage = drawing::across::across(&layers_by_role(guide, layers), &plan, at.map(|v| v * oversampled), [c, s], half);
    Across { coverage, step_px: drawing::across::STEP_PX / oversampled }
}

/// What the measure looks for; `factor` takes the guide's px to the picture's.
pub fn plan(guide: &LineGuide, factor: f64) -> Plan {
    let roles = guide
        .roles
        .iter()
        .map(|r| match (&r.from.colour, &r.from.layer) {
            (Some(c), _) => Source::Colour { rgb: parse_hex(c).unwrap_or([0; 3]), tolerance: r.from.tolerance.unwrap_or(6.0) as f32 },
            (_, Some(_)) => Source::Layer,
            _ if r.from.outline => Source::Outline,
            _ => Source::Rest,
        })
        .collect();
    let widest = guide.roles.iter().filter_map(|r| r.weight_px).map(|w| w.living()[1].max(w.band()[1])).fold(0.0, f64::max);
    // A page of a pixel would make its lines wider than any picture is.
    Plan { roles, widest_px: (widest * factor).min(10_000.0) }
}

/// Gives each named layer to the first role by layer whose pattern fits its name, one of its groups' names, or both with
/// `/` between.
pub(crate) fn layers_by_role<'a>(guide: &LineGuide, layers: &[NamedLayer<'a>]) -> Vec<Layer<'a>> {
    layers
        .iter()
        .map(|l| Layer {
            picture: l.picture,
            role: l
                .name
                .and_then(|n| guide.roles.iter().position(|r| r.from.layer.as_ref().is_some_and(|p| fits(p, n) || n.split('/').any(|part| fits(p, part))))),
        })
        .collect()
}

/// Whether a name fits a pattern in which `*` stands for any characters.
pub fn fits(pattern: &str, name: &str) -> bool {
    let parts: Vec<&str> = pattern.split('*').collect();
    let [first, middle @ .., last] = parts.as_slice() else {
        return pattern == name;
    };
    let Some(mut rest) = name.strip_prefix(first) else {
        return false;
    };
    for part in middle {
        let Some(at) = rest.find(part) else {
            return false;
        };
        rest = &rest[at + part.len()..];
    }
    rest.ends_with(last)
}
