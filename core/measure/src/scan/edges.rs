//! One ruled line's figures: width, both edges, raggedness, blurriness, darkness, how it ends.
//!
//! How: width is the integrated absorptance over the solid ink's; edges cross the 60 % threshold; raggedness is an edge's deviation about its
//! line's smooth middle (`wander`) with the paper's noise taken off and the blur corrected for. Limits: raggedness of waves longer than the line shows is not seen.
//! Source: ISO/IEC 13660; Wilson and Hilferty for the χ² interval.

use super::{
    LineView, Strip,
    document::{LineEnd, MeasuredLine, WidthStats},
    levels::{FAINT, InkLevel},
    profile::{ACROSS, Straight, fit_blur},
    wander::Middle,
};
use crate::{
    TAPER_WIDTHS,
    stats::{mean_sd, median, moving_mean, phi},
};

/// Widths are averaged over this length before their spread is taken, mm.
const AVERAGED_OVER_MM: f64 = 0.2;

/// What of a line is body: between its ends, which are tapers or caps.
struct LineBody {
    /// Widths by columns, px, and their average over `window` columns.
    widths_px: Vec<f64>,
    smooth: Vec<f64>,
    window: usize,
    ends: [LineEnd; 2],
    from: usize,
    to: usize,
}

/// The body of a line; none when too little of it is one.
fn body_of(s: &Straight, ink: &InkLevel) -> Option<LineBody> {
    let (first, last) = s.span;
    let px = s.px_mm;
    let widths_px: Vec<f64> = s.areas().iter().map(|a| a / ink.absorptance).collect();
    let window = ((AVERAGED_OVER_MM / px).round() as usize).max(1);
    let smooth = moving_mean(&widths_px, window);
    let third = (last - first) / 3;
    let body_px = median(&smooth[first + third..last - third])?;
    let ends = [end(&smooth, first, last, body_px, px, false), end(&smooth, first, last, body_px, px, true)];
    let cut = |taper_mm: f64| if taper_mm > 0.0 { (taper_mm / px).ceil() } else { body_px.ceil() } as usize;
    let (from, to) = (first + cut(ends[0].taper_mm), last.saturating_sub(cut(ends[1].taper_mm)));
    (to >= from + 8).then_some(LineBody { widths_px, smooth, window, ends, from, to })
}

/// The mean width of a line's body alone, mm; none when too little of it is body.
pub fn width_mm(s: &Straight, ink: &InkLevel) -> Option<f64> {
    let b = body_of(s, ink)?;
    Some(mean_sd(&b.widths_px[b.from..b.to])?.0 * s.px_mm)
}

