//! What the signals and the sounds of Pellow Slip measure like, and regions cut out of them.

use clear_bend_measures::{Levels, octave_levels};
use clear_bend_signals::{ALL, Family};
use clear_bend_sound::Buffer;
use clear_bend_sound::audio::LONGEST_S;
use clear_bend_sound::cast;
use clear_bend_sound::region::{Region, cut, snapped};
use clear_bend_testing::{RATE, band_db, demo_loop, near, powers, signal, signal_at, source, tone};
use proptest::prelude::*;

const MONO: [f64; 2] = [0.5, 0.5];
const SIDE: [f64; 2] = [0.5, -0.5];

/// Level of a partial as its peak, dBFS.
fn partial_dbfs(buffer: &Buffer, freq_hz: f64) -> f64 {
    let bin = (freq_hz * buffer.seconds()).round() as usize;
    10.0 * (2.0 * powers(buffer, [1.0, 0.0])[bin]).log10()
}

#[test]
fn waves_have_the_harmonics_of_the_textbook_and_no_others() {
    // Fourier series of square, saw and triangle of peak 1: 4/(pi k), 2/(pi k), 8/(pi k)^2.
    let params = [("freq_hz", 440.0), ("level_dbfs", 0.0), ("seconds", 1.0)];
    type Size = fn(f64) -> f64;
    let waves: [(&str, Size, usize); 3] = [
        ("square", |k| 4.0 / (std::f64::consts::PI * k), 2),
        ("saw", |k| 2.0 / (std::f64::consts::PI * k), 1),
        ("triangle", |k| 8.0 / (std::f64::consts::PI * k).powi(2), 2),
    ];
    for (kind, size, step) in waves {
        for rate in [44_100, 48_000] {
            let wave = signal_at(rate, kind, &params, 1);
            let mut of_harmonics = 0.0;
            for k in (1..=rate as usize / 880).step_by(step) {
                let found = partial_dbfs(&wave, 440.0 * k as f64);
                near(found, 20.0 * size(k as f64).log10(), 1e-3);
                of_harmonics += 10f64.powf(found / 10.0) / 2.0;
            }
            let all: f64 = powers(&wave, [1.0, 0.0]).iter().sum();
            assert!((all - of_harmonics).abs() < 1e-9, "{kind}: {} is left over", all - of_harmonics);
        }
    }
}

/// A sound of the demo scenario is the same sound at every rate.
#[test]
fn the_sounds_of_the_slip_measure_alike_at_every_rate() {
    let (mut worst, mut peaks): (f64, f64) = (0.0, 0.0);
    for kind in ALL.iter().filter(|kind| kind.family == Family::Slip) {
        let of = |rate| signal_at(rate, kind.id, &[], 2);
        let (usual, octaves) = (Levels::of(&of(48_000)), octave_levels(&of(48_000)));
        for rate in [44_100, 96_000] {
            let other = of(rate);
            let levels = Levels::of(&other);
            near(other.seconds(), of(48_000).seconds(), 1e-4);
            worst = worst.max((levels.rms_dbfs - usual.rms_dbfs).abs());
            worst = worst.max((levels.loudness_lufs - usual.loudness_lufs).abs());
            peaks = peaks.max((levels.true_peak_dbtp - usual.true_peak_dbtp).abs());
            peaks = peaks.max((levels.peak_dbfs - usual.peak_dbfs).abs());
            for ((hz, one), (_, other)) in octaves.iter().zip(octave_levels(&other)) {
                if *one > -90.0 && *hz < 12_000.0 {
                    worst = worst.max((one - other).abs());
                }
            }
        }
    }
    println!(
        "demo sources: RMS, loudness and octaves differ by {worst:.3} dB between rates at the most, peaks by {peaks:.3} dB"
    );
    assert!(worst < 0.1 && peaks < 0.15, "{worst}, {peaks}");
}

