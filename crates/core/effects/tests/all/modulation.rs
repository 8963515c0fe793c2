//! Effects that move, against formulas that are written anew here: combs, tangents, Bessel functions.

use std::f64::consts::{PI, TAU};

use clear_bend_catalogue::NOTES;
use clear_bend_effects as effects;
use clear_bend_effects::modulation::{Swing, Wave};
use clear_bend_explaining::report::report;
use clear_bend_measures::modulation::{
    NotchMoment, Notches, Sidebands, SwingShape, SwingView, lowest_notches, sides, tone_sway,
};
use clear_bend_measures::passage::Passage;
use clear_bend_playing::path::{Chain, Path, Play, Stage};
use clear_bend_signals::SplitMix64;
use clear_bend_sound::Buffer;
use clear_bend_sound::cast;
use proptest::prelude::*;

use clear_bend_testing::{RATE, SETUP, near, signal, stage_with};

fn at_mix(effect: &str, mix: f64, params: &[(&str, f64)]) -> Stage {
    Stage { mix, ..stage_with(effect, params) }
}

const ROUND: Wave = Wave { lean: 0.0, edge: 0.0, random: 0.0, seed: 1 };

/// The names that the trade has for shapes are places of the one family: sine, triangle, saws and square.
#[test]
fn the_family_of_swings_has_the_shapes_of_the_textbook() {
    let triangle = Wave { edge: 1.0 / 3.0, ..ROUND };
    let (up, down) = (Wave { lean: 1.0, ..triangle }, Wave { lean: -1.0, ..triangle });
    let square = Wave { edge: 1.0, ..ROUND };
    for k in 0..1000 {
        let cycles = f64::from(k) / 250.0 - 1.0;
        let phase = cycles.rem_euclid(1.0);
        near(ROUND.at(cycles, 1.0), (TAU * cycles).sin(), 1e-12);
        let saw = 2.0 * (phase - (phase + 0.5).floor());
        near(triangle.at(cycles, 1.0), 4.0 * (0.5 - (phase - 0.25).rem_euclid(1.0)).abs() - 1.0, 1e-9);
        // Away from their edges, which take 3 ms of a second here, or 0.5 % of a cycle.
        if (phase - 0.5).abs() > 0.01 {
            near(up.at(cycles, 1.0), saw, 0.02);
        }
        // A saw that falls has its edge where the cycle begins.
        if phase > 0.01 && phase < 0.99 {
            near(down.at(cycles, 1.0), 1.0 - 2.0 * phase, 0.02);
        }
        if (phase - 0.5).abs() > 0.01 && phase > 0.01 && phase < 0.99 {
            near(square.at(cycles, 1.0), if phase < 0.5 { 1.0 } else { -1.0 }, 1e-9);
        }
    }
    // An edge takes 3 ms at any rate: at 20 Hz, 6 % of a cycle.
    let steepest = |rate_hz: f64| {
        let at = |k: usize| square.at(cast::real(k) / 100_000.0, rate_hz);
        (0..100_000).map(|k| (at(k + 1) - at(k)).abs()).fold(0.0, f64::max) * 100_000.0 * rate_hz
    };
    assert!(steepest(20.0) < 2.0 / 0.003 * 1.6 && steepest(1.0) < 2.0 / 0.005 * 1.6);
}

/// What is read off a swing: half of a cycle rises, or as much as its lean says; chance makes cycles differ.
#[test]
fn the_shape_of_a_swing_is_read() {
    let swing =
        |wave: Wave| SwingShape::of(&Swing { rate_hz: 2.0, wave, start: 0.25, apart: 0.25, held: None });
    let round = swing(ROUND);
    near(round.rate_hz, 2.0, 0.0);
    near(round.rising, 0.5, 0.01);
    // A sine is over nine tenths for 2 acos(0.9) / pi of the time.
    near(round.at_ends, 2.0 * 0.9f64.acos() / PI, 0.01);
    near(round.chance, 0.0, 1e-9);
    near(round.start, 1.0, 1e-12);
    near(round.together.unwrap(), 0.0, 1e-9);
    near(swing(Wave { lean: 0.5, ..ROUND }).rising, 0.75, 0.01);
    near(swing(Wave { edge: 1.0 / 3.0, ..ROUND }).at_ends, 0.1, 0.01);
    assert!(swing(Wave { edge: 1.0, ..ROUND }).at_ends > 0.98);
    let drawn = swing(Wave { random: 1.0, ..ROUND });
    assert!(drawn.chance > 0.8, "{}", drawn.chance);
    let against = Swing { rate_hz: 2.0, wave: ROUND, start: 0.0, apart: 0.5, held: None };
    near(SwingShape::of(&against).together.unwrap(), -1.0, 1e-9);
    let held = SwingShape::of(&Swing { held: Some(0.25), ..against });
    assert_eq!((held.rate_hz, held.together), (0.0, None));
    near(held.start, 1.0, 1e-12);
}