/// The figures of one line; none when too little of it is body.
pub fn line(s: &Straight, ink: &InkLevel) -> Option<LineView> {
    let (first, last) = s.span;
    let px = s.px_mm;
    let LineBody { widths_px, smooth, window, ends, from, to } = body_of(s, ink)?;
    let mut widths = widths_px;
    widths.iter_mut().for_each(|w| *w *= px);
    let body: Vec<f64> = smooth[from..to].iter().map(|w| w * px).collect();
    // Averages that do not share a column: their spread is the width's own.
    let apart: Vec<f64> = body.iter().copied().step_by(window).collect();
    let (_, sd) = mean_sd(&apart)?;
    let (mean, _) = mean_sd(&widths[from..to])?;
    let fold = |f: fn(f64, f64) -> f64| body.iter().copied().reduce(f).unwrap_or(mean);
    let blur = fit_blur(s);
    // About the fitted straight line, the hand's bow among them.
    let own = [false, true].map(|right| edge(s, ink, right));
    let edges = own.each_ref().map(|e| e.iter().zip(&s.bow).map(|(e, b)| e + b).collect::<Vec<f64>>());
    let middle = Middle::new(&edges[0][from..to], &edges[1][from..to], px);
    let ragged: Vec<Ragged> = edges.iter().map(|e| raggedness(&e[from..to], &middle, px, &blur, ink)).collect();
    let correlations: Vec<f64> = ragged.iter().filter_map(|r| r.correlation_um).collect();
    let width_60 = (from..to).map(|k| edges[1][k] - edges[0][k]).filter(|w| w.is_finite()).collect::<Vec<_>>();
    let (raggedness_um, correlation_um) = (ragged.iter().map(|r| r.sd_um).sum::<f64>() / 2.0, median(&correlations));
    let figures = MeasuredLine {
        length_mm: (last - first) as f64 * px,
        angle_deg: -s.direction[1].atan2(s.direction[0]).to_degrees(),
        width_mm: WidthStats { mean, sd, min: fold(f64::min), max: fold(f64::max) },
        width_60_mm: mean_sd(&width_60)?.0 * px,
        raggedness_um: Some(raggedness_um),
        raggedness_interval_um: Some(sd_interval(raggedness_um, ragged.iter().map(|r| (to - from) as f64 / r.per_value).sum())),
        raggedness_correlation_um: correlation_um,
        wander_um: middle.wander.map(|w| w * px * 1000.0),
        blurriness_um: Some(blurriness(s.mean_profile(), ink) * px * 1000.0),
        blurriness_interval_um: Some(blurriness_interval(s, from, to, ink).map(|b| b * px * 1000.0)),
        darkness: -(1.0 - s.core_level()).max(1e-3).log10(),
        from_mm: (to - from) as f64 * px,
        start: ends[0],
        end: ends[1],
    };
    let place = |k: usize| [s.from[0] + s.direction[0] * k as f64, s.from[1] + s.direction[1] * k as f64];
    let stride = (((last - first) as f64 / 1500.0).ceil() as usize).max(1);
    let pick = |v: &[f64], f: f64| -> Vec<f64> { v[first..last].iter().step_by(stride).map(|e| if e.is_finite() { e * f } else { 0.0 }).collect() };
    Some(LineView {
        from: place(first),
        to: place(last),
        step_mm: px * stride as f64,
        left_mm: pick(&own[0], px),
        right_mm: pick(&own[1], px),
        bow_mm: if s.bow.iter().any(|b| *b != 0.0) { pick(&s.bow, px) } else { Vec::new() },
        width_mm: pick(&smooth, px),
        strip: strip(s, ink),
        repeating: super::repeat(s, ink, from, to),
        autocorrelation: autocorrelation(&ragged, px),
        figures,
    })
}

/// How the line ends: its taper and the widest place there.
fn end(smooth: &[f64], first: usize, last: usize, body: f64, px: f64, at_end: bool) -> LineEnd {
    let n = last - first;
    let at = |k: usize| smooth[if at_end { last - 1 - k } else { first + k }];
    let hold = (body.ceil() as usize).max(3);
    let mut since = 0;
    let mut taper = n / 2;
    for k in 0..n / 2 {
        if at(k) < 0.9 * body {
            since = k + 1;
        } else if k - since >= hold {
            taper = since;
            break;
        }
    }
    let taper_mm = if taper as f64 > TAPER_WIDTHS * body { taper as f64 * px } else { 0.0 };
    let near = ((2.0 * body).ceil() as usize).clamp(1, (n / 2).max(1));
    let widest = (0..near).map(at).fold(0.0, f64::max);
    LineEnd { taper_mm, dot_ratio: widest / body }
}

/// Of a line so thin that its middle hardly reaches the threshold, the edge is where it crosses this share of what its middle does reach.
const OF_MIDDLE: f64 = 0.8;

/// Place of the edge in px across at every column, where absorptance crosses 60 % of the ink's; NaN where it does not.
pub fn edge(s: &Straight, ink: &InkLevel, right: bool) -> Vec<f64> {
    let middle = s.mean_profile().iter().copied().fold(0.0, f64::max);
    let full = 0.6 * ink.absorptance;
    let threshold = if middle > FAINT * ink.absorptance { full.min(OF_MIDDLE * middle) } else { full };
    let mid = s.rows / 2;
    (0..s.columns)
        .map(|k| {
            let at = |r: usize| f64::from(s.data[r * s.columns + k]);
            let mut r = mid;
            while r > 0 && r + 1 < s.rows {
                let next = if right { r + 1 } else { r - 1 };
                let (a, b) = (at(r), at(next));
                if a >= threshold && b < threshold {
                    let t = (a - threshold) / (a - b);
                    let d = (r as f64 - mid as f64).abs() + t;
                    return if right { d } else { -d } / ACROSS;
                }
                r = next;
            }
            f64::NAN
        })
        .collect()
}

