//! What is shown of effects that move, by formula and measured, against formulas that are written anew here.

use std::f64::consts::{PI, TAU};
use std::time::Instant;

use clear_bend_effects::{ALL, Effect};
use clear_bend_measures::modulation::{
    ModulationSpectrum, NotchMoment, Notches, PitchView, Sidebands, Traces, predicted, predicted_notches,
    wave_looks,
};
use clear_bend_measures::{Closeness, Resolution};
use clear_bend_playing::path::Stage;
use clear_bend_signals::SplitMix64;
use clear_bend_sound::Buffer;
use clear_bend_sound::cast;
use proptest::prelude::*;

use clear_bend_testing::{RATE, near, stage_with};

fn at_mix(effect: &str, mix: f64, params: &[(&str, f64)]) -> Stage {
    Stage { mix, ..stage_with(effect, params) }
}

/// Bessel's function of the first kind by its integral (Abramowitz and Stegun 9.1.21).
fn bessel(order: i32, x: f64) -> f64 {
    let steps = 2000;
    let at = |k: i32| {
        (f64::from(order) * PI * (f64::from(k) + 0.5) / f64::from(steps)
            - x * (PI * (f64::from(k) + 0.5) / f64::from(steps)).sin())
        .cos()
    };
    (0..steps).map(at).sum::<f64>() / f64::from(steps)
}

/// The lines that the formula marks are Bessel's functions for a vibrato (table 9.1 of Abramowitz and Stegun: J0(1) = 0.7652,
/// J1(2) = 0.5767), and the two lines of half the depth for a tremolo; what is measured lies on them.
#[test]
fn predicted_lines_are_those_of_the_handbook() {
    near(bessel(0, 1.0), 0.765_198, 1e-6);
    near(bessel(1, 2.0), 0.576_725, 1e-6);
    for index in [1.0, 2.0, 5.0] {
        let tone_hz = 1000.0;
        let depth_ms = 1000.0 * index / (TAU * tone_hz);
        let vibrato = stage_with("vibrato", &[("rate_hz", 5.0), ("depth_ms", depth_ms)]);
        let found = Sidebands::of(&vibrato, tone_hz, RATE).unwrap();
        for line in &found.lines {
            let wanted =
                20.0 * bessel(line.order.abs(), TAU * found.tone_hz * depth_ms / 1000.0).abs().log10();
            if wanted > -70.0 {
                near(line.predicted_db.unwrap(), wanted, 0.01);
                near(line.level_db.unwrap(), wanted, if wanted > -45.0 { 0.1 } else { 0.5 });
            }
        }
    }
    let tremolo = stage_with("tremolo", &[("rate_hz", 4.0), ("depth", 1.0)]);
    for line in Sidebands::of(&tremolo, 440.0, RATE).unwrap().lines {
        match line.order {
            // Against a gain that is 1 at its highest.
            0 => near(line.predicted_db.unwrap(), -6.0206, 0.001),
            1 | -1 => near(line.predicted_db.unwrap(), -12.0412, 0.001),
            _ => assert!(line.predicted_db.is_none_or(|db| db < -80.0), "{line:?}"),
        }
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(40))]

    /// Any effect that moves, held at any place, has the response that its formula says, and its notches are where that says.
    #[test]
    fn held_still_every_effect_is_its_formula(
        which in 0usize..6,
        unit in prop::collection::vec(0.0f64..1.0, 32),
        place in 0.0f64..1.0,
        mix in 0.1f64..1.0,
        rate_hz in prop::sample::select(vec![44_100u32, 48_000, 96_000]),
    ) {
        let effect = moving(which);
        let values: Vec<f64> = effect.params.iter().zip(&unit).map(|(param, unit)| {
            let value = if param.id == "feedback" { 0.85 * (2.0 * unit - 1.0) } else { param.value_at(*unit) };
            if param.choices.is_empty() && param.step == 0.0 { value } else { value.round() }
        }).collect();
        let values = effect.held(&values, place).unwrap();
        let stage = Stage { mix, values, ..stage_with(effect.id, &[]) };
        let held = effect.swing(&stage.values).unwrap().held.unwrap();
        let moment = NotchMoment::of(&stage, held, 60, rate_hz).unwrap();
        let freqs: Vec<f64> = (1..60).map(|k| 150.0 * f64::from(k)).collect();
        let formula = predicted(&stage, held, &freqs, rate_hz).unwrap();
        let heard = response(&stage, &freqs, rate_hz);
        // A delay of a few samples is read with as many as there are: less well.
        let shortest = effect.delays(&stage.values).map_or(f64::MAX, |(sway, _)| {
            (0..sway.voices).map(|voice| sway.delay_ms_at(0.0, voice, 0)).fold(f64::MAX, f64::min)
        });
        let fed = effect.params.iter().position(|param| param.id == "feedback").map_or(0.0, |at| stage.values[at].abs());
        // What goes round is off as often as it does.
        let off = if shortest * f64::from(rate_hz) < 8000.0 { 0.12 } else { 0.003 / (1.0 - fed) };
        for ((hz, formula), heard) in freqs.iter().zip(&formula).zip(&heard) {
            let (formula, heard) = (formula.norm(), *heard);
            prop_assert!((formula - heard).abs() < off * (1.0 + formula), "{} at {hz} Hz: {formula} {heard} {:?}", effect.id, stage.values);
        }
        prop_assert_eq!((moment.gains_db.len(), moment.predicted_db.len()), (60, 60));
    }
}