/// A note is as long as its share of a bar: an eighth at 120 is 4 cycles per second.
#[test]
fn a_rate_may_be_a_note() {
    let note = |name: &str| cast::real(NOTES.iter().position(|note| *note == name).unwrap());
    let rate = |params: &[(&str, f64)]| {
        let stage = stage_with("tremolo", params);
        stage.effect.swing(&stage.values).unwrap().rate_hz
    };
    near(rate(&[("rate_note", note("1/8"))]), 4.0, 1e-12);
    near(rate(&[("rate_note", note("2 bars")), ("tempo_bpm", 60.0)]), 0.125, 1e-12);
    near(rate(&[("rate_note", note("1/4 triplet")), ("tempo_bpm", 90.0)]), 90.0 / 60.0 * 1.5, 1e-12);
    near(rate(&[("rate_hz", 3.0)]), 3.0, 1e-12);
}

/// The comb of a delay t mixed equally: notches at (2k + 1)/(2t), turned over at k/t; 20 under 20 kHz at 1 ms, 40 at 2 ms.
#[test]
fn combs_have_their_notches_where_the_formula_has_them() {
    for (ms, polarity, count) in
        [(1.0, 0.0, 20), (2.0, 0.0, 40), (1.0, 1.0, 19), (2.0, 1.0, 39), (0.7, 0.0, 14)]
    {
        let stage = at_mix("flanger", 0.5, &[("delay_ms", ms), ("depth_ms", 0.0), ("polarity", polarity)]);
        let notches = Notches::of(&stage, 0.0, RATE).unwrap();
        // The one at 20 kHz itself is not under it.
        let found: Vec<f64> = notches.freqs_hz.into_iter().filter(|hz| *hz < 19_999.0).collect();
        assert_eq!(found.len(), count, "{ms} ms: {found:?}");
        for (k, hz) in found.iter().enumerate() {
            let k = cast::real(k) + if polarity == 0.0 { 0.5 } else { 1.0 };
            near(hz / (1000.0 * k / ms), 1.0, 0.002);
        }
        if ms == 1.0 {
            assert!(notches.depths_db.iter().all(|db| *db < -40.0));
        }
    }
}

/// A phaser of n sections: notches at f0 tan((2k - 1) pi / (2n)); the bilinear transform bends the axis, f to tan(pi f / rate).
#[test]
fn phasers_have_their_notches_at_the_tangents() {
    let tangents =
        |n: usize| (1..=n / 2).map(move |k| ((2.0 * cast::real(k) - 1.0) * PI / (2.0 * cast::real(n))).tan());
    for (choice, n) in [2, 4, 6, 8, 10, 12].into_iter().enumerate() {
        for (f0, rate) in [(300.0, RATE), (300.0, 44_100), (300.0, 96_000), (2000.0, RATE)] {
            let params = [("sections", cast::real(choice)), ("centre_hz", f0), ("depth_oct", 0.0)];
            let notches = Notches::of(&at_mix("phaser", 0.5, &params), 0.0, rate).unwrap();
            let bent = |hz: f64| (PI * hz / f64::from(rate)).tan();
            let expected: Vec<f64> =
                tangents(n).map(|tan| (bent(f0) * tan).atan() / PI * f64::from(rate)).collect();
            assert_eq!(notches.freqs_hz.len(), n / 2, "{n}: {:?}", notches.freqs_hz);
            for ((found, bent), plain) in notches.freqs_hz.iter().zip(&expected).zip(tangents(n)) {
                near(found / bent, 1.0, 0.005);
                // Far under half the rate that is the formula of the analogue circuit itself.
                if f0 < 1000.0 && f0 * plain < f64::from(rate) / 45.0 {
                    near(found / (f0 * plain), 1.0, 0.005);
                }
            }
        }
    }
    // The table of measures.md.
    near(tangents(8).next_back().unwrap(), 5.0273, 1e-4);
}

