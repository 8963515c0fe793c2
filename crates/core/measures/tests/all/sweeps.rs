//! Responses out of recordings of sweeps: recordings are made here, through filters and rooms that are known, with harmonics and noise.

use std::f64::consts::TAU;

use clear_bend_measures::sweeps::{Recovered, response_of};
use clear_bend_signals::{Source, SourceDocument};
use clear_bend_sound::Buffer;
use proptest::prelude::*;

fn sweep(from_hz: f64, to_hz: f64, seconds: f64) -> SourceDocument {
    let params = [("from_hz", from_hz), ("to_hz", to_hz), ("seconds", seconds), ("level_dbfs", -6.0)];
    SourceDocument::of_kind("sweep", params.into_iter().collect())
}

/// White noise of a root mean square, by Numerical Recipes' generator.
fn noise(rms: f64, seed: u32) -> impl FnMut() -> f64 {
    let mut state = seed;
    move || {
        state = state.wrapping_mul(1_664_525).wrapping_add(1_013_904_223);
        (f64::from(state) / f64::from(u32::MAX) * 2.0 - 1.0) * rms * 3f64.sqrt()
    }
}

/// What a loudspeaker makes of a sweep: the sweep itself, and others of twice and three times the phase, which are its harmonics.
fn played(sweep: &SourceDocument, rate_hz: u32, harmonics: [f64; 2]) -> Vec<f64> {
    let value = |id: &str| match sweep.params.iter().find(|(known, _)| *known == id).unwrap().1 {
        clear_bend_catalogue::Written::Number(number) => number.0,
        _ => unreachable!(),
    };
    let (from, to, seconds) = (value("from_hz"), value("to_hz"), value("seconds"));
    let octaves = (to / from).ln();
    let gain = 10f64.powf(value("level_dbfs") / 20.0);
    (0..(seconds * f64::from(rate_hz)) as usize)
        .map(|n| {
            let t = n as f64 / f64::from(rate_hz);
            let phase = TAU * from * seconds / octaves * ((t / seconds * octaves).exp() - 1.0);
            // No harmonic over half the rate: a loudspeaker has none there, and here it would come back mirrored.
            let freq = from * (t / seconds * octaves).exp();
            let harmonic = |k: f64, gain: f64| {
                if k * freq < 0.45 * f64::from(rate_hz) { gain * (k * phase).sin() } else { 0.0 }
            };
            gain * (phase.sin() + harmonic(2.0, harmonics[0]) + harmonic(3.0, harmonics[1]))
        })
        .collect()
}

/// A peaking filter after R. Bristow-Johnson's cookbook: its coefficients b0, b1, b2, a1, a2.
fn peaking(hz: f64, gain_db: f64, q: f64, rate: f64) -> [f64; 5] {
    let (w, a) = (TAU * hz / rate, 10f64.powf(gain_db / 40.0));
    let alpha = w.sin() / (2.0 * q);
    let a0 = 1.0 + alpha / a;
    [
        (1.0 + alpha * a) / a0,
        -2.0 * w.cos() / a0,
        (1.0 - alpha * a) / a0,
        -2.0 * w.cos() / a0,
        (1.0 - alpha / a) / a0,
    ]
}

fn filtered(x: &[f64], [b0, b1, b2, a1, a2]: [f64; 5]) -> Vec<f64> {
    let (mut x1, mut x2, mut y1, mut y2) = (0.0, 0.0, 0.0, 0.0);
    x.iter()
        .map(|x| {
            let y = b0 * x + b1 * x1 + b2 * x2 - a1 * y1 - a2 * y2;
            (x2, x1, y2, y1) = (x1, *x, y1, y);
            y
        })
        .collect()
}

/// The gain of such a filter at a frequency, dB, by its formula.
fn gain_db([b0, b1, b2, a1, a2]: [f64; 5], hz: f64, rate: f64) -> f64 {
    let w = TAU * hz / rate;
    let size = |c0: f64, c1: f64, c2: f64| {
        (c0 + c1 * w.cos() + c2 * (2.0 * w).cos()).powi(2) + (c1 * w.sin() + c2 * (2.0 * w).sin()).powi(2)
    };
    10.0 * (size(b0, b1, b2) / size(1.0, a1, a2)).log10()
}

