//! Every control of every effect and signal: values, positions, texts and steps agree with each other.

use clear_bend_catalogue::Param;
use clear_bend_effects::offered::catalogue;
use proptest::prelude::*;

fn all_params() -> Vec<Param> {
    let catalogue = catalogue();
    let effects = catalogue.effects.iter().flat_map(|e| e.params.iter().copied().chain([e.mix]));
    let signals = catalogue.signals.iter().flat_map(|s| s.params.iter().copied());
    effects.chain(signals).collect()
}

proptest! {
    /// Position, value and text of every parameter agree with each other over its whole range.
    #[test]
    fn every_control_round_trips(position in 0f64..=1.0, steps in prop::sample::select(vec![-10.0, -1.0, -0.1, 0.1, 1.0, 10.0])) {
        for param in all_params() {
            let value = param.value_at(position);
            prop_assert!(param.check(value).is_ok(), "{} {value}", param.id);
            let typed = param.parse(&param.text(value)).unwrap();
            prop_assert!(typed == value || (typed - value).abs() <= 0.51 * param.grain(value), "{}: {value} read back as {typed}", param.id);
            let nudged = param.nudged(value, steps);
            let end = if steps > 0.0 { param.range().1 } else { param.range().0 };
            prop_assert!(value == end || (nudged - value) * steps > 0.0 || value.is_infinite(), "{}: {value} stuck", param.id);
        }
    }
}

#[test]
fn the_ends_of_every_control_are_the_ends_of_its_range() {
    for param in all_params() {
        let (min, max) = param.range();
        assert_eq!(param.value_at(0.0), min, "{}", param.id);
        assert_eq!(param.value_at(1.0), max, "{}", param.id);
        assert_eq!(param.check(param.default), Ok(param.default), "{}", param.id);
        assert!(param.check(f64::NAN).is_err());
    }
}
