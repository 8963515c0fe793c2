//! How the reverb sounds, in numbers: dense, even, without flutter and colour, and without clicks when it is moved.

use clear_bend_catalogue::StartingPoint;
use clear_bend_effects as effects;
use clear_bend_measures::room::{Density, RoomResponse, first_heard};
use clear_bend_playing::path::{Chain, Path, Stage};
use clear_bend_signals::SplitMix64;
use clear_bend_sound::Buffer;
use clear_bend_sound::cast;

use crate::reverb::{LATE, late, reverb, room_at};
use clear_bend_testing::{RATE, SETUP, band_db, near, tone};

fn density_of(stage: &Stage) -> Density {
    Density::of(&RoomResponse::of_stage(stage, RATE, 30.0).reverberant(), RATE, 3.0)
}

/// Dense within 100 ms of its first sound at full diffusion in every character up to 10 m, and only after a second or more at low diffusion.
#[test]
fn diffusion_makes_it_dense() {
    for character in 0..5 {
        for (size, place) in [(2.0, 0.0), (10.0, 0.0), (10.0, 1.0), (10.0, 2.0)] {
            let full = late(&[
                ("character", f64::from(character)),
                ("size_m", size),
                ("diffusion", 1.0),
                ("diffusion_place", place),
            ]);
            let room = room_at(&full, RATE);
            let dense = density_of(&full).points.iter().find(|point| point.density > 0.9).unwrap().at_s;
            let dense = dense - room.gap_ms.unwrap() / 1000.0;
            assert!(dense <= 0.1, "character {character}, {size} m, place {place}: {dense} s");
        }
        let low = late(&[
            ("character", f64::from(character)),
            ("size_m", 10.0),
            ("diffusion", 0.1),
            ("decay_s", 4.0),
        ]);
        let dense = density_of(&low)
            .points
            .iter()
            .find(|point| point.density > 0.9)
            .map_or(f64::INFINITY, |point| point.at_s);
        println!("character {character}: dense after {dense:.2} s at a tenth of the diffusion");
        assert!(dense >= 0.9);
    }
}

/// Moved while a tone sounds, nothing clicks: no step is larger than the tone's own slope allows, and nothing becomes infinite.
#[test]
fn nothing_clicks_when_it_is_moved() {
    let held = tone(220.0, -12.0, 4.0);
    let slope = 0.2512 * std::f64::consts::TAU * 220.0 / 48_000.0;
    for (param, values) in [
        ("size_m", [4.0, 12.0]),
        ("decay_s", [0.5, 20.0]),
        ("seed", [1.0, 77.0]),
        ("early_seed", [1.0, 77.0]),
        ("character", [0.0, 4.0]),
        ("predelay_ms", [0.0, 120.0]),
        ("lines", [0.0, 2.0]),
        ("diffusion", [0.0, 1.0]),
        ("diffusion_place", [0.0, 1.0]),
        ("diffusion_place", [1.0, 2.0]),
        ("all_passes", [1.0, 8.0]),
        ("early_count", [4.0, 40.0]),
        ("move_ms", [0.0, 2.0]),
        ("reading", [0.0, 2.0]),
        ("freeze", [0.0, 1.0]),
        ("hear", [0.0, 4.0]),
        ("width", [0.0, 1.5]),
        ("high_cut_hz", [2000.0, 20_000.0]),
        ("in_low_cut_hz", [20.0, 1000.0]),
        ("low_shelf_db", [-24.0, 12.0]),
        ("crossfeed", [0.0, 1.0]),
    ] {
        let base: &[(&str, f64)] = &[("decay_s", 1.0), ("move_ms", 0.05), ("early_diffusion", 0.6)];
        let at = |value: f64| reverb(&[base, &[(param, value)]].concat());
        let mut chain = Chain::new(&Path { stages: vec![at(values[0])] }, SETUP);
        let mut out = held.channels()[0].clone();
        let mut right = out.clone();
        let quarter = out.len() / 4;
        let mut level: f64 = 0.0;
        let mut jump: f64 = 0.0;
        for (k, (l, r)) in out.chunks_mut(quarter).zip(right.chunks_mut(quarter)).enumerate() {
            if k > 0 {
                chain.set(0, &at(values[k % 2]));
            }
            chain.process(&mut [&mut *l, &mut *r], k * quarter);
            // Steps of the second difference: a click is a corner, a tone has none.
            if k > 0 {
                for w in l.windows(3) {
                    jump = jump.max(f64::from((w[2] - 2.0 * w[1] + w[0]).abs()));
                    level = level.max(f64::from(w[0].abs()));
                }
            }
        }
        // The tone's own second difference, by the level that the reverb has brought it to.
        let own = level / 0.2512 * slope * std::f64::consts::TAU * 220.0 / 48_000.0;
        let over = jump / (level * 0.03);
        println!(
            "{param}: corner {:.1} dB under the level, own {:.1} dB",
            20.0 * (jump / level).log10(),
            20.0 * (own / level).log10()
        );
        assert!(level.is_finite() && over < 1.0, "{param}: {jump} at a level of {level}");
    }
}

