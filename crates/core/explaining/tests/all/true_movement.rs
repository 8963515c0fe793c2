//! What is told of effects that move, against formulas written anew and slow readings of what they make of long tones.

use std::f64::consts::TAU;

use clear_bend_explaining::bend::{BendOf, USUAL_POINTS};
use clear_bend_explaining::report::report;
use clear_bend_measures::modulation::{ModulationSpectrum, Notches, Sidebands, sides, tone_sway};
use clear_bend_measures::passage::Passage;
use clear_bend_playing::path::{Chain, Path, Stage};
use clear_bend_sound::scope::Scope;
use proptest::prelude::*;
use rustfft::num_complex::Complex64;

use clear_bend_testing::{RATE, SETUP, cases, near, stage_with};

/// A comb whose delayed sound goes in again: z^-d / (1 - g z^-d) against the dry sound, at a mix.
fn comb(hz: f64, delay_s: f64, g: f64, mix: f64) -> f64 {
    let turned = Complex64::from_polar(1.0, -TAU * hz * delay_s);
    (1.0 - mix + mix * turned / (1.0 - g * turned)).norm()
}

/// With feedback, there are as many notches as the delay has room for, evenly spaced, and peaks as high as the formula has them; where the
/// sound goes round longer than it is listened to, no notch is told.
#[test]
fn feedback_invents_no_notches() {
    for (delay_ms, feedback) in [(20.0, 0.98), (20.0, 0.9), (5.0, 0.8), (2.0, 0.85), (8.0, 0.6)] {
        let stage = Stage {
            mix: 0.5,
            ..stage_with("flanger", &[("delay_ms", delay_ms), ("feedback", feedback), ("depth_ms", 0.0)])
        };
        let found = Notches::of(&stage, 0.0, RATE).unwrap();
        let wanted: Vec<f64> = (0..)
            .map(|k| (2.0 * f64::from(k) + 1.0) / (2.0 * delay_ms / 1000.0))
            .take_while(|hz| *hz < 20_000.0)
            .filter(|hz| *hz > 20.0)
            .collect();
        assert_eq!(found.freqs_hz.len(), wanted.len(), "{delay_ms} ms, {feedback}");
        for (found, wanted) in found.freqs_hz.iter().zip(&wanted) {
            assert!((found / wanted - 1.0).abs() < 0.005, "{found} for {wanted}");
        }
        // Up to 2 kHz a delay between samples is as good as one of whole samples.
        let highest = (0..200_000)
            .map(|k| 20.0 + 0.01 * f64::from(k))
            .map(|hz| comb(hz, delay_ms / 1000.0, feedback, 0.5))
            .fold(0.0, f64::max);
        let tolerance = if feedback.abs() > 0.95 { 2.5 } else { 0.5 };
        near(found.peak_db, 20.0 * highest.log10(), tolerance);
    }
    // All-passes: a notch for every two sections at f0 tan((2k - 1) pi / 2n), whatever goes in again at a mix of (1 + g)/(2 + g).
    let phaser = Stage {
        mix: 1.8 / 2.8,
        ..stage_with(
            "phaser",
            &[("centre_hz", 200.0), ("sections", 5.0), ("feedback", 0.8), ("depth_oct", 0.0)],
        )
    };
    let found = Notches::of(&phaser, 0.0, RATE).unwrap();
    assert!((5..=6).contains(&found.freqs_hz.len()), "{:?}", found.freqs_hz);
}

/// The pitch of a delay that sways by A at f: 1200 log2(1 + 2 pi f A) up and 1200 log2(1 - 2 pi f A) down, without a fold.
#[test]
fn far_sways_do_not_fold() {
    for (rate_hz, depth_ms) in [(8.0, 10.0), (8.0, 5.0), (3.0, 10.0), (5.5, 1.0), (0.05, 5.0), (16.0, 10.0)] {
        let stage = stage_with("vibrato", &[("rate_hz", rate_hz), ("depth_ms", depth_ms)]);
        let sway = tone_sway(&stage, RATE).unwrap();
        let share = TAU * rate_hz * depth_ms / 1000.0;
        println!("{rate_hz} Hz, {depth_ms} ms: {sway:?}");
        if share > 0.96 {
            assert!(sway.cents.is_none(), "at its fastest it stands still: {sway:?}");
            continue;
        }
        let wanted = 600.0 * ((1.0 + share) / (1.0 - share)).log2();
        near(sway.cents.unwrap(), wanted, 0.02 * wanted + 0.2);
        assert!(sway.ripple < 0.01, "a delay has no ripple: {}", sway.ripple);
    }
}

