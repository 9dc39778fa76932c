//! `pairs N [PEN]`: pressure and ink of one and the same stroke, N pages of each way and pen, and how far off they are from the truth.

use eddymist_calibrate::pairs::Way;
use eddymist_measure::stats::quantile;
use eddymist_sim::paired::trial::{Off, Trial};
use rayon::prelude::*;

/// Prints median, 95th percentile and worst of each figure.
pub fn run(n: u64, only: Option<&str>) {
    for pen in ["steel-nib", "brush-pen", "chisel", "fineliner-05"].into_iter().filter(|p| only.is_none_or(|o| o == *p)) {
        for (way, name) in [(Way::Paper, "paper"), (Way::Over, "over")] {
            let all: Vec<Result<Off, String>> =
                (0..n).into_par_iter().map(|seed| Trial::by_seed(seed, pen).ok_or("no such pen".to_string())?.run(way)).collect();
            let good: Vec<&Off> = all.iter().filter_map(|o| o.as_ref().ok()).collect();
            let line = |what: &str, unit: &str, values: Vec<f64>| {
                if let (Some(m), Some(p), Some(w)) = (quantile(&values, 0.5), quantile(&values, 0.95), quantile(&values, 1.0)) {
                    println!("{name} {pen} {what} {unit} {m:.3} {p:.3} {w:.3}");
                }
            };
            println!("{name} {pen} refused pages {}", all.len() - good.len());
            if let Some((seed, why)) = all.iter().enumerate().find_map(|(k, o)| Some((k, o.as_ref().err()?))) {
                eprintln!("{name} {pen} seed {seed}: {why}");
            }
            let of = |f: &dyn Fn(&Off) -> f64| good.iter().map(|o| f(o)).collect::<Vec<_>>();
            line("width", "%", of(&|o| 100.0 * o.width[0]));
            line("width_p95", "%", of(&|o| 100.0 * o.width[1]));
            line("five_efforts", "%", of(&|o| 100.0 * o.five[0]));
            line("place", "mm", of(&|o| o.place_mm[0]));
            if way == Way::Over {
                line("lag", "ms", of(&|o| o.lag_ms.abs()));
            } else {
                line("pace", "%", good.iter().filter_map(|o| Some(100.0 * o.pace?)).collect());
            }
            line("angle", "degrees", good.iter().filter_map(|o| o.angle_deg).collect());
        }
    }
}
