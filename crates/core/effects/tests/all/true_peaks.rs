//! True peaks, held against a reader that shares nothing with ours: the wave between samples by the Fourier series of the
//! whole passage, at sixteen places for every sample.

use clear_bend_effects as effects;
use clear_bend_measures::Levels;
use clear_bend_playing::path::{Path, Stage};
use clear_bend_playing::render::render;
use clear_bend_signals as signals;
use clear_bend_sound::Buffer;
use clear_bend_sound::level::db_from_gain;
use ebur128::{EbuR128, Mode};
use proptest::prelude::*;
use rustfft::FftPlanner;
use rustfft::num_complex::Complex;

use clear_bend_testing::{near, signal_at};

/// The spectrum of samples, of which only what lies under a share of half the rate is kept.
fn spectrum(samples: &[f32], share: f64) -> Vec<Complex<f64>> {
    let n = samples.len();
    let mut bins: Vec<Complex<f64>> = samples.iter().map(|x| Complex::from(f64::from(*x))).collect();
    FftPlanner::new().plan_fft_forward(n).process(&mut bins);
    let last = (share * n as f64 / 2.0) as usize;
    bins[last + 1..n - last].fill(Complex::default());
    bins
}

/// The same without anything over a frequency.
fn limited_to(sound: &Buffer, hz: f64) -> Buffer {
    let share = (2.0 * hz / f64::from(sound.rate_hz())).min(0.999);
    let channels = sound.channels().iter().map(|channel| {
        let mut bins = spectrum(channel, share);
        FftPlanner::new().plan_fft_inverse(bins.len()).process(&mut bins);
        let scale = 1.0 / bins.len() as f64;
        bins.iter().map(|x| (x.re * scale) as f32).collect()
    });
    Buffer::new(sound.rate_hz(), channels.collect()).unwrap()
}

/// The largest of sixteen places for every sample of a passage that goes round, dBTP.
fn read_dbtp(sound: &Buffer) -> f64 {
    let mut largest: f64 = 0.0;
    for channel in sound.channels() {
        let n = channel.len();
        let bins = spectrum(channel, 0.999_99);
        let mut fine = vec![Complex::default(); 16 * n];
        let half = n / 2;
        fine[..half].copy_from_slice(&bins[..half]);
        fine[15 * n + half + 1..].copy_from_slice(&bins[half + 1..]);
        FftPlanner::new().plan_fft_inverse(16 * n).process(&mut fine);
        largest = fine.iter().fold(largest, |a, x| a.max(x.re.abs() / n as f64));
    }
    db_from_gain(largest)
}

/// As loud as this, with silence before and after, so that nothing is cut where it goes round.
fn framed(mut sound: Buffer, gain_db: f64) -> Buffer {
    sound.apply_gain_db(gain_db);
    let silence = vec![0.0; sound.rate_hz() as usize / 4];
    for channel in sound.channels_mut() {
        *channel = [&silence[..], channel, &silence].concat();
    }
    sound
}

fn limited(sound: &Buffer, params: &[(&str, f64)]) -> Buffer {
    let stage = Stage::new(effects::find("limiter").unwrap(), params).unwrap();
    render(&Path { stages: vec![stage] }, sound).after
}

#[test]
fn the_meter_agrees_with_an_independent_reader_at_all_rates() {
    let mut worst: f64 = 0.0;
    for rate_hz in [44_100, 48_000, 88_200, 96_000, 192_000] {
        let highest = 0.9 * f64::from(rate_hz) / 2.0;
        let noise = signal_at(rate_hz, "white-noise", &[("seconds", 0.5), ("level_dbfs", -5.0)], 2);
        let noise = framed(limited_to(&noise, highest), 0.0);
        worst = worst.max((Levels::of(&noise).true_peak_dbtp - read_dbtp(&noise)).abs());
        for share in [0.02, 0.25, 0.3333, 0.5, 0.6667, 0.75, 0.9] {
            // Starting in their crest and ending smoothly: a steady tone, whose peak is known.
            let hz = share * f64::from(rate_hz) / 2.0 + 0.3;
            let n = rate_hz as usize;
            let tone = (0..n).map(|i| {
                let t = i as f64 / n as f64;
                let fade = (std::f64::consts::PI * t).sin().powi(2);
                (0.5 * fade * (std::f64::consts::TAU * hz * i as f64 / f64::from(rate_hz)).cos()) as f32
            });
            let tone = Buffer::new(rate_hz, vec![tone.collect()]).unwrap();
            worst = worst.max((Levels::of(&tone).true_peak_dbtp - db_from_gain(0.5)).abs());
        }
    }
    println!("true peak: the meter is within {worst:.3} dB of the reader");
    assert!(worst < 0.1, "{worst}");
}

