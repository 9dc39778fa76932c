//! The numbers of a trace: channels with their order, units and ranges; explicit values, first and second differences, repeats and gaps.
//!
//! Source: W3C Recommendation Ink Markup Language, 20 September 2011, sections 3.2 and 3.3. What is not reported (`?`, or a channel that
//! may be left out) stands between its neighbours; a sample whose place is not reported is dropped.

use eddymist_ink::Sample;

use super::{
    format::{Format, Name},
    node::bad,
};
use crate::{Limits, ReadError, limits::quoted};

#[derive(Clone, Copy, PartialEq)]
enum Mode {
    Explicit,
    First,
    Second,
}

/// What the points before one have left of a channel.
#[derive(Clone, Copy)]
struct Running {
    mode: Mode,
    value: f64,
    velocity: f64,
}

impl Running {
    fn take(&mut self, number: f64) {
        match self.mode {
            Mode::Explicit => {
                self.velocity = number - self.value;
                self.value = number;
            }
            Mode::First => {
                self.velocity = number;
                self.value += number;
            }
            Mode::Second => {
                self.velocity += number;
                self.value += self.velocity;
            }
        }
    }

    /// The last value goes on, or the last difference does.
    fn repeat(&mut self) {
        if self.mode != Mode::Explicit {
            self.value += self.velocity;
        }
    }
}

/// Decodes the text of one trace; `trace` is its number in the file, from 1.
pub(super) fn decode(text: &str, format: &Format, trace: usize, limits: &Limits) -> Result<Vec<Sample>, ReadError> {
    let mut out: Vec<Reported> = Vec::new();
    if text.trim().is_empty() {
        return Ok(Vec::new());
    }
    let mut running = vec![Running { mode: Mode::Explicit, value: 0.0, velocity: 0.0 }; format.0.len()];
    for (index, point) in text.split(',').enumerate() {
        let told = |problem: String| bad(format!("trace {trace}, sample {}: {problem}", index + 1));
        if out.len() == limits.stroke_samples {
            return Err(told(format!("a stroke has up to {} samples", limits.stroke_samples)));
        }
        let found = values(point, format, &mut running).map_err(told)?;
        if let Some(s) = reported(&found, format, limits).map_err(told)? {
            out.push(s);
        }
    }
    Ok(filled(out))
}