#[test]
fn hum_has_its_harmonics_and_rumble_is_heard() {
    for mains in [50.0, 60.0] {
        let hum = signal("slip-hum", &[("mains_hz", mains), ("hum_dbfs", -20.0)], 1);
        for k in 1..=(1000.0 / mains) as usize {
            let level = partial_dbfs(&hum, mains * k as f64);
            assert!(level > -70.0, "{k} times {mains} Hz: {level}");
        }
    }
    // Most of a rumble lies where loudspeakers move: at least ten times as much over 10 Hz as under it.
    let rumble = signal("slip-rumble", &[], 2);
    let (under, over) = (band_db(&rumble, SIDE, 0.5, 10.0), band_db(&rumble, SIDE, 10.0, 100.0));
    assert!(over > under + 10.0, "{under} under, {over} over 10 Hz");
}

/// Pink noise falls by 3.01 dB per octave up to half the rate, also where that is low.
#[test]
fn pink_noise_is_pink_to_its_top_at_every_rate() {
    for rate in [8_000u32, 22_050, 48_000] {
        let pink = signal_at(rate, "pink-noise", &[("seconds", 120.0)], 1);
        let top = f64::from(rate) / 2.0;
        let third = |hz: f64| band_db(&pink, [1.0, 0.0], hz / 1.1, hz * 1.1);
        let middle = third(0.1 * top);
        for share in [0.02, 0.05, 0.2, 0.4, 0.6, 0.8, 0.9] {
            near(third(share * top), middle, 0.45);
        }
    }
}

/// What cannot be there at a rate is refused, and not something else made of it.
#[test]
fn tones_over_half_the_rate_are_refused() {
    for (kind, params) in [
        ("sine", vec![("freq_hz", 4000.0)]),
        ("two-tones", vec![("second_hz", 5000.0)]),
        ("sweep", vec![]),
        ("square", vec![("freq_hz", 4100.0)]),
        ("detuned-stack", vec![("freq_hz", 3990.0), ("spread_cents", 200.0)]),
        ("staircase", vec![("freq_hz", 9000.0)]),
    ] {
        let source = source(kind, &params);
        let said = source.render(8_000, 1).unwrap_err().to_string();
        assert!(said.ends_with("accepted: under 4000 Hz, half the sample rate"), "{kind}: {said}");
        assert!(source.render(48_000, 1).is_ok());
    }
}

#[test]
fn tones_and_noises_are_what_they_say() {
    let two = signal("two-tones", &[("level_dbfs", -10.0), ("second_dbfs", -30.0), ("seconds", 1.0)], 1);
    near(partial_dbfs(&two, 220.0), -10.0, 1e-3);
    near(partial_dbfs(&two, 3000.0), -30.0, 1e-3);
    // Pink noise: every octave has the same power (IEC 61260 bands by summing bins; the noise itself scatters).
    let pink = signal("pink-noise", &[("seconds", 60.0)], 1);
    near(Levels::of(&pink).rms_dbfs, -20.0, 1e-4);
    let octave = |centre: f64| band_db(&pink, [1.0, 0.0], centre / 2f64.sqrt(), centre * 2f64.sqrt());
    let levels: Vec<f64> =
        [31.25, 62.5, 125.0, 250.0, 500.0, 1000.0, 2000.0, 4000.0, 8000.0].map(octave).to_vec();
    for level in &levels {
        near(*level, levels[5], 0.4);
    }
    // A sweep spends the same time in every octave: the power in each is the same.
    let sweep = signal("sweep", &[("seconds", 10.0)], 1);
    near(band_db(&sweep, [1.0, 0.0], 100.0, 200.0), band_db(&sweep, [1.0, 0.0], 3200.0, 6400.0), 0.1);
    // An impulse is one sample; a burst has silence around it.
    let impulse = signal("impulse", &[], 1);
    assert_eq!(impulse.channels()[0].iter().filter(|x| **x != 0.0).count(), 1);
    assert_eq!(impulse.channels()[0][480], 1.0);
    let burst = signal("noise-burst", &[("lead_s", 0.1), ("burst_ms", 100.0), ("tail_s", 0.2)], 1);
    let silent = |range: std::ops::Range<usize>| burst.channels()[0][range].iter().all(|x| *x == 0.0);
    assert!(silent(0..4_800) && silent(9_600..19_200) && !silent(4_800..4_810) && burst.frames() == 19_200);
    near(Levels::of(&burst.slice(4_800..9_600)).rms_dbfs, -12.0, 0.2);
    // All waves of a stack meet at its level at most, and they fill the spread.
    let stack = signal("detuned-stack", &[("seconds", 60.0), ("spread_cents", 50.0)], 2);
    assert!(Levels::of(&stack).peak_dbfs <= -12.0 + 1e-6);
    let half = 2f64.powf(25.0 / 1200.0);
    near(
        band_db(&stack, [1.0, 0.0], 440.0 / half - 0.5, 440.0 * half + 0.5),
        Levels::of(&stack).rms_dbfs,
        0.1,
    );
}