/// The gain at some frequencies: the sum of the response to an impulse, turned back.
fn response(stage: &Stage, freqs: &[f64], rate_hz: u32) -> Vec<f64> {
    use clear_bend_effects::Setup;
    use clear_bend_playing::path::{Chain, Path};
    let mut chain = Chain::new(&Path { stages: vec![stage.clone()] }, Setup { rate_hz, max_block: 256 });
    let mut left = vec![0.0f32; 1 << 16];
    left[0] = 1.0;
    let mut right = left.clone();
    chain.process(&mut [&mut left, &mut right], 0);
    let at = |hz: &f64| {
        let turn = TAU * hz / f64::from(rate_hz);
        let (re, im) =
            left.iter().enumerate().filter(|(_, x)| **x != 0.0).fold((0.0, 0.0), |(re, im), (i, x)| {
                let (sin, cos) = (turn * cast::real(i)).sin_cos();
                (re + f64::from(*x) * cos, im - f64::from(*x) * sin)
            });
        re.hypot(im)
    };
    freqs.iter().map(at).collect()
}

/// Combs and phasers through a cycle: the formula's notches are those of the textbook, and noise finds them there.
#[test]
fn traces_follow_the_notches() {
    let begun = Instant::now();
    let flanger = at_mix("flanger", 0.5, &[("rate_hz", 0.25), ("depth_ms", 0.5), ("delay_ms", 1.0)]);
    let traces = Traces::of(&flanger, (96, 200), RATE).unwrap();
    println!("traces of 8 s of noise: {:?}", begun.elapsed());
    near(traces.seconds, 4.0, 1e-9);
    let (mut seen, mut far) = (0, 0.0f64);
    for column in 0..96 {
        let cycles = (f64::from(column) + 0.5) / 96.0;
        let delay_s = (1.0 + 0.5 * (TAU * cycles).sin()) / 1000.0;
        for (k, hz) in traces.predicted_hz[column as usize].iter().enumerate() {
            near(*hz, (cast::real(k) + 0.5) / delay_s, 0.01);
        }
        for (k, found) in traces.found_hz[column as usize].iter().enumerate() {
            let wanted = (cast::real(k) + 0.5) / delay_s;
            // The window spreads a notch that moves over the way that it goes meanwhile.
            if let Some(hz) = found {
                seen += 1;
                far = far.max((hz / wanted - 1.0).abs());
            }
        }
    }
    println!("notches found {seen} of {}, at most {far} away", 96 * 12);
    assert!(seen > 96 * 10 && far < 0.05);
    let phaser = at_mix(
        "phaser",
        0.5,
        &[("rate_hz", 2.0), ("depth_oct", 1.0), ("centre_hz", 1000.0), ("sections", 1.0)],
    );
    let traces = Traces::of(&phaser, (64, 200), RATE).unwrap();
    let half = |hz: f64| (PI * hz / f64::from(RATE)).tan();
    let mut seen = 0;
    for column in 0..64usize {
        let corner = 1000.0 * (TAU * (cast::real(column) + 0.5) / 64.0).sin().exp2();
        for (k, hz) in traces.predicted_hz[column].iter().enumerate() {
            let wanted = half(corner) * ((2.0 * cast::real(k) + 1.0) * PI / 8.0).tan();
            near(half(*hz) / wanted, 1.0, 0.001);
        }
        let pairs = traces.predicted_hz[column].iter().zip(&traces.found_hz[column]);
        seen +=
            pairs.filter(|(hz, found)| found.is_some_and(|found| (found / *hz - 1.0).abs() < 0.12)).count();
    }
    assert!(seen > 64 * 2 * 8 / 10, "{seen}");
}

