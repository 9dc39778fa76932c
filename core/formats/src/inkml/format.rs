//! What the numbers of a trace are: channels with their order, units and ranges.
//!
//! Source: W3C Recommendation Ink Markup Language, 20 September 2011, section 3.2.

use roxmltree::Node;

use super::node::{LocalName, bad};
use crate::{ReadError, limits::quoted};

/// A trace has at most so many channels.
const MOST_CHANNELS: usize = 32;

#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) enum Name {
    X,
    Y,
    F,
    T,
    Azimuth,
    Elevation,
    Other,
}

#[derive(Debug, Clone, PartialEq)]
pub(super) struct Channel {
    pub(super) name: Name,
    /// As the file calls it.
    pub(super) called: String,
    /// Factor to mm, ms or degrees.
    pub(super) unit: f64,
    pub(super) range: Option<(f64, f64)>,
    /// It may be left out at the end of a point.
    pub(super) intermittent: bool,
}

/// The channels of a trace, in their order.
#[derive(Debug, Clone, PartialEq)]
pub(super) struct Format(pub(super) Vec<Channel>);

impl Default for Format {
    fn default() -> Self {
        let plain = |name, called: &str| Channel { name, called: called.into(), unit: 1.0, range: None, intermittent: false };
        Self(vec![plain(Name::X, "X"), plain(Name::Y, "Y")])
    }
}

impl Format {
    pub(super) fn timed(&self) -> bool {
        self.0.iter().any(|c| c.name == Name::T)
    }

    pub(super) fn read(node: Node) -> Result<Self, ReadError> {
        let mut out: Vec<Channel> = Vec::new();
        for c in node.descendants().filter(|n| n.has_tag_name_local("channel")) {
            let text = c.attribute("name").unwrap_or("");
            let shown = quoted(text);
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
                (_, Some(u)) => {
                    unit(name, u).ok_or_else(|| bad(format!("channel {shown} is in “{}”, which cannot be turned into {}", quoted(u), expected(name))))?
                }
            };
            let bound = |a: &str| -> Result<Option<f64>, ReadError> {
                c.attribute(a)
                    .map(|v| v.parse::<f64>().ok().filter(|v| v.is_finite()).ok_or_else(|| bad(format!("channel {shown}: {a} is “{}”, no number", quoted(v)))))
                    .transpose()
            };
            let range = match (bound("min")?, bound("max")?) {
                (Some(a), Some(b)) if b > a => Some((a, b)),
                (Some(_), Some(_)) => return Err(bad(format!("channel {shown}: max must be over min"))),
                (None, Some(b)) if b > 0.0 => Some((0.0, b)),
                _ => None,
            };
            if out.iter().any(|o| o.called == text) {
                return Err(bad(format!("channel {shown} is declared twice")));
            }
            if out.len() == MOST_CHANNELS {
                return Err(bad(format!("a trace format has more than {MOST_CHANNELS} channels")));
            }
            let intermittent = c.ancestors().any(|a| a.has_tag_name_local("intermittentChannels"));
            out.push(Channel { name, called: text.into(), unit, range, intermittent });
        }
        if !out.iter().any(|c| c.name == Name::X) || !out.iter().any(|c| c.name == Name::Y) {
            return Err(bad("the trace format has no X and Y channel".into()));
        }
        Ok(Self(out))
    }
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