/// The gain of a response at a frequency, dB, by its sum.
fn level_db(response: &[f32], hz: f64, rate: f64) -> f64 {
    let (re, im) = response.iter().enumerate().fold((0.0, 0.0), |(re, im), (n, x)| {
        let turn = TAU * hz * n as f64 / rate;
        (re + f64::from(*x) * turn.cos(), im + f64::from(*x) * turn.sin())
    });
    10.0 * (re * re + im * im).log10()
}

/// A sound after some silence and before some, with noise over all of it.
fn recorded(sound: &[f64], rate_hz: u32, before_s: f64, after_s: f64, noise_rms: f64) -> Buffer {
    let silence = |seconds: f64| vec![0.0; (seconds * f64::from(rate_hz)) as usize];
    let mut hiss = noise(noise_rms, 7);
    let all = [silence(before_s), sound.to_vec(), silence(after_s)].concat();
    Buffer::new(rate_hz, vec![all.iter().map(|x| (x + hiss()) as f32).collect()]).unwrap()
}

/// A known filter is found again within 0.1 dB, at every third of an octave from 40 Hz to 16 kHz, also under harmonics of a hundredth
/// and noise at -74 and at -54 dBFS; harmonics are found at their levels and are no part of it.
#[test]
fn a_known_filter_is_recovered() {
    let rate = 48_000.0;
    let filters =
        [peaking(200.0, -9.0, 1.0, rate), peaking(2500.0, 8.0, 2.0, rate), peaking(9000.0, -12.0, 0.8, rate)];
    let document = sweep(20.0, 20_000.0, 6.0);
    let mut ranges = Vec::new();
    let both = [0.03, 0.01];
    for (harmonics, noise_rms) in [([0.0, 0.0], 0.0), (both, 0.0), (both, 2e-4), (both, 2e-3)] {
        let sound =
            filters.iter().fold(played(&document, 48_000, harmonics), |x, filter| filtered(&x, *filter));
        let Recovered { response, found } =
            response_of(&recorded(&sound, 48_000, 0.4, 1.0, noise_rms), &document).unwrap();
        let mut worst: f64 = 0.0;
        for third in 0..=26 {
            let hz = 40.0 * 2f64.powf(f64::from(third) / 3.0);
            let expected: f64 = filters.iter().map(|filter| gain_db(*filter, hz, rate)).sum();
            let off = level_db(&response.channels()[0], hz, rate) - expected;
            worst = worst.max(off.abs());
            assert!(off.abs() < 0.1, "{hz:.0} Hz: off by {off:.3} dB with {harmonics:?} and {noise_rms}");
        }
        println!("worst {worst:.3} dB, range {:.0} dB, {:?}", found.range_db, found.harmonics);
        assert!((found.begins_s - 0.4).abs() < 0.001, "{}", found.begins_s);
        // Each at its own level: 20 log 0.03 and 20 log 0.01.
        let clear: Vec<_> = found.harmonics.iter().filter(|harmonic| harmonic.level_db > -80.0).collect();
        let expected: &[(u32, f64)] = if harmonics[0] > 0.0 { &[(2, -30.46), (3, -40.0)] } else { &[] };
        assert_eq!(clear.len(), expected.len(), "{:?}", found.harmonics);
        for (harmonic, (order, level_db)) in clear.iter().zip(expected) {
            assert!(harmonic.order == *order && (harmonic.level_db - level_db).abs() < 0.2, "{harmonic:?}");
        }
        if noise_rms > 0.0 {
            assert!(found.sentences[1].contains("2 times the frequency"), "{:?}", found.sentences);
        }
        ranges.push(found.range_db);
    }
    // Ten times as much noise takes 20 dB of the range.
    assert!((ranges[2] - ranges[3] - 20.0).abs() < 1.0, "{ranges:?}");
}