/// Every starting point but metal, the coarse one and the one that stops short sounds even: EDT and T30 of the middle octaves
/// (500 Hz and 1 kHz, the single number of ISO 3382-1) agree within 10 %, as a mean over seeds.
#[test]
fn usual_settings_fall_evenly() {
    for point in even_points() {
        let (mut edt, mut t30, mut ringing, mut told) = (0.0, 0.0, 0.0, 0);
        for seed in 0..8 {
            let mut values = point.values.to_vec();
            values.retain(|(id, _)| *id != "predelay_ms");
            values.extend([("seed", f64::from(seed)), ("predelay_ms", 0.0), ("early_count", 0.0)]);
            let room = room_at(&reverb(&values), RATE);
            for octave in room.octaves.iter().filter(|octave| [500.0, 1000.0].contains(&octave.freq_hz)) {
                // A fall that is no line has no time.
                if let Some((early, all)) = octave.times.edt.zip(octave.times.t30) {
                    (edt, t30, told) = (edt + early.seconds, t30 + all.seconds, told + 1);
                }
            }
            ringing += room.ringing_db.unwrap() / 8.0;
        }
        assert!(told >= 8, "{}: {told} of 16", point.name);
        let (edt, t30) = (edt / f64::from(told), t30 / f64::from(told));
        println!("{}: EDT {edt:.2} s, T30 {t30:.2} s of {told}, single modes {ringing:.1} dB", point.name);
        near(edt / t30, 1.0, 0.10);
        assert!(ringing < 16.0);
    }
}

/// A very small size rings at single modes, far more than a usual one (common practice).
#[test]
fn a_very_small_size_rings_like_metal() {
    let ringing = |size: f64| {
        let of = |seed: u32| {
            room_at(
                &late(&[("size_m", size), ("high_decay", 1.0), ("lines", 1.0), ("seed", f64::from(seed))]),
                RATE,
            )
        };
        (0..4).map(|seed| of(seed).ringing_db.unwrap()).sum::<f64>() / 4.0
    };
    let (small, usual) = (ringing(1.0), ringing(12.0));
    println!("single modes stand out by {small:.1} dB at 1 m, {usual:.1} dB at 12 m");
    assert!(small > usual + 4.0);
}

/// The starting points that are there to sound even.
fn even_points() -> impl Iterator<Item = &'static StartingPoint> {
    let uneven = ["Metal", "Coarse tail", "Stops short"];
    effects::reverb::EFFECT.starting.iter().filter(move |point| !uneven.contains(&point.name))
}

/// The late part of a starting point, from 50 ms after its first sound until it is 40 dB down.
fn late_part(point: &StartingPoint, seed: u32) -> [Vec<f32>; 2] {
    let mut values = point.values.to_vec();
    values.retain(|(id, _)| !["predelay_ms", "early_count", "move_ms"].contains(id));
    values.extend(LATE);
    values.push(("seed", f64::from(seed)));
    let sides = RoomResponse::of_stage(&reverb(&values), RATE, 30.0).reverberant();
    let from = first_heard(&sides) + 2400;
    let energy = |i: &usize| f64::from(sides[0][*i]).powi(2) + f64::from(sides[1][*i]).powi(2);
    let all: f64 = (from..sides[0].len()).map(|i| energy(&i)).sum();
    let mut left = all;
    let end = (from..sides[0].len()).find(|i| {
        left -= energy(i);
        left < 1e-4 * all
    });
    sides.map(|side| side[from..end.unwrap_or(side.len())].to_vec())
}