#[test]
fn every_source_repeats_and_none_is_like_another() {
    let mut seen: Vec<Vec<f32>> = Vec::new();
    for kind in ALL {
        let [once, again] = [0; 2].map(|_| signal(kind.id, &[], 2));
        assert!(once == again, "{}", kind.id);
        let peak = Levels::of(&once).peak_dbfs;
        assert!(peak > -40.0 && peak <= 0.0 && once.seconds() <= LONGEST_S, "{}: {peak}", kind.id);
        let head = once.channels()[0][..40_000.min(once.frames())].to_vec();
        assert!(!seen.contains(&head), "{}", kind.id);
        seen.push(head);
        if kind.family == Family::Slip {
            // A loop: the step round its end is one like others.
            let x = &once.channels()[0];
            let largest = x.windows(2).map(|w| (w[1] - w[0]).abs()).fold(0.0, f32::max);
            assert!((x[0] - x[x.len() - 1]).abs() <= largest, "{}", kind.id);
        }
    }
    let seeded = |seed| signal("pink-noise", &[("seed", seed), ("seconds", 1.0)], 2);
    assert!(seeded(1.0) != seeded(2.0));
}

/// Common practice: what such sounds measure like.
#[test]
fn the_sounds_of_the_slip_measure_like_what_they_are() {
    let crest = |kind: &str| Levels::of(&signal(kind, &[], 2)).crest_db.unwrap();
    // Hits stand far over their mean level, held sounds do not, and a driven wire hardly at all.
    for (kind, low, high) in [
        ("boatyard-loop", 18.0, 26.0),
        ("slip-hits", 18.0, 26.0),
        ("slip-drum", 16.0, 24.0),
        ("slip-bass", 12.0, 20.0),
        ("slip-keys", 8.0, 14.0),
        ("slip-horn", 5.0, 11.0),
        ("slip-driven-wire", 3.0, 8.0),
    ] {
        let crest = crest(kind);
        assert!((low..high).contains(&crest), "{kind}: {crest}");
    }
    let db = |kind: &str, weights, from, to| band_db(&signal(kind, &[], 2), weights, from, to);
    // The drum and the bass live below 200 Hz; the chain and the driven wire reach far up.
    for (kind, by) in [("slip-drum", 15.0), ("slip-bass", 5.0)] {
        assert!(db(kind, MONO, 20.0, 250.0) > db(kind, MONO, 1000.0, 20_000.0) + by, "{kind}");
    }
    assert!(
        db("slip-driven-wire", MONO, 5000.0, 20_000.0) > db("slip-driven-wire", MONO, 20.0, 20_000.0) - 20.0
    );
    // Hits are mono, or each stands in its own place; a chord is short, and nothing is left of it half a second later.
    assert!(db("slip-hits", SIDE, 20.0, 20_000.0) < -250.0);
    let apart = signal("slip-hits", &[("spread", 1.0)], 2);
    assert!(band_db(&apart, SIDE, 20.0, 20_000.0) > band_db(&apart, MONO, 20.0, 20_000.0) - 6.0);
    let chords = signal("slip-chords", &[("tempo_bpm", 60.0)], 2);
    let loudest = |from_s: f64, to_s: f64| {
        Levels::of(&chords.slice(cast::frames(from_s, 48_000)..cast::frames(to_s, 48_000))).peak_dbfs
    };
    for bar in 0..4 {
        let at_s = 4.0 * f64::from(bar);
        assert!(loudest(at_s, at_s + 0.14) > -20.0);
        assert!(loudest(at_s + 0.4, at_s + 3.9) < -100.0);
    }
    // Two rhythm parts in the same range: each octave of the one is near that of the other.
    for centre in [250.0, 500.0, 1000.0] {
        let octave = |kind| db(kind, MONO, centre / 1.41, centre * 1.41);
        near(octave("slip-wires-1"), octave("slip-wires-2"), 8.0);
    }
    // Wide lows in the keys; rumble in the sides and hardly in the middle; hum at 50, 100, 150 Hz.
    assert!(db("slip-keys", SIDE, 100.0, 180.0) > db("slip-keys", MONO, 100.0, 180.0) - 3.0);
    assert!(db("slip-rumble", SIDE, 5.0, 40.0) > db("slip-rumble", MONO, 5.0, 40.0) + 30.0);
    let hum = signal("slip-hum", &[], 2);
    for (freq, level) in [(50.0, -32.0), (100.0, -41.0), (150.0, -35.0)] {
        near(partial_dbfs(&hum, freq), level, 0.5);
    }
}