/// T30 of energies: backward integration, and the straight line from -5 to -35 dB (ISO 3382-1).
fn t30(response: &[f64], rate: f64) -> f64 {
    let mut left = response.iter().map(|x| x * x).collect::<Vec<_>>();
    (0..left.len() - 1).rev().for_each(|n| left[n] += left[n + 1]);
    let db: Vec<f64> = left.iter().map(|x| 10.0 * (x / left[0]).log10()).collect();
    let points: Vec<(f64, f64)> = db
        .iter()
        .enumerate()
        .filter(|(_, db)| (-35.0..=-5.0).contains(*db))
        .map(|(n, db)| (n as f64 / rate, *db))
        .collect();
    let count = points.len() as f64;
    let (t, l) = points.iter().fold((0.0, 0.0), |(t, l), (x, y)| (t + x / count, l + y / count));
    let (xx, xy) =
        points.iter().fold((0.0, 0.0), |(a, b), (x, y)| (a + (x - t).powi(2), b + (x - t) * (y - l)));
    -60.0 * xx / xy
}

/// A known room is found again: its decay within 2 %, also under harmonics and noise; what follows the sweep is part of it.
#[test]
fn a_known_reverb_is_recovered() {
    let (rate_hz, rate) = (8000, 8000.0);
    let document = sweep(60.0, 3600.0, 4.0);
    for (decay_s, harmonics, noise_rms) in
        [(0.35, [0.0, 0.0], 0.0), (0.35, [0.05, 0.02], 2e-5), (0.6, [0.05, 0.02], 2e-5)]
    {
        let mut throw = noise(0.2, 3);
        let room: Vec<f64> = (0..(1.3 * decay_s * rate) as usize)
            .map(|n| if n == 0 { 1.0 } else { throw() * 10f64.powf(-3.0 * n as f64 / rate / decay_s) })
            .collect();
        let dry = played(&document, rate_hz, harmonics);
        let mut wet = vec![0.0; dry.len() + room.len()];
        for (n, x) in dry.iter().enumerate() {
            wet[n..n + room.len()].iter_mut().zip(&room).for_each(|(y, h)| *y += x * h);
        }
        let Recovered { response, found } =
            response_of(&recorded(&wet, rate_hz, 0.3, 0.5, noise_rms), &document).unwrap();
        // The same band of the room itself.
        let band = |x: &[f64]| {
            [0.54, 1.31].iter().fold(x.to_vec(), |x, q| {
                filtered(&filtered(&x, pass(150.0, *q, rate, true)), pass(2500.0, *q, rate, false))
            })
        };
        let recovered: Vec<f64> = response.channels()[0].iter().map(|x| f64::from(*x)).collect();
        let (own, measured) = (t30(&band(&room), rate), t30(&band(&recovered), rate));
        println!(
            "{measured:.4} s for {own:.4} s, range {:.0} dB, {:.2} s long",
            found.range_db,
            response.seconds()
        );
        assert!((measured / own - 1.0).abs() < 0.02, "{measured} s for {own} s");
    }
}

/// A high or low-pass after the same cookbook.
fn pass(hz: f64, q: f64, rate: f64, high: bool) -> [f64; 5] {
    let w = TAU * hz / rate;
    let (c, alpha) = (w.cos(), w.sin() / (2.0 * q));
    let a0 = 1.0 + alpha;
    let b1 = if high { -(1.0 + c) } else { 1.0 - c };
    [b1.abs() / 2.0 / a0, b1 / a0, b1.abs() / 2.0 / a0, -2.0 * c / a0, (1.0 - alpha) / a0]
}