/// Delay d0 + A sin(2 pi f t): the pitch follows its slope, 27.0 cents for 0.5 ms at 5 Hz (27.4 on the way down); measured by
/// the phase of a tone it is the same. Several voices are spread over the cycle.
#[test]
fn delays_and_pitches_are_drawn_as_they_are() {
    let vibrato = stage_with("vibrato", &[("rate_hz", 5.0), ("depth_ms", 0.5)]);
    let view = PitchView::of(&vibrato, 1.0, 400, RATE).unwrap();
    assert!(view.whole && view.voices.len() == 1);
    let most = |of: &[f64]| of.iter().fold(0.0f64, |most, x| most.max(*x));
    near(most(&view.voices[0].cents), 1200.0 * (1.0 + TAU * 5.0 * 0.0005f64).log2(), 0.1);
    let measured: Vec<f64> = view.measured_cents.iter().map(|cents| cents.unwrap()).collect();
    near(most(&measured), 1200.0 * (1.0 + TAU * 5.0 * 0.0005f64).log2(), 0.2);
    for (k, cents) in view.measured_cents.iter().enumerate() {
        let at = view.from_s + view.every_s * cast::real(k);
        let wanted = 1200.0 * (1.0 - TAU * 5.0 * 0.0005 * (TAU * 5.0 * at).cos()).log2();
        near(cents.unwrap(), wanted, 0.3);
    }
    let chorus = stage_with(
        "chorus",
        &[("voices", 3.0), ("rate_hz", 0.5), ("depth_ms", 2.0), ("delay_ms", 10.0), ("feedback", 0.4)],
    );
    let view = PitchView::of(&chorus, 4.0, 400, RATE).unwrap();
    for (voice, drawn) in view.voices.iter().enumerate() {
        for (k, delay) in drawn.delay_ms.iter().enumerate() {
            let at = 4.0 * (cast::real(k) + 0.5) / 400.0;
            near(*delay, 10.0 + 2.0 * (TAU * (0.5 * at + cast::real(voice) / 3.0)).sin(), 1e-9);
        }
    }
    for (k, cents) in view.measured_cents.iter().enumerate() {
        let at = view.from_s + view.every_s * cast::real(k);
        near(cents.unwrap(), 1200.0 * (1.0 - TAU * 0.5 * 0.002 * (TAU * 0.5 * at).cos()).log2(), 0.3);
    }
    // Twenty cycles a second over a long passage: only the first few.
    let fast = stage_with("vibrato", &[("rate_hz", 20.0), ("depth_ms", 0.1)]);
    let view = PitchView::of(&fast, 8.0, 400, RATE).unwrap();
    assert!(!view.whole);
    near(view.seconds, 0.4, 1e-9);
}

/// What moves is looked at eight times in a cycle or more, under a window no longer than that.
#[test]
fn spectrograms_are_close_enough_for_what_moves() {
    let of = |hz: Option<f64>| Closeness::of(Resolution::Medium, (8.0, RATE), 220, hz);
    near(of(None).window_s, 8192.0 / 48_000.0, 1e-9);
    near(of(None).seconds, 8.0, 1e-9);
    for hz in [0.01, 0.25, 1.0, 4.0, 10.0, 20.0] {
        let close = of(Some(hz));
        assert!(close.window_s <= 1.0 / (8.0 * hz), "{hz}");
        assert!(close.seconds / 220.0 <= 1.0 / (8.0 * hz) + 1e-9 && close.seconds <= 8.0, "{hz}");
    }
    near(of(Some(20.0)).seconds, 220.0 / 160.0, 1e-9);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(16))]

    /// Any settings of anything that moves, also at a low rate: what is shown is finite, and as much as was asked for.
    #[test]
    fn anything_that_moves_is_shown(
        which in 0usize..6,
        unit in prop::collection::vec(0.0f64..1.0, 32),
        mix in 0.0f64..1.0,
        rate_hz in prop::sample::select(vec![8000u32, 44_100, 48_000]),
    ) {
        let effect = moving(which);
        let mut values: Vec<f64> = effect.params.iter().zip(&unit).map(|(param, unit)| {
            let value = param.value_at(*unit);
            if param.choices.is_empty() { value } else { value.round() }
        }).collect();
        // Long cycles take long to follow.
        values[0] = values[0].max(0.5);
        let stage = Stage { mix, values, ..stage_with(effect.id, &[]) };
        let traces = Traces::of(&stage, (24, 40), rate_hz).unwrap();
        prop_assert_eq!(traces.levels_db.len(), 24 * 40);
        prop_assert!(traces.levels_db.iter().all(|db| db.is_finite()));
        for (predicted, found) in traces.predicted_hz.iter().zip(&traces.found_hz) {
            prop_assert_eq!(predicted.len(), found.len());
            prop_assert!(predicted.iter().chain(found.iter().flatten()).all(|hz| (0.0..=20_000.0).contains(hz)));
        }
        if let Some(view) = PitchView::of(&stage, 1.5, 50, rate_hz) {
            let drawn = view.voices.iter().flat_map(|voice| voice.delay_ms.iter().chain(&voice.cents));
            prop_assert!(drawn.chain(view.measured_cents.iter().flatten()).copied().all(f64::is_finite) && view.seconds <= 1.5);
        }
        let spectrum = ModulationSpectrum::of_tone(&stage, 440.0, rate_hz).unwrap();
        prop_assert!(spectrum.depths.iter().flatten().all(|depth| depth.is_finite() && *depth >= 0.0));
        if let Some(lines) = Sidebands::of(&stage, 440.0, rate_hz) {
            prop_assert!(lines.lines.iter().all(|line| line.level_db.is_none_or(f64::is_finite)));
        }
    }
}

