//! Strokes held against lines that they go over. Truth is what was drawn; invented cases, no source.

use eddymist_ink::{
    Sample, Stroke,
    gone_over::{Advice, gone_over},
};
use proptest::prelude::*;

fn sample(t_ms: f64, x: f64, y: f64) -> Sample {
    Sample { t_ms, x, y, pressure: Some(0.5), azimuth_deg: None, elevation_deg: None }
}

/// A wave of 60 mm.
fn wave(x: f64) -> f64 {
    20.0 + 5.0 * (x / 9.0).sin()
}

fn line(dy: f64) -> Vec<[f64; 2]> {
    (0..=60).map(|k| [10.0 + f64::from(k), wave(f64::from(k)) + dy]).collect()
}

/// Over the first line, so far beside it, at a speed along x that `slow` divides at each place.
fn over(beside: f64, speed: f64, slow: impl Fn(f64) -> f64) -> Stroke {
    let mut t = 0.0;
    let samples = (0..=300).map(|k| {
        let x = 0.2 * f64::from(k);
        t += 200.0 / speed * slow(x);
        sample(t, 10.0 + x, wave(x) + beside)
    });
    Stroke { samples: samples.collect(), zoom: 1.0, timed: true }
}

#[test]
fn what_a_stroke_is_told() {
    let lines = [line(0.0), line(15.0), Vec::new()];
    let of = |s: &Stroke| gone_over(s, &lines).expect("a stroke");
    let good = of(&over(0.4, 60.0, |_| 1.0));
    assert_eq!((good.advice, &good.lines[..]), (Advice::Good, &[0][..]));
    // Beside a slanting line a stroke is nearer than it is below it.
    assert!((0.33..=0.401).contains(&good.off_mm) && good.uneven < 0.2 && (good.speed_mm_s / 60.0 - 1.05).abs() < 0.1, "{good:?}");
    assert_eq!(of(&over(2.0, 60.0, |_| 1.0)).advice, Advice::Slower);
    assert_eq!(of(&over(2.0, 15.0, |_| 1.0)).advice, Advice::Nearer);
    assert_eq!(of(&over(0.3, 60.0, |x| if (x / 10.0) as i32 % 2 == 0 { 1.0 } else { 9.0 })).advice, Advice::Evenly);
    let elsewhere = of(&over(7.5, 60.0, |_| 1.0));
    assert_eq!((elsewhere.advice, elsewhere.lines.len()), (Advice::Elsewhere, 0));
    // Half of a line is not gone over; the hand's speed is its own where the view is larger.
    let mut half = over(0.0, 60.0, |_| 1.0);
    half.samples.truncate(150);
    assert!(of(&half).lines.is_empty());
    let zoomed = of(&Stroke { zoom: 2.0, ..over(0.4, 60.0, |_| 1.0) });
    assert!((zoomed.speed_mm_s / good.speed_mm_s - 2.0).abs() < 1e-9);
    assert!(gone_over(&Stroke { samples: half.samples[..3].to_vec(), ..half.clone() }, &lines).is_none());
    assert!(gone_over(&half, &[Vec::new()]).is_none());
}

proptest! {
    /// Whatever is drawn, figures are finite and the page may lie anywhere.
    #[test]
    fn a_page_may_lie_anywhere(places in prop::collection::vec((0.0f64..60.0, 0.0f64..60.0, 0.0f64..40.0), 2..40), by in prop::array::uniform2(-500.0f64..500.0)) {
        let mut t = 0.0;
        let at = |by: [f64; 2], t: &mut f64| Stroke {
            samples: places.iter().map(|(x, y, dt)| { *t += dt; sample(*t, x + by[0], y + by[1]) }).collect(),
            zoom: 1.0,
            timed: true,
        };
        let moved: Vec<[f64; 2]> = line(0.0).iter().map(|p| [p[0] + by[0], p[1] + by[1]]).collect();
        let (here, there) = (gone_over(&at([0.0; 2], &mut t), &[line(0.0)]), gone_over(&at(by, &mut t), &[moved]));
        prop_assert_eq!(here.is_some(), there.is_some());
        if let (Some(a), Some(b)) = (here, there) {
            prop_assert!(a.uneven.is_finite() && a.speed_mm_s.is_finite());
            prop_assert!((a.off_mm - b.off_mm).abs() < 1e-6 || a.off_mm == b.off_mm, "{} {}", a.off_mm, b.off_mm);
        }
    }
}