/// Feedback raises the peaks by 1/(1 - g) over the wet sound without it.
#[test]
fn feedback_raises_peaks_by_the_formula() {
    for g in [0.3, 0.5, 0.8, 0.9, -0.7] {
        for (effect, own) in [
            ("flanger", vec![("delay_ms", 2.0), ("depth_ms", 0.0)]),
            ("phaser", vec![("centre_hz", 500.0), ("depth_oct", 0.0)]),
        ] {
            let stage = at_mix(effect, 1.0, &[own, vec![("feedback", g)]].concat());
            let peak_db = Notches::of(&stage, 0.0, RATE).unwrap().peak_db;
            near(peak_db, -20.0 * (1.0 - f64::abs(g)).log10(), 0.1);
        }
    }
}

/// d(t) = d0 + A sin(2 pi f t): the pitch is off by 1200 log2(1 + 2 pi f A) cents; 5 Hz and 0.5 ms give 27.0.
#[test]
fn a_vibrato_sways_by_the_formula() {
    for (hz, ms) in [(5.0, 0.5), (2.0, 1.0), (6.0, 0.2), (1.0, 3.0)] {
        let stage = at_mix("vibrato", 1.0, &[("rate_hz", hz), ("depth_ms", ms)]);
        let cents = tone_sway(&stage, RATE).unwrap().cents;
        // Up by the one, down by the other.
        let (up, down) = (1.0 + TAU * hz * ms / 1000.0, 1.0 - TAU * hz * ms / 1000.0);
        near(cents.unwrap(), 600.0 * (up / down).log2(), 0.1);
    }
    let stage = at_mix("vibrato", 1.0, &[("rate_hz", 5.0), ("depth_ms", 0.5)]);
    near(tone_sway(&stage, RATE).unwrap().cents.unwrap(), 27.0, 0.2);
}

/// A tone fc gets sidebands fc + k f of size J_k(2 pi fc A): J0 to J4 of 1 and 2 from Abramowitz and Stegun, table 9.1 and 9.2.
#[test]
fn sidebands_of_a_vibrato_are_bessel_functions() {
    for (index, bessel) in
        [(1.0, [0.7652, 0.4401, 0.1149, 0.0196, 0.0025]), (2.0, [0.2239, 0.5767, 0.3528, 0.1289, 0.0340])]
    {
        let depth_ms = 1000.0 * index / (TAU * 1000.0);
        for rate in [RATE, 44_100, 96_000] {
            let stage = at_mix("vibrato", 1.0, &[("rate_hz", 5.0), ("depth_ms", depth_ms)]);
            let lines = Sidebands::of(&stage, 1000.0, rate).unwrap();
            near(lines.tone_hz, 1000.0, 0.01);
            near(lines.rate_hz, 5.0, 0.01);
            for line in lines.lines.iter().filter(|line| line.order.abs() <= 3) {
                let size = bessel[usize::try_from(line.order.abs()).unwrap()];
                near(line.level_db.unwrap(), 20.0 * f64::log10(size), 0.1);
                near(line.freq_hz, 1000.0 + 5.0 * f64::from(line.order), 0.01);
            }
        }
    }
}

/// A tremolo of depth m has two lines of m/2: 6.02 dB under the tone at full depth.
#[test]
fn sidebands_of_a_tremolo_are_two() {
    for (depth, db) in [(1.0, -6.02), (0.5, -12.04), (0.1, -26.02)] {
        let stage = at_mix("tremolo", 1.0, &[("rate_hz", 4.0), ("depth", depth)]);
        let lines = Sidebands::of(&stage, 440.0, RATE).unwrap().lines;
        let at = |order: i32| lines.iter().find(|line| line.order == order).unwrap().level_db;
        near(at(1).unwrap() - at(0).unwrap(), db, 0.02);
        near(at(-1).unwrap() - at(0).unwrap(), db, 0.02);
        assert!(at(2).is_none_or(|db| db < -80.0), "{:?}", at(2));
        // The level sways between (1 - m)/(1 + m) and 1: its ripple is m.
        near(tone_sway(&stage, RATE).unwrap().ripple, depth, 0.01);
    }
    // The loudest moment is as loud as before.
    let loudest = run(&at_mix("tremolo", 1.0, &[("rate_hz", 4.0), ("depth", 1.0)]), &noise(RATE as usize), 0);
    assert!(
        loudest[0]
            .iter()
            .zip(&noise(RATE as usize))
            .all(|(after, before)| after.abs() <= before.abs() + 1e-6)
    );
}