struct Ragged {
    sd_um: f64,
    correlation_um: Option<f64>,
    /// Of the edge about its line by lag in columns, over its value without the paper's noise; the first is what noise adds.
    autocorrelation: Vec<f64>,
    /// Columns that tell as much as one independent value each.
    per_value: f64,
}

/// The autocorrelation is shown as far as this, µm, at most at so many lags.
const SHOWN_UM: f64 = 800.0;
const LAGS: usize = 48;

/// Deviation of an edge about its line's smooth middle, less the paper's noise, with the blur along the line made good.
///
/// Noise is told by its own correlation: what the scan's blur and grain add falls off within a few pixels, while the
/// edge's falls off exponentially; the model `σ²·e^(−τ/L)` blurred along the line is fitted to the lags beyond the
/// noise. A Gaussian blur of s leaves `e^(s²/L²)·erfc(s/L)` of the variance of an exponential edge.
fn raggedness(edge: &[f64], middle: &Middle, px: f64, blur: &super::profile::BlurFit, ink: &InkLevel) -> Ragged {
    let residual = about(edge, middle);
    let n = residual.len();
    if n < 32 {
        return Ragged { sd_um: 0.0, correlation_um: None, autocorrelation: Vec::new(), per_value: 1.0 };
    }
    let lag = |k: usize| (0..n - k).map(|i| residual[i] * residual[i + k]).sum::<f64>() / (n - k) as f64;
    let total = lag(0);
    // Grain against the edge's slope; reading between four pixels leaves about half of white grain's variance.
    let slope = 0.385 * ink.absorptance / blur.sigma_px;
    let noise = 0.5 * (ink.grain / slope).powi(2);
    let variance = (total - noise).max(0.0);
    if variance <= 0.02 * total || variance.sqrt() * px * 1000.0 < 0.3 {
        return Ragged { sd_um: variance.sqrt() * px * 1000.0, correlation_um: None, autocorrelation: Vec::new(), per_value: 1.0 };
    }
    // How far the variance is known: twice the sum of the squared correlations (Bartlett 1946), as far as they are seen.
    let seen = (1..n / 4).map(|k| lag(k) / variance).take_while(|r| *r > 0.1);
    let per_value = 1.0 + 2.0 * seen.map(|r| r.min(1.0).powi(2)).sum::<f64>();
    let lags = ((SHOWN_UM / 1000.0 / px) as usize).min(n / 4);
    let autocorrelation = (0..=lags).map(|k| lag(k) / variance).collect();
    // The correlation length from the lags at which the noise is gone, by the log of the fall.
    let skip = 2;
    let mut points = Vec::new();
    for k in skip..(n / 8).max(skip + 2) {
        let c = lag(k);
        if c < 0.25 * variance {
            break;
        }
        points.push((k as f64, c.ln()));
    }
    let sigma = blur.sigma_px;
    let length = if points.len() >= 3 {
        let m = points.len() as f64;
        let (sx, sy) = points.iter().fold((0.0, 0.0), |a, p| (a.0 + p.0, a.1 + p.1));
        let (sxx, sxy) = points.iter().fold((0.0, 0.0), |a, p| (a.0 + p.0 * p.0, a.1 + p.0 * p.1));
        let slope = (m * sxy - sx * sy) / (m * sxx - sx * sx);
        if slope < 0.0 { Some(-1.0 / slope) } else { None }
    } else {
        None
    };
    let left = length.map_or(1.0, |l| {
        let q = sigma / l;
        ((q * q).exp() * 2.0 * (1.0 - phi(q * std::f64::consts::SQRT_2))).clamp(0.2, 1.0)
    });
    Ragged { sd_um: (variance / left).sqrt() * px * 1000.0, correlation_um: length.map(|l| l * px * 1000.0), autocorrelation, per_value }
}

