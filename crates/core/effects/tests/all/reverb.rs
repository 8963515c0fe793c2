//! The reverb: what it is set to against what is measured of it, by definitions that it does not know.

use clear_bend_catalogue::NOTES;
use clear_bend_effects::{self as effects, Plan, Setup};
use clear_bend_measures::room::{Octave, Room, RoomResponse, octaves};
use clear_bend_playing::path::{Chain, Path, Stage};
use clear_bend_signals::SplitMix64;
use clear_bend_sound::Buffer;
use clear_bend_sound::cast;
use clear_bend_sound::scope::Scope;

use clear_bend_testing::{RATE, SETUP, near, signal, stage_with};

pub fn reverb(params: &[(&str, f64)]) -> Stage {
    Stage { mix: 1.0, ..stage_with("reverb", params) }
}

/// The late part by itself, at rest.
pub const LATE: &[(&str, f64)] = &[("early_count", 0.0), ("predelay_ms", 0.0), ("move_ms", 0.0)];

pub fn late(params: &[(&str, f64)]) -> Stage {
    reverb(&[LATE, params].concat())
}

pub fn room_at(stage: &Stage, rate_hz: u32) -> Room {
    Room::of(&RoomResponse::of_stage(stage, rate_hz, 30.0))
}

/// What is set, s: the fall in dB per second goes from that of the lows through that between to that of the highs, along
/// first-order curves (docs/measures.md, "Reverb").
fn set_at(freq_hz: f64, decay: f64, high: (f64, f64), low: (f64, f64)) -> f64 {
    let up = (freq_hz / high.1).powi(2);
    let falls = 1.0
        + (1.0 / low.0 - 1.0) / (1.0 + (freq_hz / low.1).powi(2))
        + (1.0 / high.0 - 1.0) * up / (1.0 + up);
    decay / falls
}

/// T30 of an octave whose frequencies fall as is set: their sum over the octave's filter, integrated backwards.
fn set_over_octave(freq_hz: f64, set: impl Fn(f64) -> f64) -> f64 {
    let edge = 10f64.powf(0.15);
    let freqs: Vec<(f64, f64, f64)> = (0..300)
        .map(|k| {
            let f = freq_hz * 2f64.powf(4.0 * (f64::from(k) + 0.5) / 300.0 - 2.0);
            let detuned = (f / freq_hz - freq_hz / f) / (edge - 1.0 / edge);
            (f / (1.0 + detuned.powi(6)), set(f), f)
        })
        .collect();
    // Left at a time: each frequency's energy times its own time constant.
    let left = |t: f64| freqs.iter().map(|(w, s, _)| w * s * 10f64.powf(-6.0 * t / s)).sum::<f64>();
    let whole = left(0.0);
    let longest = freqs.iter().map(|(_, s, _)| *s).fold(0.0, f64::max);
    let points: Vec<(f64, f64)> = (0..4000)
        .map(|k| f64::from(k) / 4000.0 * longest)
        .map(|t| (t, 10.0 * (left(t) / whole).log10()))
        .filter(|(_, db)| (-35.0..-5.0).contains(db))
        .collect();
    let n = points.len() as f64;
    let (mt, ml) = points.iter().fold((0.0, 0.0), |(a, b), (t, l)| (a + t / n, b + l / n));
    let (tt, tl) =
        points.iter().fold((0.0, 0.0), |(a, b), (t, l)| (a + (t - mt).powi(2), b + (t - mt) * (l - ml)));
    -60.0 * tt / tl
}