/// White noise, the same every time.
fn noise(frames: usize) -> Vec<f32> {
    let mut random = SplitMix64::new(7, 0);
    (0..frames).map(|_| cast::sample(0.25 * random.bipolar())).collect()
}

/// A sound into both sides of a stage, from a place of the passage on.
fn run(stage: &Stage, sound: &[f32], at: usize) -> [Vec<f32>; 2] {
    let mut chain = Chain::new(&Path { stages: vec![stage.clone()] }, SETUP);
    let (mut left, mut right) = (sound.to_vec(), sound.to_vec());
    chain.process(&mut [&mut left, &mut right], at);
    [left, right]
}

/// A cycle later, from any place jumped to, the same samples: the phase follows the passage.
#[test]
fn the_same_place_of_the_cycle_sounds_the_same() {
    let sound = noise(30_000);
    for effect in ["chorus", "flanger", "phaser", "vibrato", "tremolo", "auto-pan"] {
        let stage = at_mix(effect, 0.5, &[("rate_hz", 2.0), ("apart_deg", 90.0)]);
        // Half a second is a cycle: 24,000 samples.
        let (now, later) = (run(&stage, &sound, 5000), run(&stage, &sound, 5000 + 7 * 24_000));
        for (a, b) in now.iter().flatten().zip(later.iter().flatten()) {
            near(f64::from(*a), f64::from(*b), 1e-6);
        }
        // Elsewhere in the cycle it is something else.
        let other = run(&stage, &sound, 9000);
        let differs = now[0].iter().zip(&other[0]).any(|(a, b)| (a - b).abs() > 0.01);
        assert!(differs, "{effect}");
        // Jumped to while it runs: after what is left of before, the same.
        let mut chain = Chain::new(&Path { stages: vec![stage.clone()] }, SETUP);
        let (mut l, mut r) = (noise(8000), noise(8000));
        chain.process(&mut [&mut l, &mut r], 0);
        let (mut left, mut right) = (vec![0.0; 8000], vec![0.0; 8000]);
        chain.process(&mut [&mut left, &mut right], 40_000);
        let (mut left, mut right) = (sound.clone(), sound.clone());
        chain.process(&mut [&mut left, &mut right], 48_000 + 5000);
        for (a, b) in now[0].iter().zip(&left).skip(12_000) {
            near(f64::from(*a), f64::from(*b), 1e-4);
        }
    }
}

/// Held still, it is a filter that does not change, and the one that is predicted: within 0.05 dB.
#[test]
fn held_still_it_is_what_the_formula_says() {
    for (cycles, swung) in [(0.0f64, 0.0), (0.25, 1.0), (0.625, -(0.5f64.sqrt())), (0.75, -1.0)] {
        let params = [("delay_ms", 2.0), ("depth_ms", 0.8), ("hold", 1.0), ("hold_deg", 360.0 * cycles)];
        let stage = at_mix("flanger", 0.5, &params);
        let mut click = vec![0.0f32; 4096];
        click[0] = 1.0;
        let early = run(&stage, &click, 0);
        assert_eq!(early, run(&stage, &click, 123_457));
        let delay_s = (2.0 + 0.8 * swung) / 1000.0;
        for hz in [100.0, 333.0, 1000.0, 4321.0, 9000.0, 15_000.0, 18_000.0] {
            let turn = TAU * hz / f64::from(RATE);
            let (re, im) = early[0].iter().enumerate().fold((0.0, 0.0), |(re, im), (n, x)| {
                let (sin, cos) = (turn * cast::real(n)).sin_cos();
                (re + f64::from(*x) * cos, im - f64::from(*x) * sin)
            });
            let expected = (PI * hz * delay_s).cos().abs();
            // In a notch, decibels say nothing.
            if expected > 0.1 {
                near(20.0 * (re.hypot(im) / expected).log10(), 0.0, 0.05);
            }
        }
    }
}