#[test]
fn a_region_is_the_source_and_closes_without_a_click() {
    let source = tone(100.0, -6.0, 10.0);
    let slope = source.channels()[0].windows(2).map(|w| (w[1] - w[0]).abs()).fold(0.0, f32::max);
    let region = Region { from_s: 1.2345, to_s: 3.2101 };
    let part = cut(&source, Some(region));
    near(part.seconds(), 1.9756, 1e-4);
    let x = &part.channels()[0];
    // But for the last 5 ms it is the source, bit for bit.
    let start = (1.2345f64 * 48_000.0).round() as usize;
    assert!(x[..x.len() - 240] == source.channels()[0][start..start + x.len() - 240]);
    // A fade between two tones of this level over 240 samples adds at most twice the level over its length.
    assert!((x[0] - x[x.len() - 1]).abs() <= slope);
    assert!(x.windows(2).all(|w| (w[1] - w[0]).abs() <= slope + 2.0 * 0.51 / 240.0));
    // The whole of it stays as it is; what lies beyond counts as none; long sources give their first minute.
    assert!(cut(&source, None) == source);
    assert!(cut(&source, Some(Region { from_s: 50.0, to_s: 60.0 })) == source);
    let long = Buffer::new(RATE, vec![vec![0.1; 48_000 * 70]]).unwrap();
    near(cut(&long, None).seconds(), 60.0, 1e-9);
    assert!(Region::between(5.0, 90.0, 70.0).check().is_ok());
}

#[test]
fn boundaries_snap_to_onsets_that_are_near() {
    let onsets = [0.5, 1.0, 1.5];
    near(snapped(1.03, &onsets, 8.0), 0.999, 1e-9);
    near(snapped(1.25, &onsets, 8.0), 1.25, 1e-9);
    near(snapped(0.3, &[], 8.0), 0.3, 1e-9);
    // The onsets of the demo loop are where it was played: sixteenths at 120 beats per minute.
    let loop_onsets = clear_bend_measures::find_onsets(&demo_loop());
    let late = |at: usize| at as f64 - 6000.0 * (at as f64 / 6000.0).round();
    assert!(loop_onsets.iter().all(|&at| (-100.0..400.0).contains(&late(at))), "{loop_onsets:?}");
}

proptest! {
    #[test]
    fn any_two_places_make_a_region(a in -10f64..700.0, b in -10f64..700.0, source in 0.01f64..600.0) {
        let region = Region::between(a, b, source);
        prop_assert!(region.check().is_ok());
        prop_assert!(region.to_s <= source.max(0.1) + 1e-9);
    }
}
