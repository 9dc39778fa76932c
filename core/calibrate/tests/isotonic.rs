//! Isotonic regression against scikit-learn; values by tests/reference/make.py.

use eddymist_calibrate::isotonic::regression;

#[test]
fn pooled_values_are_scikit_learns() {
    let cases: Vec<serde_json::Value> = serde_json::from_str(include_str!("../../../tests/reference/isotonic.json")).expect("golden values");
    for case in cases {
        let row = |v: &serde_json::Value| -> Vec<f64> { v.as_array().expect("a list").iter().filter_map(|x| x.as_f64()).collect() };
        let points: Vec<(f64, f64, f64)> = case["points"].as_array().expect("points").iter().map(row).map(|p| (p[0], p[1], p[2])).collect();
        for (ours, theirs) in regression(&points).iter().zip(row(&case["fitted"])) {
            assert!((ours - theirs).abs() < 1e-9);
        }
    }
}