/// ITU-R BS.1770 Annex 2 as another library reads it: ours finds as much and, where that library's filter or its places
/// are too coarse, more.
#[test]
fn the_meter_reads_what_the_standard_asks_for() {
    for kind in ["boatyard-loop", "slip-keys", "slip-driven-wire", "pink-noise"] {
        let sound = signal_at(48_000, kind, &[], 2);
        let mut meter = EbuR128::new(2, 48_000, Mode::TRUE_PEAK).unwrap();
        meter.add_frames_planar_f32(&[&sound.channels()[0], &sound.channels()[1]]).unwrap();
        let theirs = db_from_gain(meter.true_peak(0).unwrap().max(meter.true_peak(1).unwrap()));
        let ours = Levels::of(&sound).true_peak_dbtp;
        assert!((-0.05..0.4).contains(&(ours - theirs)), "{kind}: {ours} and {theirs}");
    }
    // EBU Tech 3341, table 1, tests 15 to 19 (from memory): sines of half full scale at a quarter, a sixth and an eighth
    // of the rate, at any phase: -6.0 dBTP, +0.2 or -0.4. They come and go slowly: a beginning peaks by itself.
    for (part, phase_deg) in [(4.0, 0.0), (4.0, 45.0), (6.0, 60.0), (8.0, 67.5)] {
        let wave = (0..48_000).map(|i| {
            let angle = std::f64::consts::TAU * f64::from(i) / part + f64::to_radians(phase_deg);
            (0.5 * (std::f64::consts::PI * f64::from(i) / 48_000.0).sin() * angle.sin()) as f32
        });
        let found = Levels::of(&Buffer::new(48_000, vec![wave.collect()]).unwrap()).true_peak_dbtp;
        near(found, -6.0206, 0.02);
    }
}

#[test]
fn no_true_peak_of_the_shipped_sources_passes_the_ceiling() {
    let mut worst = f64::MIN;
    for kind in signals::ALL {
        for (drive_db, lookahead_ms, release_ms) in [(12.0, 1.5, 50.0), (6.0, 3.0, 100.0)] {
            let sound = signal_at(48_000, kind.id, &[], 2);
            let sound = framed(sound.slice(0..96_000), 0.0);
            let params = [
                ("ceiling_db", -6.0),
                ("drive_db", drive_db),
                ("lookahead_ms", lookahead_ms),
                ("release_ms", release_ms),
            ];
            let sound = limited_to(&sound, 20_000.0);
            worst = worst.max(read_dbtp(&limited(&sound, &params)) + 6.0);
        }
    }
    println!("limiter: shipped sources pass the ceiling by {worst:.3} dB at the most");
    assert!(worst < 0.1, "{worst}");
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(32))]

    /// Anything without content over 20 kHz, driven hard, at every rate.
    #[test]
    fn no_true_peak_passes_the_ceiling(
        rate_hz in prop::sample::select(vec![44_100u32, 48_000, 88_200, 96_000, 192_000]),
        seed in 1u32..9999,
        kind in prop::sample::select(vec!["white-noise", "clicks", "square", "sweep", "saw"]),
        drive_db in 0f64..24.0,
        lookahead_ms in 0.5f64..10.0,
        release_ms in 1f64..300.0,
        knee_db in 0f64..12.0,
        ceiling_db in -20f64..0.0,
    ) {
        let params: &[(&str, f64)] = match kind {
            "white-noise" => &[("seconds", 0.4), ("level_dbfs", -5.0), ("seed", f64::from(seed))],
            _ => &[("seconds", 0.4), ("level_dbfs", 0.0)],
        };
        let sound = limited_to(&framed(signal_at(rate_hz, kind, params, 1), 0.0), 20_000.0);
        let params = [
            ("ceiling_db", ceiling_db), ("drive_db", drive_db), ("lookahead_ms", lookahead_ms),
            ("release_ms", release_ms), ("knee_db", knee_db),
        ];
        let after = limited(&sound, &params);
        let over = read_dbtp(&after) - ceiling_db;
        prop_assert!(over < 0.1, "{over} dB over the ceiling");
        prop_assert!(Levels::of(&after).peak_dbfs <= ceiling_db + 1e-5);
    }
}