/// What is of no use is said: cut off, too quiet, drowned in noise, of another sweep, and no sweep at all.
#[test]
fn recordings_that_are_of_no_use_are_refused() {
    let document = sweep(50.0, 10_000.0, 2.0);
    let sound = played(&document, 48_000, [0.0, 0.0]);
    let scaled = |gain: f64| sound.iter().map(|x| gain * x).collect::<Vec<_>>();
    let said = |recording: &Buffer, of: &SourceDocument| response_of(recording, of).unwrap_err().to_string();
    let whole = recorded(&sound, 48_000, 0.2, 0.5, 1e-5);
    let refusals = [
        said(&whole.slice(0..48_000), &document),
        said(&recorded(&sound[..60_000], 48_000, 1.0, 0.0, 1e-5), &document),
        said(&recorded(&sound[24_000..], 48_000, 0.0, 0.8, 1e-5), &document),
        said(&recorded(&scaled(1e-5), 48_000, 0.2, 0.5, 0.0), &document),
        said(&recorded(&scaled(0.0), 48_000, 0.2, 0.5, 0.0), &document),
        said(&recorded(&scaled(0.003), 48_000, 0.2, 0.5, 0.1), &document),
        said(&whole, &sweep(50.0, 10_000.0, 1.7)),
        said(&whole, &sweep(20.0, 12_000.0, 2.0)),
        said(&recorded(&vec![0.0; 100_000], 48_000, 0.2, 0.5, 0.1), &document),
        said(&whole, &sweep(10_000.0, 50.0, 2.0)),
        said(&whole, &SourceDocument::of_kind("white-noise", Default::default())),
        said(&whole, &SourceDocument::of_kind("sweep", [("seconds", 1e9)].into_iter().collect())),
    ];
    insta::assert_snapshot!(refusals.join("\n"));
    // The right one is taken, from both sides of a stereo recording.
    let both = Buffer::new(48_000, vec![whole.channels()[0].clone(), whole.channels()[0].clone()]).unwrap();
    let recovered = response_of(&both, &document).unwrap();
    assert_eq!(recovered.response.channels().len(), 2);
    assert!(Source::from_document(&document).is_ok());
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(60))]

    /// Whatever is recorded, of whatever sweep: a finite response within the recording, or a sentence.
    #[test]
    fn any_recording_is_answered_or_refused(
        from_hz in 10.0..3000.0f64,
        ratio in 0.2..300.0f64,
        seconds in 0.1..0.6f64,
        before_s in 0.0..0.3f64,
        after_s in 0.0..0.3f64,
        noise_rms in prop::sample::select(vec![0.0, 1e-5, 1e-3, 0.1]),
        gain in prop::sample::select(vec![0.0, 1e-6, 0.1, 1.0, 4.0]),
        cut in 0.0..1.2f64,
    ) {
        let document = sweep(from_hz, (from_hz * ratio).clamp(10.0, 20_000.0), seconds);
        let sound: Vec<f64> = played(&document, 8000, [0.1, 0.05]).iter().map(|x| gain * x).collect();
        let sound = &sound[..((sound.len() as f64 * cut) as usize).min(sound.len())];
        let recording = recorded(sound, 8000, before_s, after_s + 0.01, noise_rms);
        match response_of(&recording, &document) {
            Ok(Recovered { response, found }) => {
                prop_assert!(response.channels()[0].iter().all(|x| x.is_finite()));
                prop_assert!(response.frames() > 0 && response.frames() <= recording.frames());
                prop_assert!(found.begins_s < recording.seconds() && found.range_db >= 20.0);
            }
            Err(refusal) => prop_assert!(refusal.to_string().contains("accepted")),
        }
    }
}

/// Whatever is missing of the beginning of a sweep is said, within a hundredth of a second.
#[test]
fn a_late_beginning_is_told() {
    let document = sweep(20.0, 20_000.0, 4.0);
    let sound = filtered(&played(&document, 48_000, [0.05, 0.0]), peaking(300.0, 6.0, 2.0, 48_000.0));
    for late in [0.12, 0.7, 1.93, 3.0] {
        let recording = recorded(&sound[(late * 48_000.0) as usize..], 48_000, 0.0, late + 0.5, 1e-4);
        let said = response_of(&recording, &document).unwrap_err().to_string();
        assert!(said.contains(&format!("begun {late:.2} s after the sweep")), "{late} s: {said}");
    }
}

