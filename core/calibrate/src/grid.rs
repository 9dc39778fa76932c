//! A grid of two numbers, made finer about its best: what a law of length and shape is fitted by.
//!
//! How: an even grid over both spans, three times, each time over a span narrowed about the best so far. Limits: a score with
//! several valleys of like depth may be left in the wrong one; lengths stay over 0.01, shapes over 0.05. Common practice, no source.

/// Where `score` is least: `(score, length, shape)`; `from` is what has to be beaten. Each side of the grid has `steps` steps and
/// the next one reaches `1 / shrink` of the span to either side of the best.
pub fn least(from: (f64, f64, f64), lengths: (f64, f64), shapes: (f64, f64), steps: u32, shrink: f64, score: impl Fn(f64, f64) -> f64) -> (f64, f64, f64) {
    let (mut best, mut spans) = (from, (lengths, shapes));
    let n = f64::from(steps);
    for _ in 0..3 {
        for i in 0..=steps {
            for j in 0..=steps {
                let length = spans.0.0 + (spans.0.1 - spans.0.0) * f64::from(i) / n;
                let shape = spans.1.0 + (spans.1.1 - spans.1.0) * f64::from(j) / n;
                let s = score(length, shape);
                if s < best.0 {
                    best = (s, length, shape);
                }
            }
        }
        let (l, s) = ((spans.0.1 - spans.0.0) / shrink, (spans.1.1 - spans.1.0) / shrink);
        spans = (((best.1 - l).max(0.01), best.1 + l), ((best.2 - s).max(0.05), best.2 + s));
    }
    best
}