/// A fixed delay between two samples is flat within 0.1 dB up to 18 kHz at 48 kHz.
#[test]
fn delays_between_samples_are_flat() {
    for part in [0.1, 0.25, 0.5, 0.77] {
        let delay_ms = (100.0 + part) / 48.0;
        let stage = at_mix("flanger", 1.0, &[("delay_ms", delay_ms), ("depth_ms", 0.0)]);
        let mut click = vec![0.0f32; 512];
        click[0] = 1.0;
        let out = run(&stage, &click, 0);
        for k in 0..=180 {
            let turn = TAU * 100.0 * f64::from(k) / 48_000.0;
            let (re, im) = out[0].iter().enumerate().fold((0.0, 0.0), |(re, im), (n, x)| {
                let (sin, cos) = (turn * cast::real(n)).sin_cos();
                (re + f64::from(*x) * cos, im - f64::from(*x) * sin)
            });
            near(20.0 * re.hypot(im).log10(), 0.0, 0.1);
            // Its delay is what is set: the phase at low frequencies.
            if k == 20 {
                near(
                    -im.atan2(re),
                    (turn * (100.0 + part)).rem_euclid(TAU)
                        - if turn * (100.0 + part) % TAU > PI { TAU } else { 0.0 },
                    2e-3,
                );
            }
        }
    }
}

/// What stays the same in an auto-pan: the squares of both sides, or their sum; a tremolo with its sides against each other stands
/// still in mono.
#[test]
fn panning_laws_keep_what_they_promise() {
    let ones = vec![0.5f32; 60_000];
    let both = |stage: &Stage| run(stage, &ones, 0);
    let power = both(&at_mix("auto-pan", 1.0, &[("rate_hz", 3.0), ("depth", 1.0)]));
    let sum = both(&at_mix("auto-pan", 1.0, &[("rate_hz", 3.0), ("depth", 0.8), ("law", 1.0)]));
    let tremolo = both(&at_mix("tremolo", 1.0, &[("rate_hz", 3.0), ("depth", 1.0), ("apart_deg", 180.0)]));
    for i in 0..60_000 {
        let of = |sides: &[Vec<f32>; 2]| (f64::from(sides[0][i]), f64::from(sides[1][i]));
        let (l, r) = of(&power);
        near(l * l + r * r, 0.5, 1e-4);
        let (l, r) = of(&sum);
        near(l + r, 1.0, 1e-4);
        let (l, r) = of(&tremolo);
        near(l + r, 0.5, 1e-4);
    }
    let ripple = |law: f64| {
        tone_sway(&at_mix("auto-pan", 1.0, &[("rate_hz", 3.0), ("law", law)]), RATE).unwrap().sum_ripple
    };
    assert!(ripple(1.0) < 0.001 && ripple(0.0) > 0.05, "{} {}", ripple(1.0), ripple(0.0));
}

/// The lowest notch of a comb goes from 1/(2 (t + d)) to 1/(2 (t - d)): one and a half milliseconds and a half give one octave.
#[test]
fn notches_travel_as_the_delay_does() {
    let stage = at_mix("flanger", 0.5, &[("delay_ms", 1.5), ("depth_ms", 0.5), ("rate_hz", 1.0)]);
    let lowest: Vec<f64> = lowest_notches(&stage, 16, RATE).into_iter().flatten().collect();
    let (low, high) = lowest.iter().fold((f64::MAX, 0.0f64), |(a, b), x| (a.min(*x), b.max(*x)));
    near(low, 250.0, 2.0);
    near(high, 500.0, 2.0);
}

/// Common practice: voices that stand apart decorrelate the sides, and more voices ripple less than one.
#[test]
fn voices_spread_and_smooth() {
    let chorus = |voices: f64, width: f64| {
        at_mix("chorus", 0.5, &[("voices", voices), ("width", width), ("rate_hz", 2.0)])
    };
    assert!(sides(&chorus(4.0, 0.0), RATE).unwrap() > 0.999);
    assert!(sides(&chorus(4.0, 1.0), RATE).unwrap() < 0.9);
    let ripple = |voices: f64| tone_sway(&chorus(voices, 0.0), RATE).unwrap().ripple;
    assert!(ripple(1.0) > 0.8, "{}", ripple(1.0));
    assert!(ripple(8.0) < ripple(1.0), "{} {}", ripple(8.0), ripple(1.0));
}