/// Both edges' mean, `[lag in µm, correlation]`.
fn autocorrelation(edges: &[Ragged], px: f64) -> Vec<[f64; 2]> {
    let shown: Vec<&Vec<f64>> = edges.iter().map(|e| &e.autocorrelation).filter(|a| !a.is_empty()).collect();
    let lags = shown.iter().map(|a| a.len()).min().unwrap_or(0);
    let digits = |v: f64| (v * 1e4).round() / 1e4;
    let mean = |k: usize| shown.iter().map(|a| a[k]).sum::<f64>() / shown.len() as f64;
    (0..lags).step_by((lags / LAGS).max(1)).map(|k| [digits(k as f64 * px * 1000.0), digits(mean(k))]).collect()
}

/// Residuals about the line's smooth middle, gaps left out.
fn about(edge: &[f64], middle: &Middle) -> Vec<f64> {
    let off: Vec<f64> = edge.iter().zip(&middle.at).map(|(e, m)| e - m).filter(|v| v.is_finite()).collect();
    let mean = off.iter().sum::<f64>() / off.len().max(1) as f64;
    off.into_iter().map(|v| v - mean).collect()
}

/// What taking out noise and blur leaves unsure of raggedness, as a share (from simulated scans).
const MODEL_SHARE: f64 = 0.04;

/// The 95 % interval of a standard deviation from so many independent values, and what its model leaves unsure. χ² by Wilson
/// and Hilferty (1931).
fn sd_interval(sd: f64, freedom: f64) -> [f64; 2] {
    let n = freedom.max(1.0);
    let chi2 = |z: f64| n * (1.0 - 2.0 / (9.0 * n) + z * (2.0 / (9.0 * n)).sqrt()).max(0.05).powi(3);
    [1.96, -1.96].map(|z: f64| {
        let by_number = 0.5 * (n / chi2(z)).ln();
        sd * (by_number.hypot(1.96 * MODEL_SHARE) * -z.signum()).exp()
    })
}

/// Six parts of the body, their spread, and Student's t for five degrees of freedom.
fn blurriness_interval(s: &Straight, from: usize, to: usize, ink: &InkLevel) -> [f64; 2] {
    const PARTS: usize = 6;
    const T: f64 = 2.571;
    let part = (to - from) / PARTS;
    let each: Vec<f64> = (0..PARTS).map(|i| blurriness(&s.profile_of(from + i * part, from + (i + 1) * part), ink)).collect();
    let half = T * mean_sd(&each).map_or(0.0, |m| m.1) / (PARTS as f64).sqrt();
    let whole = blurriness(s.mean_profile(), ink);
    [(whole - half).max(0.0), whole + half]
}

/// The 10 % to 90 % distance of a mean edge, px, both edges averaged.
fn blurriness(profile: &[f64], ink: &InkLevel) -> f64 {
    let top = profile.iter().copied().fold(0.0, f64::max).min(ink.absorptance).max(1e-6);
    let mid = profile.len() / 2;
    let crossing = |level: f64, right: bool| {
        let mut r = mid;
        while r > 0 && r + 1 < profile.len() {
            let next = if right { r + 1 } else { r - 1 };
            if profile[r] >= level && profile[next] < level {
                return ((r as f64 - mid as f64).abs() + (profile[r] - level) / (profile[r] - profile[next])) / ACROSS;
            }
            r = next;
        }
        0.0
    };
    [false, true].iter().map(|&side| crossing(0.1 * top, side) - crossing(0.9 * top, side)).sum::<f64>() / 2.0
}

/// The straightened line for the eye: at most 1600 columns, coverage 0…1.
fn strip(s: &Straight, ink: &InkLevel) -> Strip {
    let (first, last) = s.span;
    let step = (((last - first) as f64 / 1600.0).ceil() as usize).max(1);
    let across = ACROSS as usize * step;
    let (columns, rows) = ((last - first) / step, s.rows / across);
    let mut data = Vec::with_capacity(columns * rows);
    for r in 0..rows {
        for k in 0..columns {
            let mut sum = 0.0;
            for rr in 0..across {
                for kk in 0..step {
                    sum += s.data[(r * across + rr) * s.columns + first + k * step + kk];
                }
            }
            data.push((f64::from(sum) / (across * step) as f64 / ink.absorptance).clamp(0.0, 1.0) as f32);
        }
    }
    Strip { columns, rows, px_mm: s.px_mm * step as f64, data }
}