/// One of the effects that move.
fn moving(which: usize) -> &'static Effect {
    let moves = |effect: &&&Effect| {
        let usual: Vec<f64> = effect.params.iter().map(|param| param.default).collect();
        effect.swing(&usual).is_some()
    };
    ALL.iter().filter(moves).nth(which).unwrap()
}

fn tone_with_depth(tone_hz: f64, rate_hz: f64, depth: f64, seconds: f64) -> Buffer {
    let at = |i: usize| {
        let t = cast::real(i) / f64::from(RATE);
        cast::sample(0.4 * (1.0 + depth * (TAU * rate_hz * t).sin()) * (TAU * tone_hz * t).sin())
    };
    let samples: Vec<f32> = (0..cast::frames(seconds, RATE)).map(at).collect();
    Buffer::new(RATE, vec![samples.clone(), samples]).unwrap()
}

/// A tone whose level sways as far as is known reads that, at any rate from 0.1 to 40 Hz, in its octave and over all; in another
/// octave there is nothing.
#[test]
fn the_modulation_spectrum_reads_the_depth() {
    for (hz, depth, seconds) in
        [(0.13, 0.5, 24.0), (1.0, 0.03, 4.0), (4.37, 0.8, 4.0), (20.0, 1.0, 3.0), (39.0, 0.25, 3.0)]
    {
        let steady = tone_with_depth(1000.0, 1.0, 0.0, seconds);
        let swayed = tone_with_depth(1000.0, hz, depth, seconds);
        for band in [None, Some(1000.0)] {
            let found = ModulationSpectrum::of(&steady, &swayed, band, None);
            let nearest = (0..found.freqs_hz.len())
                .min_by(|a, b| {
                    (found.freqs_hz[*a] / hz).ln().abs().total_cmp(&(found.freqs_hz[*b] / hz).ln().abs())
                })
                .unwrap();
            near(found.depths[1].iter().copied().fold(0.0, f64::max), depth, 0.01 * depth + 0.001);
            assert!(found.depths[1][nearest] > 0.9 * depth);
            assert!(found.depths[0].iter().all(|depth| *depth < 0.002), "the steady tone");
        }
        let other = ModulationSpectrum::of(&steady, &swayed, Some(8000.0), None);
        assert!(other.depths[1].iter().all(|depth| *depth < 0.3) || other.depths[1].is_empty());
    }
    // The marks of a tremolo: its rate, and next to nothing at the multiples of a sine.
    let tremolo = stage_with("tremolo", &[("rate_hz", 5.0), ("depth", 0.6)]);
    let steady = tone_with_depth(1000.0, 1.0, 0.0, 4.0);
    let after = clear_bend_measures::passage::Passage::new(steady.clone())
        .through(&clear_bend_playing::path::Path { stages: vec![tremolo.clone()] })
        .after;
    let found = ModulationSpectrum::of(&steady, &after, None, tremolo.effect.swing(&tremolo.values));
    near(found.marks[0].freq_hz, 5.0, 1e-9);
    near(found.marks[0].depths[1], 0.6, 0.006);
    assert!(found.marks[1].depths[1] < 0.005 && found.marks[0].depths[0] < 0.002);
    assert_eq!(found.marks.len(), 8);
}