/// The largest autocorrelation of an envelope (dB, windows of 5 ms, its mean over 0.2 s to both sides taken off, since no decay
/// is a straight line over all frequencies) at lags from 10 ms to half a second.
fn flutter(side: &[f32]) -> f64 {
    let levels: Vec<f64> = side
        .chunks_exact(240)
        .map(|part| 10.0 * (part.iter().map(|x| f64::from(*x).powi(2)).sum::<f64>() + 1e-30).log10())
        .collect();
    let around = |i: usize| &levels[i.saturating_sub(40)..(i + 41).min(levels.len())];
    // Near the ends what is around lies to one side, and a fall would be seen in it.
    let inside = 40.min(levels.len() / 4)..levels.len() - 40.min(levels.len() / 4);
    let mean = |part: &[f64]| part.iter().sum::<f64>() / part.len() as f64;
    let flat: Vec<f64> = inside.map(|i| levels[i] - mean(around(i))).collect();
    let product = |lag: usize| flat.iter().zip(&flat[lag..]).map(|(a, b)| a * b).sum::<f64>();
    let whole = product(0);
    (2..100.min(flat.len() / 2)).map(|lag| product(lag) / whole).fold(f64::MIN, f64::max)
}

/// No flutter: the envelope of the late part repeats itself hardly more than that of noise with the same decay, as a mean over
/// seeds.
#[test]
fn late_parts_do_not_flutter() {
    let mut worst = f64::MIN;
    for point in even_points() {
        let (mut found, mut noise) = (0.0, 0.0);
        for seed in 0..16 {
            let [left, right] = late_part(point, seed);
            found += (flutter(&left) + flutter(&right)) / 32.0;
            let mut random = SplitMix64::new(u64::from(seed), 9);
            let mut gauss = || (0..12).map(|_| random.bipolar()).sum::<f64>();
            let length = left.len();
            // 40 dB down at its end.
            let gain = |i: usize| 10f64.powf(-2.0 * i as f64 / length as f64);
            let mut of_noise =
                || flutter(&(0..length).map(|i| cast::sample(gain(i) * gauss())).collect::<Vec<f32>>());
            noise += (of_noise() + of_noise()) / 32.0;
        }
        println!("{}: envelope repeats by {found:.3}, that of noise by {noise:.3}", point.name);
        worst = worst.max(found - noise);
    }
    assert!(worst <= 0.1, "{worst}");
}

/// No colour: third-octaves of the late part from 100 Hz to 10 kHz stay within 1.5 dB of their smooth trend (a parabola through
/// three octaves around, over the logarithm of frequency), as a mean over seeds and both sides.
#[test]
fn late_parts_have_no_colour() {
    let mut worst_of_all: f64 = 0.0;
    let bands: Vec<f64> = (-10..=10).map(|k| 1000.0 * 10f64.powf(0.1 * f64::from(k))).collect();
    for point in even_points() {
        let mut sums = vec![0.0; bands.len()];
        for seed in 0..16 {
            let sides = late_part(point, seed).to_vec();
            let sound = Buffer::new(RATE, sides).unwrap();
            for (sum, hz) in sums.iter_mut().zip(&bands) {
                for weights in [[1.0, 0.0], [0.0, 1.0]] {
                    let edge = 10f64.powf(0.05);
                    *sum += band_db(&sound, weights, hz / edge, hz * edge) - 10.0 * hz.log10();
                }
            }
        }
        let levels: Vec<f64> = sums.iter().map(|sum| sum / 32.0).collect();
        let worst = (0..levels.len()).map(|i| (levels[i] - trend(&levels, i)).abs()).fold(0.0, f64::max);
        println!("{}: third-octaves within {worst:.2} dB of their trend", point.name);
        worst_of_all = worst_of_all.max(worst);
    }
    assert!(worst_of_all <= 1.5, "{worst_of_all}");
}

/// The least-squares parabola through the nine values around a place, there.
fn trend(values: &[f64], place: usize) -> f64 {
    let from = place.saturating_sub(4).min(values.len() - 9);
    parabola(&values[from..from + 9])[place - from]
}

/// The least-squares parabola through values at even distances.
fn parabola(values: &[f64]) -> Vec<f64> {
    let middle = (values.len() - 1) as f64 / 2.0;
    let xs: Vec<f64> = (0..values.len()).map(|i| (i as f64 - middle) / middle).collect();
    let sum = |power: i32| xs.iter().map(|x| x.powi(power)).sum::<f64>();
    let with = |power: i32| xs.iter().zip(values).map(|(x, y)| x.powi(power) * y).sum::<f64>();
    let (n, s2, s4) = (sum(0), sum(2), sum(4));
    let (y0, y1, y2) = (with(0), with(1), with(2));
    let c = (n * y2 - s2 * y0) / (n * s4 - s2 * s2);
    let (b, a) = (y1 / s2, (y0 - c * s2) / n);
    xs.iter().map(|x| a + b * x + c * x * x).collect()
}