/// Decays at all octaves as they are set: within 5 % from 250 Hz to 8 kHz and within 10 % at 63 and 125 Hz, as a mean over seeds.
/// Settings at which an octave is reflected fewer than 25 times until it is 60 dB down, or falls within 0.15 s, are left out:
/// there are single echoes, and no even decay. `CLEAR_BEND_REVERB=200x16` tries so many settings with so many seeds.
#[test]
fn decays_are_as_they_are_set() {
    let wanted = std::env::var("CLEAR_BEND_REVERB").unwrap_or("14x6".to_owned());
    let (settings, seeds) =
        wanted.split_once('x').map(|(a, b)| (a.parse().unwrap(), b.parse().unwrap())).unwrap();
    let mut random = SplitMix64::new(14, 0);
    let mut worst = [0.0f64; 2];
    let mut compared = 0;
    let mut beyond = Vec::new();
    for _ in 0..settings {
        let mut log = |low: f64, high: f64| low * (high / low).powf(0.5 + 0.5 * random.bipolar());
        let (decay, size) = (log(0.3, 12.0), log(1.5, 20.0));
        let (high, high_from, low, low_split) =
            (log(0.1, 1.0), log(1500.0, 12_000.0), log(0.4, 2.5), log(100.0, 800.0));
        let character = ((0.5 + 0.5 * random.bipolar()) * 5.0).floor();
        let of_character = [0.9, 1.0, 0.85, 0.7, 1.0][character as usize];
        let set = |hz: f64| set_at(hz, decay, (high * of_character, high_from), (low, low_split));
        let mut sums = [(0.0, 0); 8];
        for seed in 0..seeds {
            let stage = late(&[
                ("decay_s", decay),
                ("size_m", size),
                ("high_decay", high),
                ("high_from_hz", high_from),
                ("low_decay", low),
                ("low_split_hz", low_split),
                ("character", character),
                ("seed", f64::from(seed)),
            ]);
            let room = room_at(&stage, RATE);
            for (k, (sum, count)) in sums.iter_mut().enumerate() {
                if let Some(t30) = room.t30_at([63.0, 125.0, 250.0, 500.0, 1000.0, 2000.0, 4000.0, 8000.0][k])
                {
                    (*sum, *count) = (*sum + t30, *count + 1);
                }
            }
        }
        for (k, (sum, count)) in sums.into_iter().enumerate() {
            let hz = [63.0, 125.0, 250.0, 500.0, 1000.0, 2000.0, 4000.0, 8000.0][k];
            let expected = set_over_octave(hz, set);
            if expected < (25.0 * size / 343.0).max(0.15) || expected > 20.0 || count < seeds {
                continue;
            }
            let off = sum / f64::from(count) / expected - 1.0;
            worst[usize::from(k < 2)] = worst[usize::from(k < 2)].max(off.abs());
            compared += 1;
            let allowed = if k < 2 { 0.10 } else { 0.05 };
            if off.abs() > allowed {
                beyond.push(format!(
                    "{hz} Hz: {:.3} s for {expected:.3} s at decay {decay:.2} s, size {size:.1} m, highs {high:.2} from {high_from:.0} Hz, lows {low:.2} up to {low_split:.0} Hz, character {character}",
                    sum / f64::from(count)
                ));
            }
        }
    }
    println!(
        "{compared} decays compared: worst {:.1} % from 250 Hz up, {:.1} % under it",
        100.0 * worst[0],
        100.0 * worst[1]
    );
    assert!(beyond.is_empty(), "{} of them: {beyond:#?}", beyond.len());
    assert!(compared > 5 * settings as usize);
}

/// The same decay at all rates (within 5 %).
#[test]
fn the_decay_does_not_depend_on_the_rate() {
    let stage = late(&[("decay_s", 1.5), ("high_decay", 0.5)]);
    let at = |rate_hz| room_at(&stage, rate_hz);
    let reference = at(48_000);
    for rate_hz in [8_000, 44_100, 96_000] {
        let room = at(rate_hz);
        for hz in [250.0, 500.0, 1000.0, 2000.0, 4000.0, 8000.0]
            .into_iter()
            .filter(|hz| hz * 3.0 < f64::from(rate_hz))
        {
            near(room.t30_at(hz).unwrap() / reference.t30_at(hz).unwrap(), 1.0, 0.05);
        }
    }
}

/// Plays a block of samples through a stage, on both sides.
fn run(chain: &mut Chain, input: impl Fn(usize) -> [f32; 2], from: usize, frames: usize) -> [Vec<f32>; 2] {
    let mut sides = [Vec::with_capacity(frames), Vec::with_capacity(frames)];
    for k in 0..frames {
        let [l, r] = input(from + k);
        sides[0].push(l);
        sides[1].push(r);
    }
    let [l, r] = &mut sides;
    chain.process(&mut [l, r], from);
    sides
}