/// Whole cycles are looked at, however slow: a tremolo of depth m ripples by m.
#[test]
fn slow_movement_is_seen_whole() {
    for rate_hz in [0.01, 0.05, 0.3, 4.0] {
        let tremolo = stage_with("tremolo", &[("rate_hz", rate_hz), ("depth", 0.8)]);
        near(tone_sway(&tremolo, RATE).unwrap().ripple, 0.8, 0.005);
    }
    // One line beside the constant, and no second one that is not there.
    let slow = stage_with("tremolo", &[("rate_hz", 0.05), ("depth", 0.8)]);
    let seen = ModulationSpectrum::of_tone(&slow, 997.0, RATE).unwrap();
    assert!(seen.marks.iter().all(|mark| mark.depths[1] < 0.01), "{:?}", seen.marks);
}

/// Of noise, both sides of a chorus are equally loud, with any number of voices.
#[test]
fn a_chorus_does_not_lean() {
    for voices in 1..=8 {
        let stage =
            Stage { mix: 1.0, ..stage_with("chorus", &[("voices", f64::from(voices)), ("rate_hz", 1.0)]) };
        let noise = clear_bend_testing::signal("white-noise", &[("seconds", 20.0)], 1);
        let side = &noise.channels()[0];
        let mut sides = [side.clone(), side.clone()];
        let [l, r] = &mut sides;
        Chain::new(&Path { stages: vec![stage] }, SETUP).process(&mut [l, r], 0);
        let energy = |side: &[f32]| side[4800..].iter().map(|x| f64::from(*x).powi(2)).sum::<f64>();
        near(10.0 * (energy(&sides[0]) / energy(&sides[1])).log10(), 0.0, 0.1);
    }
}

/// What works on one side only, or on the side, is measured there.
#[test]
fn every_scope_is_reached() {
    for scope in Scope::ALL {
        let on = |stage: Stage| Stage { scope, ..stage };
        let tremolo = on(stage_with("tremolo", &[("rate_hz", 4.0), ("depth", 0.5)]));
        near(tone_sway(&tremolo, RATE).unwrap().ripple, 0.5, 0.005);
        let flanger =
            on(Stage { mix: 0.5, ..stage_with("flanger", &[("delay_ms", 1.0), ("depth_ms", 0.0)]) });
        let found = Notches::of(&flanger, 0.0, RATE).unwrap();
        assert_eq!(found.freqs_hz.len(), 20, "{scope}");
        let vibrato = on(stage_with("vibrato", &[("rate_hz", 5.0), ("depth_ms", 0.5)]));
        near(tone_sway(&vibrato, RATE).unwrap().cents.unwrap(), 27.2, 0.3);
        let lines = Sidebands::of(&vibrato, 1000.0, RATE).unwrap().lines;
        let carrier = lines.iter().find(|line| line.order == 0).unwrap();
        assert!(carrier.level_db.is_some_and(|db| db > -20.0), "{scope}: {carrier:?}");
        assert!(sides(&vibrato, RATE).is_some());
    }
}

/// Lines with feedback are not predicted as if every moment stood still.
#[test]
fn no_formula_is_given_where_none_holds() {
    let fast = Stage {
        mix: 0.5,
        ..stage_with("flanger", &[("rate_hz", 8.0), ("delay_ms", 10.0), ("depth_ms", 1.0), ("feedback", 0.7)])
    };
    let lines = Sidebands::of(&fast, 1000.0, RATE).unwrap().lines;
    assert!(lines.iter().all(|line| line.predicted_db.is_none()));
}

