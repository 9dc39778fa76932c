//! Strokes and warm-ups as InkML: the channels that any of the strokes has, in the order X Y F T OA OE W.

use eddymist_calibrate::WarmUp;
use eddymist_ink::{InkedSample, Sample, Stroke};

/// Writes a warm-up.
pub fn write_warmup(w: &WarmUp) -> String {
    let strokes: Vec<&Stroke> = w.groups.iter().flat_map(|g| &g.strokes).collect();
    let channels = Channels::new(&strokes);
    let mut out = head(channels, false);
    out.push_str(&format!("<annotation type=\"scale\">{}</annotation>\n", if w.scale_from_card { "card" } else { "assumed" }));
    if w.slips_counted {
        out.push_str("<annotation type=\"slips\">counted</annotation>\n");
    }
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
            trace(&mut out, s, channels, None);
        }
        out.push_str("</traceGroup>\n");
    }
    out.push_str("</ink>\n");
    out
}

/// Writes strokes; inked ones carry their width `W` and their smoothed places.
pub fn write_strokes(strokes: &[Stroke], inked: Option<&[Vec<InkedSample>]>) -> String {
    let all: Vec<&Stroke> = strokes.iter().collect();
    let channels = Channels::new(&all);
    let mut out = head(channels, inked.is_some());
    for (i, s) in strokes.iter().enumerate() {
        trace(&mut out, s, channels, inked.map(|k| k[i].as_slice()));
    }
    out.push_str("</ink>\n");
    out
}

/// Which of the channels that a file may be without are written: F, T, OA, OE.
#[derive(Clone, Copy)]
struct Channels([bool; 4]);

impl Channels {
    fn new(strokes: &[&Stroke]) -> Self {
        let has = |f: fn(&Sample) -> bool| strokes.iter().flat_map(|s| &s.samples).any(f);
        Self([has(|s| s.pressure.is_some()), strokes.iter().any(|s| s.timed), has(|s| s.azimuth_deg.is_some()), has(|s| s.elevation_deg.is_some())])
    }
}

fn head(Channels([force, time, azimuth, elevation]): Channels, width: bool) -> String {
    let mut out = String::from("<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n<ink xmlns=\"http://www.w3.org/2003/InkML\">\n<traceFormat>\n");
    let mut channel = |name: &str, rest: &str| out.push_str(&format!("<channel name=\"{name}\" type=\"decimal\"{rest}/>\n"));
    channel("X", " units=\"mm\"");
    channel("Y", " units=\"mm\"");
    if force {
        channel("F", " min=\"0\" max=\"1\"");
    }
    if time {
        channel("T", " units=\"ms\"");
    }
    if azimuth {
        channel("OA", " units=\"deg\"");
    }
    if elevation {
        channel("OE", " units=\"deg\"");
    }
    if width {
        channel("W", " units=\"mm\"");
    }
    out.push_str("</traceFormat>\n");
    out
}

fn trace(out: &mut String, s: &Stroke, Channels(optional): Channels, inked: Option<&[InkedSample]>) {
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
