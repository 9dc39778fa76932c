//! What pairs of pressure and ink are made into: a response on the pen's own scale, and by how much another response was off it.

use eddymist_calibrate::{
    PenCard, PressurePairs,
    pairs::{response_on_card, responses_off},
};
use eddymist_ink::Curve;
use proptest::prelude::*;
use serde_json::json;

/// A card whose pen is `thin` at feather and gains `more`, the later the greater `late` is.
fn card(thin: f64, more: f64, late: f64) -> PenCard {
    let at = |k: i32| 0.25 * f64::from(k);
    let width = |k: i32| json!({"effort": at(k), "width_mm": thin + more * at(k).powf(late), "sd_mm": 0.02, "lines": 6});
    let text = json!({"format":"eddymist/pen-card","version":1,"name":"a pen","resolution_dpi":600.0,"widths_by_effort":(0..5).map(width).collect::<Vec<_>>(),"warnings":[]});
    PenCard::from_json(&text.to_string()).expect("a card")
}

/// Pairs of a hand and tablet whose raw pressure at an effort is `raw`, with a pen of that card.
fn pairs(card: &PenCard, raw: impl Fn(f64) -> f64) -> PressurePairs {
    let knots: Vec<[f64; 2]> = card.widths_by_effort.iter().flatten().map(|w| [w.effort, w.width_mm]).collect();
    let pen = Curve::new(&knots).expect("knots");
    let efforts: Vec<f64> = (0..=8).map(|k| f64::from(k) / 8.0).collect();
    let widths: Vec<[f64; 2]> = efforts.iter().map(|e| [raw(*e), pen.value(*e)]).collect();
    let pair = |(k, w): (usize, &[f64; 2])| json!({"stroke":k,"t_s":0.1 * k as f64,"raw":w[0],"speed_mm_s":60.0,"direction_deg":0.0,"width_mm":w[1],"x_mm":1.0,"y_mm":1.0});
    let response: Vec<[f64; 2]> = efforts.iter().map(|e| [raw(*e), *e]).collect();
    let text = json!({"format":"eddymist/pressure-pairs","version":1,"way":"over","pairs":widths.iter().enumerate().map(pair).collect::<Vec<_>>(),"lag_ms":0.0,
        "registration_mm":{"median":0.1,"p95":0.3},"response":response,"scale":"widths","widths":widths,"efforts_off":[],"placement":[1.0,0.0,0.0,0.0,1.0,0.0],
        "not_gone_over":0.0,"dropouts":0,"warnings":[]});
    PressurePairs::from_json(&text.to_string()).expect("pairs")
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    /// The response by a card is the hand's own: the effort at which the pen is as wide as the pairs have it.
    #[test]
    fn a_response_is_the_effort_at_which_the_pen_is_as_wide(thin in 0.1f64..0.6, more in 0.2f64..2.0, late in 0.7f64..2.0, first in 0.02f64..0.2, gain in 0.3f64..0.75, bend in 0.6f64..1.6) {
        let card = card(thin, more, late);
        let raw = |e: f64| first + gain * e.powf(bend);
        let pairs = pairs(&card, raw);
        let response = response_on_card(&pairs, &card).expect("a response");
        prop_assert!(response.windows(2).all(|w| w[1][0] > w[0][0] && w[1][1] > w[0][1]) && response.len() <= 9);
        let told = Curve::new(&response).expect("knots");
        for k in 0..=8 {
            let effort = f64::from(k) / 8.0;
            prop_assert!((told.value(raw(effort)) - effort).abs() < 2e-3, "{} for {effort}", told.value(raw(effort)));
        }
        // A hand whose five efforts are spaced otherwise is off by just that, and one that spaces them so is off by nothing.
        let uneven = |e: f64| e + 0.12 * (std::f64::consts::PI * e).sin();
        let named: Vec<[f64; 2]> = (0..=8).map(|k| f64::from(k) / 8.0).map(|e| [raw(uneven(e).min(1.0)), e]).filter(|k| k[0] < raw(1.0)).collect();
        for [effort, off] in responses_off(&named, &response).into_iter().filter(|o| o[0] <= 0.75) {
            prop_assert!((off - (uneven(effort) - effort)).abs() < 0.012, "{off} at {effort}");
        }
        prop_assert!(responses_off(&response, &response).iter().all(|o| o[1].abs() < 1e-3));
    }

    /// However many pairs are kept, they are of all of it, in their order.
    #[test]
    fn thinned_pairs_are_evenly_of_all(most in 1usize..20) {
        let whole = pairs(&card(0.3, 1.0, 1.0), |e| 0.1 + 0.6 * e);
        let few = whole.clone().thinned(most);
        prop_assert!(!few.pairs.is_empty() && few.pairs.len() <= most.max(1) && few.pairs.windows(2).all(|w| w[0].t_s < w[1].t_s));
        prop_assert_eq!((&few.widths, &few.response), (&whole.widths, &whole.response));
    }
}

#[test]
fn a_pen_that_does_not_go_by_pressure_has_no_scale() {
    let even = card(0.5, 0.01, 1.0);
    let own = pairs(&card(0.3, 1.0, 1.0), |e| 0.1 + 0.6 * e);
    assert!(response_on_card(&own, &even).is_none());
    assert!(responses_off(&[], &own.response).is_empty() && responses_off(&own.response, &[]).is_empty());
    // Below the card's thinnest line there is one effort: nought, where its last pressure is.
    let wider = response_on_card(&own, &card(0.5, 0.8, 1.0)).expect("a response");
    assert!(wider[0][1].abs() < 1e-6 && wider[0][0] > 0.12 && wider.len() > 3, "{wider:?}");
}