/// Feedback at its ends, loud, at all rates, with everything that moves: bounded, and gone when it is over.
#[test]
fn feedback_at_its_ends_stays_within_bounds() {
    for effect in ["chorus", "flanger", "phaser"] {
        for rate in [8_000, 48_000, 96_000] {
            let stage = stage_with(effect, &[]);
            let most = stage.effect.params.iter().find(|p| p.id == "feedback").unwrap().max;
            for g in [-most, most] {
                let stage = at_mix(effect, 1.0, &[("feedback", g), ("rate_hz", 20.0), ("random", 1.0)]);
                let tone = |i: usize| cast::sample((TAU * 400.0 * cast::real(i) / f64::from(rate)).sin());
                let sound: Vec<f32> = (0..cast::frames(2.0, rate)).map(tone).collect();
                let buffer = Buffer::new(rate, vec![sound.clone(), sound]).unwrap();
                let after = clear_bend_playing::render::render(&Path { stages: vec![stage] }, &buffer);
                let highest = after.after.channels().iter().flatten().fold(0.0f32, |a, x| a.max(x.abs()));
                // 1/(1 - g), by the root of the voices and of two for a side, and no more.
                assert!(
                    highest.is_finite() && f64::from(highest) < 2.5 / (1.0 - most),
                    "{effect} {rate} {g}: {highest}"
                );
            }
        }
    }
}

/// What is said is what is measured: the comb of 1 ms, its way, the seam of the loop, and what is held.
#[test]
fn movements_are_told() {
    let noise = signal("white-noise", &[("seconds", 2.0)], 2);
    let said = |stage: Stage, play: Play| {
        let passage = Passage::played(noise.clone(), play);
        let (_, report) = report(&Path { stages: vec![stage] }, &passage);
        report.sentences.iter().map(ToString::to_string).collect::<Vec<_>>().join(" ")
    };
    let flanger = [("delay_ms", 1.0), ("depth_ms", 0.5), ("rate_hz", 0.5)];
    let told = said(at_mix("flanger", 0.5, &flanger), Play::Round);
    let expected = "20 notches under 20 kHz, 1.00 kHz apart, the lowest at 500 Hz; it travels from 333 Hz to 1.00 kHz and back in 2.00 s.";
    assert!(told.contains(expected), "{told}");
    assert!(!told.contains("seam"), "{told}");
    // 0.6 Hz: 1.2 cycles go into two seconds; at 0.5 Hz it would be one.
    let told = said(at_mix("flanger", 0.5, &[("rate_hz", 0.6)]), Play::Round);
    assert!(
        told.contains("The loop holds 1.20 cycles") && told.contains("at 0.50 Hz whole ones would fit"),
        "{told}"
    );
    assert!(!said(at_mix("flanger", 0.5, &[("rate_hz", 0.6)]), Play::Once).contains("seam"));
    let told = said(at_mix("phaser", 0.5, &[("rate_hz", 0.01), ("sections", 0.0)]), Play::Round);
    assert!(told.contains("One notch, at ") && told.contains("Only 2 % of a cycle is heard"), "{told}");
    let told = said(at_mix("flanger", 0.5, &[("hold", 1.0), ("hold_deg", 90.0)]), Play::Round);
    assert!(
        told.contains("It is held still at 90\u{b0} of its cycle.") && !told.contains("travels"),
        "{told}"
    );
    let told = said(at_mix("vibrato", 1.0, &[("rate_hz", 5.0), ("depth_ms", 0.5)]), Play::Round);
    assert!(told.contains("sways by 27.2 cents to either side, 5.00 times a second"), "{told}");
    let told = said(at_mix("tremolo", 1.0, &[("rate_hz", 4.0), ("depth", 0.5)]), Play::Round);
    // From 1 to (1 - 0.5)/(1 + 0.5): 9.5 dB.
    assert!(told.contains("The level of a held tone sways by 9.5 dB, 4.00 times a second"), "{told}");
}