/// A chorus is told by its voices, not by hundreds of notches; the bend of a rate goes up as the pitch does.
#[test]
fn voices_are_told_as_voices() {
    let noise = clear_bend_testing::signal("white-noise", &[("seconds", 4.0)], 2);
    let passage = Passage::new(noise);
    let chorus = Path {
        stages: vec![stage_with("chorus", &[("voices", 3.0), ("delay_ms", 12.0), ("depth_ms", 1.5)])],
    };
    let told: Vec<String> = report(&chorus, &passage).1.sentences.iter().map(ToString::to_string).collect();
    println!("{told:#?}");
    assert!(
        told.iter().any(|s| s.contains("3 voices, the first of them 10.5 ms to 13.5 ms late")),
        "{told:?}"
    );
    assert!(!told.iter().any(|s| s.contains("notches")), "{told:?}");
    let one = Path {
        stages: vec![Stage { mix: 1.0, ..stage_with("vibrato", &[("rate_hz", 5.0), ("depth_ms", 3.0)]) }],
    };
    let bend = BendOf::new(&one, 0, "rate_hz").unwrap().measure(&passage, USUAL_POINTS);
    let told: Vec<f64> = bend.iter().filter_map(|point| point.outcome).collect();
    assert!(told.windows(2).all(|pair| pair[1] >= pair[0]), "{told:?}");
}

/// A slow reading of a tone through a delay that sways: the distance of its rises through zero.
fn slow_cents(sound: &[f32], rate_hz: u32, tone_hz: f64) -> Option<(f64, f64)> {
    let rises: Vec<f64> = sound
        .windows(2)
        .enumerate()
        .filter(|(_, pair)| pair[0] < 0.0 && pair[1] >= 0.0)
        .map(|(i, pair)| i as f64 + f64::from(pair[0]) / f64::from(pair[0] - pair[1]))
        .collect();
    let over = 3;
    let pitches = rises.windows(over + 1).map(|part| {
        let hz = over as f64 * f64::from(rate_hz) / (part[over] - part[0]);
        1200.0 * (hz / tone_hz).log2()
    });
    let (low, high) = pitches.fold((f64::MAX, f64::MIN), |(a, b), x| (a.min(x), b.max(x)));
    (rises.len() > 20).then_some((low, high))
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(cases(100)))]

    /// The pitch that is told is that of the rises through zero of a tone, at any rate, depth and sample rate.
    #[test]
    fn any_sway_is_told_as_it_is(
        rate_log in (0.2f64).ln()..12f64.ln(),
        depth_log in (0.05f64).ln()..8f64.ln(),
        rate_hz in prop::sample::select(vec![22_050u32, 44_100, 48_000, 96_000]),
        scope in prop::sample::select(Scope::ALL.to_vec()),
    ) {
        let (rate, depth_ms) = (rate_log.exp(), depth_log.exp());
        let stage = Stage { scope, ..stage_with("vibrato", &[("rate_hz", rate), ("depth_ms", depth_ms)]) };
        let share = TAU * rate * depth_ms / 1000.0;
        let told = tone_sway(&stage, rate_hz).unwrap().cents;
        prop_assert!(told.is_some() || share > 0.9, "{share}");
        prop_assume!(share < 0.8);
        let frames = (f64::from(rate_hz) * (0.3 + 2.0 / rate)) as usize;
        let tone = |gain: f32| -> Vec<f32> {
            (0..frames).map(|i| gain * (TAU * 1000.0 * i as f64 / f64::from(rate_hz)).sin() as f32).collect()
        };
        let mut sides = if scope == Scope::Side { [tone(0.5), tone(-0.5)] } else { [tone(0.5), tone(0.5)] };
        let [l, r] = &mut sides;
        let setup = clear_bend_effects::Setup { rate_hz, max_block: 512 };
        Chain::new(&Path { stages: vec![stage] }, setup).process(&mut [l, r], 0);
        let heard = &sides[usize::from(scope == Scope::Right)][(0.2 * f64::from(rate_hz)) as usize..];
        let (low, high) = slow_cents(heard, rate_hz, 1000.0).unwrap();
        let slow = 0.5 * (high - low);
        let told = told.unwrap();
        // Three waves of a tone are longer than what is read over.
        prop_assert!((told - slow).abs() < 1.0 + 0.04 * slow, "told {told}, slow {slow}, share {share}");
    }
}