/// The values of one point, by channel; none where one is not reported.
fn values(point: &str, format: &Format, running: &mut [Running]) -> Result<Vec<Option<f64>>, String> {
    let channels = &format.0;
    let mut rest = point.trim_start();
    let mut found: Vec<Option<f64>> = Vec::with_capacity(channels.len());
    while !rest.is_empty() {
        let k = found.len();
        if k == channels.len() {
            return Err(format!("there are more values than the format's {} channels", channels.len()));
        }
        let prefix = match rest.as_bytes()[0] {
            b'!' => Some(Mode::Explicit),
            b'\'' => Some(Mode::First),
            b'"' => Some(Mode::Second),
            _ => None,
        };
        if let Some(m) = prefix {
            running[k].mode = m;
            rest = rest[1..].trim_start();
            if rest.is_empty() {
                return Err("it ends after a prefix, without its value".into());
            }
        }
        if let Some(r) = rest.strip_prefix('?') {
            found.push(None);
            rest = r.trim_start();
            continue;
        }
        if let Some(r) = rest.strip_prefix('*') {
            running[k].repeat();
            found.push(Some(running[k].value));
            rest = r.trim_start();
            continue;
        }
        // A channel of truth values, such as a button's; none of them is read.
        if let ('T' | 'F', Name::Other) = (char::from(rest.as_bytes()[0]), channels[k].name) {
            running[k].value = f64::from(u8::from(rest.starts_with('T')));
            found.push(Some(running[k].value));
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
        let number = number(&rest[..end]).filter(|v| v.is_finite()).ok_or_else(|| format!("“{}” is no number", quoted(&rest[..end])))?;
        running[k].take(number);
        found.push(Some(running[k].value));
        rest = rest[end..].trim_start();
    }
    if found.is_empty() {
        return Err("there are no values between two commas".into());
    }
    if channels[found.len()..].iter().any(|c| !c.intermittent) {
        return Err(format!("there are {} values for the format's {} channels", found.len(), channels.len()));
    }
    found.resize(channels.len(), None);
    Ok(found)
}

/// A decimal number, or a whole one in hexadecimal after `#`.
fn number(text: &str) -> Option<f64> {
    match text.strip_prefix('#') {
        Some(hex) => i64::from_str_radix(hex, 16).ok().map(|v| v as f64),
        None => text.parse().ok(),
    }
}

/// A sample as the file reports it.
#[derive(Clone, Copy, Default)]
struct Reported {
    x: f64,
    y: f64,
    /// Force, time, azimuth, elevation.
    rest: [Option<f64>; 4],
}

const FORCE: usize = 0;
const TIME: usize = 1;

fn reported(found: &[Option<f64>], format: &Format, limits: &Limits) -> Result<Option<Reported>, String> {
    let (mut x, mut y) = (None, None);
    let mut rest = [None; 4];
    for (v, c) in found.iter().zip(&format.0) {
        let Some(v) = v.map(|v| v * c.unit) else { continue };
        if c.name != Name::Other && !v.is_finite() {
            return Err(format!("channel {} runs off: its value is no finite number", quoted(&c.called)));
        }
        match c.name {
            Name::X | Name::Y => {
                if v.abs() > limits.coordinate_mm {
                    return Err(format!("it lies {:.3e} mm away; up to {} m are read", v, limits.coordinate_mm / 1000.0));
                }
                *(if c.name == Name::X { &mut x } else { &mut y }) = Some(v);
            }
            Name::T => rest[TIME] = Some(v),
            Name::Azimuth => rest[2] = Some(v),
            Name::Elevation => rest[3] = Some(v),
            Name::F => {
                let raw = c.range.map_or(v, |(lo, hi)| (v - lo) / (hi - lo));
                if !(-1e-9..=1.0 + 1e-9).contains(&raw) {
                    return Err(format!("the force {v:.3e} lies outside its range; give the channel's min and max, or values from 0 to 1"));
                }
                rest[FORCE] = Some(raw.clamp(0.0, 1.0));
            }
            Name::Other => {}
        }
    }
    Ok(x.zip(y).map(|(x, y)| Reported { x, y, rest }))
}

/// Puts what was not reported between its neighbours, by time where that is known, and at an end as the nearest.
fn filled(mut all: Vec<Reported>) -> Vec<Sample> {
    let by_index: Vec<f64> = (0..all.len()).map(|i| i as f64).collect();
    fill(&mut all, TIME, &by_index);
    let times: Vec<f64> = all.iter().map(|r| r.rest[TIME].unwrap_or(0.0)).collect();
    let rises = times.windows(2).all(|t| t[1] > t[0]);
    let along = if rises { &times } else { &by_index };
    for k in [FORCE, 2, 3] {
        fill(&mut all, k, along);
    }
    all.into_iter()
        .map(|r| Sample { x: r.x, y: r.y, pressure: r.rest[FORCE], t_ms: r.rest[TIME].unwrap_or(0.0), azimuth_deg: r.rest[2], elevation_deg: r.rest[3] })
        .collect()
}

fn fill(all: &mut [Reported], k: usize, along: &[f64]) {
    let known: Vec<usize> = (0..all.len()).filter(|i| all[*i].rest[k].is_some()).collect();
    if known.is_empty() || known.len() == all.len() {
        return;
    }
    let mut after = 0usize;
    for i in 0..all.len() {
        if all[i].rest[k].is_some() {
            after += 1;
            continue;
        }
        let value = |i: usize| all[i].rest[k].unwrap_or(0.0);
        let between = |a: usize, b: usize| {
            let u = (along[i] - along[a]) / (along[b] - along[a]);
            // Azimuth goes the shorter way round.
            let turn = if k == 2 { (value(b) - value(a) + 180.0).rem_euclid(360.0) - 180.0 } else { value(b) - value(a) };
            value(a) + u * turn
        };
        let filled = match (after.checked_sub(1).map(|b| known[b]), known.get(after)) {
            (Some(a), Some(b)) => between(a, *b),
            (Some(a), None) => value(a),
            (None, Some(b)) => value(*b),
            (None, None) => return,
        };
        all[i].rest[k] = Some(filled);
    }
}