/// The swing that is drawn, and the response through a cycle, are those that are measured by themselves.
#[test]
fn pictures_show_what_is_measured() {
    let stage = at_mix("flanger", 0.5, &[("rate_hz", 0.75), ("start_deg", 90.0), ("apart_deg", 180.0)]);
    let swing = SwingView::of(&stage, 2.0, 400).unwrap();
    for (k, (left, right)) in swing.sides[0].iter().zip(&swing.sides[1]).enumerate() {
        let turn = TAU * (0.75 * (cast::real(k) + 0.5) / 200.0);
        near(*left, turn.cos(), 1e-9);
        near(*right, -turn.cos(), 1e-9);
    }
    near(swing.cycles, 1.5, 1e-12);
    near(swing.fitting_hz.unwrap(), 1.0, 1e-12);
    near(swing.cycle_s, 4.0 / 3.0, 1e-12);
    for place in (0..8).map(|k| f64::from(k) / 8.0) {
        let moment = NotchMoment::of(&stage, place, 200, RATE).unwrap();
        let alone = Notches::of(&stage, place, RATE).unwrap();
        near(moment.notches_hz[0] / alone.freqs_hz[0], 1.0, 0.005);
        assert_eq!(moment.gains_db.len(), 200);
    }
    let held = at_mix("flanger", 0.5, &[("hold", 1.0), ("hold_deg", 45.0)]);
    let moment = NotchMoment::of(&held, 0.7, 200, RATE).unwrap();
    assert_eq!(moment.held, Some(0.125));
    near(moment.notches_hz[0] / Notches::of(&held, 0.125, RATE).unwrap().freqs_hz[0], 1.0, 0.005);
    assert!(NotchMoment::of(&stage_with("gain", &[]), 0.0, 10, RATE).is_none());
    assert!(SwingView::of(&stage_with("gain", &[]), 1.0, 10).is_none());
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(40))]

    /// Whatever is set, a swing stays within its ends, and is the same at the same place.
    #[test]
    fn any_swing_stays_within_its_ends(
        lean in -1.0..=1.0f64, edge in 0.0..=1.0f64, random in 0.0..=1.0f64, seed in 0u64..10_000,
        rate_hz in 0.01..20.0f64, seconds in -10.0..600.0f64,
    ) {
        let wave = Wave { lean, edge, random, seed };
        let swing = Swing { rate_hz, wave, start: 0.3, apart: 0.1, held: None };
        let value = swing.at(seconds, 0.1);
        prop_assert!(value.abs() <= 1.0 + 1e-9);
        prop_assert_eq!(value, swing.at(seconds, 0.1));
        // It never jumps: within a tenth of a millisecond it goes by no more than an edge of 3 ms does, half a cosine from end to end.
        let most = (std::f64::consts::FRAC_PI_2 * 0.1 / 3.0).sin() * 2.0;
        prop_assert!((swing.at(seconds + 1e-4, 0.1) - value).abs() < 1.01 * most);
    }

    /// Whatever is set of whatever moves: bounded, finite, and read without a false number.
    #[test]
    fn anything_that_moves_can_be_measured(
        effect in prop::sample::select(vec!["chorus", "flanger", "phaser", "vibrato", "tremolo", "auto-pan"]),
        places in prop::collection::vec(0.0..=1.0f64, 24), rate in prop::sample::select(vec![8_000u32, 44_100, 48_000]),
        mix in 0.0..=1.0f64,
    ) {
        let found = effects::find(effect).unwrap();
        let mut stage = Stage { mix, ..Stage::of(found) };
        for ((value, param), place) in stage.values.iter_mut().zip(found.params).zip(&places) {
            *value = param.value_at(*place);
        }
        let notches = Notches::of(&stage, places[0], rate).unwrap();
        prop_assert!(notches.freqs_hz.iter().all(|hz| hz.is_finite() && *hz > 0.0 && *hz < 20_100.0));
        prop_assert!(notches.freqs_hz.windows(2).all(|pair| pair[0] < pair[1]));
        prop_assert!(!notches.mean_db.is_nan() && !notches.peak_db.is_nan());
        let sway = tone_sway(&stage, rate).unwrap();
        prop_assert!(sway.cents.is_none_or(f64::is_finite) && (0.0..=1.0).contains(&sway.ripple));
        if let Some(lines) = Sidebands::of(&stage, 440.0, rate) {
            prop_assert!(lines.lines.iter().all(|line| line.level_db.is_none_or(|db| db.is_finite() && db < 45.0)));
        }
    }
}
