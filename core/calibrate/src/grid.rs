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

#[cfg(test)]
mod tests {
    use super::least;
    use proptest::prelude::*;

    proptest! {
        /// The bottom of a bowl is found to within the last grid's step, wherever it lies within the spans; what beats it stays.
        #[test]
        fn the_bottom_of_a_bowl_is_found(length in 0.5f64..9.5, shape in 0.3f64..1.9, deep in -3.0f64..3.0) {
            let bowl = |l: f64, s: f64| deep + (l - length).powi(2) + 4.0 * (s - shape).powi(2);
            let (score, l, s) = least((f64::INFINITY, 1.0, 1.0), (0.1, 10.0), (0.1, 2.0), 16, 6.0, bowl);
            // Steps of the third grid: the spans, twice narrowed to a third, in sixteen.
            prop_assert!((l - length).abs() < 9.9 / 9.0 / 16.0 && (s - shape).abs() < 1.9 / 9.0 / 16.0, "{l} of {length}, {s} of {shape}");
            prop_assert!((score - bowl(l, s)).abs() < 1e-12);
            prop_assert_eq!(least((deep - 1.0, 7.0, 0.5), (0.1, 10.0), (0.1, 2.0), 16, 6.0, bowl), (deep - 1.0, 7.0, 0.5));
        }
    }
}
