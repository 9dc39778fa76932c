//! Errors of a tablet profile's figures over many seeds of simulated hands and devices whose laws are not those that are
//! fitted. One line a figure: name, median, 95th percentile, worst.

use eddymist_calibrate::profile;
use eddymist_measure::stats::quantile;
use eddymist_sim::stylus::{HANDS, TABLETS, warmup};
use rayon::prelude::*;

/// The table over `n` warm-ups of the steady hand on each tablet in turn.
pub fn table(n: u64) {
    const NAMES: [&str; 8] = [
        "activation",
        "full point, where its plateau is seen",
        "pressure steps, share",
        "report rate, share",
        "pressure noise, share",
        "position noise, share",
        "diagonal wobble, share",
        "hysteresis",
    ];
    let rows: Vec<[Option<f64>; 8]> = (0..n)
        .into_par_iter()
        .filter_map(|seed| {
            let t = &TABLETS[seed as usize % 4];
            let (hand, w) = (&HANDS[0], warmup(&HANDS[0], t, seed));
            let p = profile(&w, "x").ok()?;
            let share = |got: Option<f64>, want: f64| got.map(|g| (g / want - 1.0).abs());
            let steps = 1.0 / f64::from(t.steps - 1) / 12f64.sqrt();
            // The lightest press is what a device can be seen to report, once it is over its own threshold.
            let first = t.raw(hand.force(0.0)).max(1.0 / f64::from(t.steps - 1));
            let reached = p.full_point_seen.then(|| (p.full_point - t.raw(hand.force(1.0)).min(t.full_point)).abs());
            Some([
                Some((p.activation - first).abs()),
                reached,
                share(p.pressure_steps.map(f64::from), f64::from(t.steps)),
                share(Some(p.report_rate_hz), t.rate_hz),
                share(p.pressure_noise, t.pressure_noise.hypot(steps)),
                share(p.position_noise_um, 1000.0 * t.position_noise_mm),
                (t.wobble_mm[0] > 0.0).then(|| share(p.diagonal_wobble.map(|w| w.amplitude_um), 1000.0 * t.wobble_mm[0])).flatten(),
                p.hysteresis.map(|h| (h - t.hysteresis).abs()),
            ])
        })
        .collect();
    println!("{} warm-ups: median\t95th percentile\tworst\tof", rows.len());
    for (k, name) in NAMES.iter().enumerate() {
        let v: Vec<f64> = rows.iter().filter_map(|r| r[k]).collect();
        let q = |q: f64| quantile(&v, q).unwrap_or(f64::NAN);
        println!("{name}: {:.4}\t{:.4}\t{:.4}\t{}", q(0.5), q(0.95), q(1.0), v.len());
    }
}