fn rms(sides: &[Vec<f32>; 2]) -> f64 {
    let sum: f64 = sides.iter().flatten().map(|x| f64::from(*x).powi(2)).sum();
    (sum / (2 * sides[0].len()) as f64).sqrt()
}

/// Frozen, nothing is lost and nothing gets in: the level stays within 0.1 dB for a minute, whatever is played.
#[test]
fn frozen_it_goes_on_for_ever_at_its_level() {
    let mut random = SplitMix64::new(2, 0);
    let noise: Vec<f32> = (0..4 * RATE as usize).map(|_| cast::sample(0.1 * random.bipolar())).collect();
    for place in 0..3 {
        let stage = reverb(&[("diffusion_place", f64::from(place)), ("decay_s", 2.0)]);
        let mut chain = Chain::new(&Path { stages: vec![stage.clone()] }, SETUP);
        let at = |i: usize| [noise[i % noise.len()]; 2];
        run(&mut chain, at, 0, 2 * RATE as usize);
        let frozen = reverb(&[
            ("diffusion_place", f64::from(place)),
            ("decay_s", 2.0),
            ("freeze", 1.0),
            ("early_db", -60.0),
        ]);
        chain.set(0, &frozen);
        run(&mut chain, at, 0, RATE as usize);
        let levels: Vec<f64> =
            (0..6).map(|_| 20.0 * rms(&run(&mut chain, at, 0, 10 * RATE as usize)).log10()).collect();
        println!("frozen, place {place}: {levels:.3?} dBFS");
        assert!(levels[0] > -60.0 && levels.iter().all(|level| (level - levels[0]).abs() < 0.1));
    }
    // It never ends, and says so.
    let frozen = reverb(&[("freeze", 1.0)]);
    let processor = (frozen.effect.build)(&Plan::plain(SETUP, &frozen.values));
    assert_eq!(processor.tail(), effects::ENDLESS);
}

/// All-passes behind the lines change no level of what comes out, at any frequency: half a second of noise through them has the
/// same third-octaves as before (common practice: an all-pass is flat; Schroeder, JAES 10, 1962).
#[test]
fn all_passes_are_flat() {
    // What enters the lines, heard alone, is the input through the all-passes ahead.
    let stage = reverb(&[
        ("hear", 3.0),
        ("diffusion", 1.0),
        ("all_passes", 8.0),
        ("predelay_ms", 0.0),
        ("character", 1.0),
        ("crossfeed", 0.0),
    ]);
    let response = RoomResponse::of_stage(&stage, RATE, 4.0);
    let mut side: Vec<rustfft::num_complex::Complex64> =
        response.sides[0].iter().map(|x| rustfft::num_complex::Complex64::new(f64::from(*x), 0.0)).collect();
    rustfft::FftPlanner::new().plan_fft_forward(side.len()).process(&mut side);
    // The character has a shelf of its own behind; its formula is divided out: a first-order shelf of -3 dB, half of it at 7131 Hz.
    let tangent = |hz: f64| (std::f64::consts::PI * hz / 48_000.0).tan();
    let shelf = |hz: f64| {
        let g = 10f64.powf(-3.0 / 20.0);
        let w = tangent(hz) / (g.sqrt() * tangent(7131.0));
        ((1.0 + (g * w).powi(2)) / (1.0 + w * w)).sqrt()
    };
    let bin = 48_000.0 / side.len() as f64;
    // What is constant never gets in, and is felt up to some 30 Hz.
    for k in ((40.0 / bin) as usize..side.len() / 2).step_by(97) {
        let hz = bin * k as f64;
        near(20.0 * (side[k].norm() / shelf(hz)).log10(), 0.0, 0.01);
    }
}

/// Correlation follows the width: 1 in mono, 0 at 100 %, cos(90 degrees times width) in between and beyond, within what single
/// responses scatter.
#[test]
fn the_width_sets_the_correlation() {
    for (width, expected) in [(0.0, 1.0), (0.5, 0.707), (1.0, 0.0), (1.5, -0.707)] {
        let room = room_at(&late(&[("width", width)]), RATE);
        near(room.correlation.unwrap(), expected, if width == 0.0 { 1e-6 } else { 0.08 });
    }
}