/// Looks at a sine stand still: each begins where it rises through zero and holds four cycles, also of a wave with harmonics.
#[test]
fn looks_at_a_wave_stand_still() {
    for (hz, harmonics) in [(110.0, 1), (440.0, 1), (196.0, 6), (1500.0, 1)] {
        let at = |i: usize| {
            let t = cast::real(i) / f64::from(RATE);
            let part = |k: i32| (TAU * hz * f64::from(k) * t + 0.3).sin() / f64::from(k);
            cast::sample(0.3 * (1..=harmonics).map(part).sum::<f64>())
        };
        let samples: Vec<f32> = (0..2 * RATE as usize).map(at).collect();
        let sound = Buffer::new(RATE, vec![samples.clone(), samples]).unwrap();
        let looks = wave_looks(&sound, &sound, 12, 120);
        for look in &looks[..11] {
            near(look.pitch_hz.unwrap(), hz, 0.005 * hz);
            near(look.seconds, 4.0 / hz, 0.005 * 4.0 / hz);
            for (k, x) in look.before[0].iter().enumerate() {
                near(f64::from(*x), f64::from(looks[0].before[0][k]), 0.06);
            }
        }
    }
    // Noise has no pitch, silence neither; nothing is too short.
    let mut random = SplitMix64::new(3, 0);
    let noise: Vec<f32> = (0..RATE).map(|_| cast::sample(random.bipolar())).collect();
    for samples in [noise, vec![0.0; 4800], vec![0.1], Vec::new()] {
        let sound = Buffer::new(RATE, vec![samples.clone(), samples]).unwrap();
        for look in wave_looks(&sound, &sound, 5, 50) {
            assert!(look.pitch_hz.is_none() && look.before[0].len() == 50);
        }
    }
}

/// Facts of the trade: a flanger's notches stand at odd multiples of the lowest, with reversed polarity at all multiples; their number
/// grows with the delay; a phaser has one for every two sections, not in such ratios; feedback makes peaks sharper; depth says how far
/// notches travel, the rate how fast (common practice; measured here on the response to an impulse).
#[test]
fn facts_of_flangers_and_phasers() {
    let flanger = |params: &[(&str, f64)]| {
        let all = [&[("rate_hz", 0.25), ("depth_ms", 0.0), ("delay_ms", 1.0)], params].concat();
        Notches::of(&at_mix("flanger", 0.5, &all), 0.0, RATE).unwrap()
    };
    let plain = flanger(&[]).freqs_hz;
    for (k, hz) in plain.iter().enumerate() {
        near(hz / plain[0], 2.0 * cast::real(k) + 1.0, 0.01 * (2.0 * cast::real(k) + 1.0));
    }
    let reversed = flanger(&[("polarity", 1.0)]).freqs_hz;
    for (k, hz) in reversed.iter().enumerate() {
        near(hz / reversed[0], cast::real(k) + 1.0, 0.01 * (cast::real(k) + 1.0));
    }
    let counts: Vec<usize> =
        [0.5, 1.0, 2.0, 4.0].map(|ms| flanger(&[("delay_ms", ms)]).freqs_hz.len()).to_vec();
    assert_eq!(counts, [10, 20, 40, 80]);
    let peaks = [0.0, 0.4, 0.8].map(|feedback| {
        let found = flanger(&[("feedback", feedback)]);
        found.peak_db - found.mean_db
    });
    assert!(peaks[0] < peaks[1] && peaks[1] < peaks[2], "{peaks:?}");
    for (choice, sections) in [2, 4, 6, 8, 10, 12].into_iter().enumerate() {
        let params = [("centre_hz", 600.0), ("depth_oct", 0.0), ("sections", cast::real(choice))];
        let found = Notches::of(&at_mix("phaser", 0.5, &params), 0.0, RATE).unwrap().freqs_hz;
        assert_eq!(found.len(), sections / 2);
        let spaces: Vec<f64> = found.windows(2).map(|pair| pair[1] - pair[0]).collect();
        assert!(spaces.windows(2).all(|pair| pair[1] > 1.2 * pair[0]), "{spaces:?}");
    }
    let way = |depth_oct: f64| {
        let stage =
            at_mix("phaser", 0.5, &[("rate_hz", 0.5), ("depth_oct", depth_oct), ("centre_hz", 800.0)]);
        let lowest: Vec<f64> =
            (0..16).map(|k| predicted_notches(&stage, f64::from(k) / 16.0, RATE)[0]).collect();
        let (low, high) = lowest.iter().fold((f64::MAX, 0.0f64), |(a, b), x| (a.min(*x), b.max(*x)));
        (high / low).log2()
    };
    near(way(0.5), 1.0, 0.02);
    near(way(1.0), 2.0, 0.02);
}