/// Reads a recording at another speed, by a windowed sinc written anew.
fn at_speed(sound: &[f64], speed: f64) -> Vec<f64> {
    let count = (sound.len() as f64 / speed) as usize;
    (0..count)
        .map(|n| {
            let at = n as f64 * speed;
            let first = at.floor() as isize - 23;
            (first..first + 48)
                .map(|k| {
                    let x = usize::try_from(k).ok().and_then(|k| sound.get(k)).copied().unwrap_or(0.0);
                    let away = at - k as f64;
                    let sinc = if away == 0.0 { 1.0 } else { (TAU * 0.5 * away).sin() / (TAU * 0.5 * away) };
                    x * sinc * (0.5 + 0.5 * (TAU * 0.5 * away / 24.0).cos())
                })
                .sum()
        })
        .collect()
}

/// Clocks that differ are told, in millionths, and taken out: the response is that of a recording at the right speed. A sweep that is far
/// off, or another one, is refused, and so is one whose harmonics are louder than it.
#[test]
fn another_speed_is_taken_out_or_refused() {
    let rate_hz = 48_000;
    let document = sweep(20.0, 20_000.0, 8.0);
    let sound = played(&document, rate_hz, [0.0; 2]);
    // A room of a few reflections.
    let mut answered = vec![0.0; sound.len() + 12_000];
    for (at, gain) in [(0, 1.0), (731, -0.6), (1513, 0.4), (4801, 0.3), (9000, -0.15)] {
        sound.iter().enumerate().for_each(|(n, x)| answered[n + at] += gain * x);
    }
    let right = response_of(&recorded(&answered, rate_hz, 0.5, 1.0, 1e-4), &document).unwrap();
    assert_eq!(right.found.drift_ppm, None);
    for ppm in [-300.0f64, -100.0, -20.0, 50.0, 100.0, 700.0] {
        let off = at_speed(&answered, 1.0 + ppm * 1e-6);
        let found = response_of(&recorded(&off, rate_hz, 0.5, 1.0, 1e-4), &document).unwrap();
        let told = found.found.drift_ppm.unwrap_or(0.0);
        assert!((told.abs() - f64::abs(ppm)).abs() < 3.0, "{told} for {ppm}");
        let (a, b) = (&right.response.channels()[0], &found.response.channels()[0]);
        // As alike as they are at the best of a few samples' shift; later, the clocks themselves are apart.
        let alike = (0..=80usize)
            .map(|shift| {
                let pairs = a.iter().enumerate().skip(50).take(760).filter_map(|(n, x)| {
                    Some((f64::from(*x), f64::from(*b.get((n + shift).checked_sub(40)?)?)))
                });
                let (xy, xx, yy) =
                    pairs.fold((0.0, 0.0, 0.0), |(xy, xx, yy), (x, y)| (xy + x * y, xx + x * x, yy + y * y));
                xy / (xx * yy).sqrt()
            })
            .fold(0.0, f64::max);
        println!("{ppm} ppm: told {told:.1}, alike {alike:.3}");
        assert!(alike > 0.9 || ppm.abs() > 100.0, "{ppm} ppm: {alike}");
    }
    for off in [0.99, 1.01, 1.005] {
        let made = recorded(&at_speed(&answered, off), rate_hz, 0.5, 1.0, 1e-4);
        assert!(response_of(&made, &document).unwrap_err().to_string().contains("recording"), "{off}");
    }
    for other in [sweep(20.0, 20_000.0, 7.9), sweep(20.0, 22_000.0, 8.0)] {
        let made = recorded(&played(&other, rate_hz, [0.0; 2]), rate_hz, 0.5, 1.0, 1e-4);
        assert!(response_of(&made, &document).is_err());
    }
    let distorted = recorded(&played(&document, rate_hz, [4.0, 0.0]), rate_hz, 0.5, 1.0, 1e-4);
    let why = response_of(&distorted, &document).unwrap_err().to_string();
    assert!(why.contains("recording"), "{why}");
}