/// The pre-delay to the sample: on the pre-delayed sound alone, and by as much on the late part; the early part moves only where
/// both are delayed.
#[test]
fn the_predelay_is_exact() {
    for predelay in [0.0, 21.0, 500.0] {
        let alone = RoomResponse::of_stage(
            &reverb(&[("hear", 1.0), ("predelay_ms", predelay), ("character", 0.0)]),
            RATE,
            1.0,
        );
        let frames = (predelay / 1000.0 * 48_000.0) as usize;
        let first = alone.sides[0].iter().position(|x| *x != 0.0).unwrap();
        assert_eq!(first, frames);
        let gap = |params: &[(&str, f64)]| {
            let all = [&[("hear", 4.0), ("move_ms", 0.0)], params].concat();
            RoomResponse::of_stage(&reverb(&all), RATE, 1.5).sides[0].iter().position(|x| *x != 0.0).unwrap()
        };
        assert_eq!(gap(&[("predelay_ms", predelay)]) - gap(&[("predelay_ms", 0.0)]), frames);
        let early = |both: f64| {
            let all = [("hear", 2.0), ("predelay_ms", predelay), ("predelay_on", both)];
            RoomResponse::of_stage(&reverb(&all), RATE, 1.5).sides[0].iter().position(|x| *x != 0.0).unwrap()
        };
        assert_eq!(early(1.0) - early(0.0), frames);
    }
}

/// A mono source through the side gives silence, bit for bit, and with the mix at 0 the dry sound, bit for bit.
#[test]
fn silence_and_the_dry_sound_pass_bit_for_bit() {
    let source = signal("slip-hits", &[], 2);
    let mono = Buffer::new(RATE, vec![source.channels()[0].clone(); 2]).unwrap();
    let through = |stage: Stage| {
        let mut out = mono.clone();
        let mut chain = Chain::new(&Path { stages: vec![stage] }, SETUP);
        out.for_each_block(500, |io| chain.process(io, 0));
        out
    };
    let side = through(Stage { scope: Scope::Side, ..reverb(&[]) });
    assert_eq!(side, mono, "the middle passes, and the side stays silent");
    assert_eq!(through(Stage { mix: 0.0, ..reverb(&[]) }), mono);
}

/// Without crossfeed each side keeps its own reverb; with all of it the sides get the same.
#[test]
fn crossfeed_decides_where_the_reverb_of_one_side_goes() {
    let balance = |crossfeed: f64| {
        let mut chain = Chain::new(&Path { stages: vec![reverb(&[("crossfeed", crossfeed)])] }, SETUP);
        let out = run(&mut chain, |i| [if i == 0 { 1.0 } else { 0.0 }, 0.0], 0, RATE as usize);
        let energy = |c: usize| out[c].iter().map(|x| f64::from(*x).powi(2)).sum::<f64>();
        (energy(0), energy(1))
    };
    let (left, right) = balance(0.0);
    assert!(left > 0.0 && right == 0.0);
    let (left, right) = balance(1.0);
    near(10.0 * (left / right).log10(), 0.0, 1.0);
}

/// Denormal numbers do not slow it down, nothing is left in it for ever, and silence stays silence.
#[test]
fn silence_ends_in_zeros() {
    let mut chain = Chain::new(
        &Path { stages: vec![reverb(&[("decay_s", 0.3)])] },
        Setup { rate_hz: 8_000, max_block: 64 },
    );
    run(&mut chain, |i| [if i < 100 { 1.0 } else { 0.0 }; 2], 0, 8_000);
    let later = run(&mut chain, |_| [0.0; 2], 8_000, 80_000);
    assert!(later[0][70_000..].iter().all(|x| *x == 0.0));
}

/// Octaves of a unit impulse hold what their bandwidth does (so that levels by octave mean something), and no more.
#[test]
fn octaves_of_an_impulse_hold_their_bandwidth() {
    let mut side = vec![0.0f32; 48_000];
    side[10_000] = 1.0;
    let found: Vec<Octave> = octaves(&[side.clone(), side], RATE, &[250.0, 1000.0, 4000.0]);
    for octave in found {
        let energy: f64 = octave.samples.iter().map(|x| x.norm_sqr()).sum::<f64>() / octave.rate_hz;
        // Both sides; third-order Butterworth: pi/6 / sin(pi/6) times its half-power width, on both ends of the spectrum.
        let width =
            octave.freq_hz * (10f64.powf(0.15) - 10f64.powf(-0.15)) * std::f64::consts::PI / 6.0 / 0.5;
        near(energy * 48_000.0 / (2.0 * 2.0 * width / 48_000.0), 1.0, 0.03);
    }
}

/// Every parameter by itself, moved while it sounds, gives the same samples in blocks of any size.
#[test]
fn each_parameter_moves_alike_in_any_block_size() {
    let effect = effects::find("reverb").unwrap();
    let source = signal("slip-hits", &[], 2).slice(0..16_000);
    let moved = |params: &[usize], block: usize| {
        let mut stage = reverb(&[]);
        let mut chain = Chain::new(&Path { stages: vec![stage.clone()] }, SETUP);
        let mut sides = [source.channels()[0].clone(), source.channels()[1].clone()];
        for k in 0..20 {
            for param in params {
                stage.values[*param] =
                    effect.params[*param].value_at([0.0, 1.0, 0.37, 0.8, 0.55][(k + param) % 5]);
            }
            chain.set(0, &stage);
            let [l, r] = &mut sides;
            let range = k * 800..(k + 1) * 800;
            for (i, (l, r)) in l[range.clone()].chunks_mut(block).zip(r[range].chunks_mut(block)).enumerate()
            {
                chain.process(&mut [l, r], k * 800 + i * block);
            }
        }
        sides
    };
    for param in 0..effect.params.len() {
        assert!(moved(&[param], 1) == moved(&[param], 800), "{}", effect.params[param].id);
    }
    let all: Vec<usize> = (0..effect.params.len()).filter(|i| effect.params[*i].id != "hear").collect();
    assert!(moved(&all, 1) == moved(&all, 800));
}

/// The pre-delay as a note: a sixteenth at 120 beats per minute lasts 125 ms, which is 6000 samples at 48 kHz; it goes with the
/// tempo, is held at 500 ms, and says so (60 s in a minute, four sixteenths in a beat).
#[test]
fn a_predelay_goes_with_the_tempo() {
    let note = |name: &str| cast::real(NOTES.iter().position(|note| *note == name).unwrap());
    let waits = |params: &[(&str, f64)]| {
        let stage = reverb(&[&[("hear", 1.0), ("predelayed_db", 0.0)], params].concat());
        let response = RoomResponse::of_stage(&stage, RATE, 1.0);
        response.sides[0].iter().position(|x| x.abs() > 1e-3).unwrap()
    };
    assert_eq!(waits(&[("predelay_note", note("1/16")), ("tempo_bpm", 120.0)]), 6000);
    assert_eq!(waits(&[("predelay_note", note("1/16")), ("tempo_bpm", 90.0)]), 8000);
    assert_eq!(waits(&[("predelay_note", note("1/32 dotted")), ("tempo_bpm", 100.0)]), 5400);
    assert_eq!(waits(&[("predelay_note", note("1/8 triplet")), ("tempo_bpm", 100.0)]), 9600);
    // Without a tempo, the catalogue's 120 holds; without a note, milliseconds do, whatever the tempo.
    assert_eq!(waits(&[("predelay_note", note("1/8"))]), 12_000);
    assert_eq!(waits(&[("predelay_ms", 20.0), ("tempo_bpm", 60.0)]), 960);
    // Too long a note is held at 500 ms.
    let slow = reverb(&[("predelay_note", note("1/4")), ("tempo_bpm", 60.0)]);
    let said = (slow.effect.remark)(&slow.values, RATE).unwrap();
    assert!(said.contains("*1.00 s*") && said.contains("500 ms"), "{said}");
    assert_eq!(waits(&[("predelay_note", note("1/4")), ("tempo_bpm", 60.0)]), 24_000);
}
