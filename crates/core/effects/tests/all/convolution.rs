//! The convolution reverb against the direct sum, its response measured alone, and what its settings say; the responses that are
//! shipped against their recipes.

use std::sync::Arc;

use clear_bend_effects::Setup;
use clear_bend_measures::Levels;
use clear_bend_measures::room::{self, RoomResponse};
use clear_bend_playing::path::{Chain, Path, Stage};
use clear_bend_playing::render::render;
use clear_bend_signals::{self as signals, SplitMix64};
use clear_bend_sound::Buffer;
use proptest::prelude::*;

use clear_bend_testing::{RATE, near, signal, source, stage_with, with_sound};

fn noise(frames: usize, channels: usize, seed: u64) -> Buffer {
    let channel = |c: usize| {
        let mut random = SplitMix64::new(seed, c as u64);
        (0..frames).map(|_| 0.25 * random.bipolar() as f32).collect()
    };
    Buffer::new(RATE, (0..channels).map(channel).collect()).unwrap()
}

/// Noise that falls by 60 dB in some seconds.
fn falling(decay_s: f64, seconds: f64) -> Buffer {
    let mut response = noise((seconds * 48_000.0) as usize, 2, 3);
    for channel in response.channels_mut() {
        for (n, x) in channel.iter_mut().enumerate() {
            *x *= (-1000f64.ln() * n as f64 / (decay_s * 48_000.0)).exp() as f32;
        }
    }
    response
}

/// A convolution reverb alone, at its level as recorded if nothing else is said.
fn answered(response: &Buffer, params: &[(&str, f64)]) -> Stage {
    let all = [&[("level", 1.0)], params].concat();
    let mut stage = Stage { mix: 1.0, ..stage_with("convolution", &all) };
    with_sound(&mut stage, 0, source("impulse", &[]), response, 0);
    stage
}

fn path(stage: Stage) -> Path {
    Path { stages: vec![stage] }
}

/// What goes through a stage in blocks of these sizes, again and again.
fn in_blocks(stage: &Stage, before: &Buffer, blocks: &[usize]) -> Buffer {
    let mut chain = Chain::new(&path(stage.clone()), Setup { rate_hz: RATE, max_block: 512 });
    let mut out = before.clone();
    let mut at = 0;
    for block in blocks.iter().cycle() {
        let end = before.frames().min(at + block);
        let mut io: Vec<&mut [f32]> = out.channels_mut().iter_mut().map(|c| &mut c[at..end]).collect();
        chain.process(&mut io, at);
        at = end;
        if at == before.frames() {
            return out;
        }
    }
    out
}

/// The same samples as SciPy 1.17.1 (`oaconvolve`, run once by `tests/judge/convolved.py`, which makes the same noise) within 1e-6.
#[test]
fn another_library_convolves_to_the_same_samples() {
    let theirs: Vec<Vec<f64>> = serde_json::from_str(include_str!("../judge/convolved.json")).unwrap();
    let after = in_blocks(&answered(&falling(0.5, 0.625), &[]), &noise(40_000, 2, 9), &[128, 480, 31]);
    for (ours, theirs) in after.channels().iter().zip(&theirs) {
        assert_eq!(theirs.len(), 202);
        for (ours, theirs) in ours.iter().step_by(199).zip(theirs) {
            near(f64::from(*ours), *theirs, 1e-6);
        }
    }
}

#[test]
fn it_is_the_direct_sum_without_delay_for_every_length() {
    for (taps, frames) in
        [1usize, 2, 63, 64, 65, 127, 128, 511, 512, 513, 1025, 4095, 4096, 4097, 8193, 20_000, 100_000]
            .map(|taps| (taps, if taps > 20_000 { 1500 } else { 6000 }))
    {
        for (channels, seed) in [(1, 5), (2, 6), (4, 7)] {
            // What comes first is louder, so that every length of pieces is heard.
            let mut response = noise(taps, channels, seed);
            response.channels_mut().iter_mut().for_each(|c| c[0] = 0.5);
            // The end of a long one is reached by what comes early.
            let long = frames + if taps > 20_000 { taps } else { 0 };
            let mut before = noise(frames, 2, 9);
            before.resize(long);
            let after = in_blocks(&answered(&response, &[]), &before, &[128, 1, 77, 512, 300]);
            // Against full scale, or what is over it.
            let (mut worst, mut loudest) = (0.0f64, 1.0f64);
            for c in 0..2 {
                // By itself, or from left and from right.
                let routes = match channels {
                    4 => vec![(0, c), (1, 2 + c)],
                    _ => vec![(c, c.min(channels - 1))],
                };
                for n in (0..long).step_by(if taps > 20_000 { 97 } else { 7 }) {
                    let first = n.saturating_sub(taps - 1);
                    let through = |(from, which): &(usize, usize)| -> f64 {
                        let (x, kernel) = (&before.channels()[*from], &response.channels()[*which]);
                        (first..=n.min(frames - 1)).map(|k| f64::from(x[k]) * f64::from(kernel[n - k])).sum()
                    };
                    let sum: f64 = routes.iter().map(through).sum();
                    worst = worst.max((sum - f64::from(after.channels()[c][n])).abs());
                    loudest = loudest.max(sum.abs());
                }
            }
            assert!(worst < 1e-6 * loudest, "{taps} taps on {channels}: {worst}");
        }
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 24, ..ProptestConfig::default() })]

    /// However it is cut into blocks, and whatever is moved meanwhile, it is the same.
    #[test]
    fn any_blocks_and_moves_give_the_same(
        taps in 1usize..9000,
        blocks in prop::collection::vec(1usize..512, 1..5),
        moved in prop::collection::vec((0usize..12, 0.0f64..1.0), 1..4),
        channels in prop::sample::select(vec![1usize, 2, 4]),
    ) {
        let response = noise(taps, channels, 1);
        let stage = answered(&response, &[]);
        let mut later = stage.clone();
        for (place, unit) in moved {
            let param = &stage.effect.params[place];
            // Another form needs another chain.
            let value = if param.id == "stretch" { param.value_at(0.5 * unit) } else { param.value_at(unit) };
            later.values[place] = if param.choices.is_empty() { value } else { value.round() };
        }
        let before = noise(9000, 2, 2);
        let run = |blocks: &[usize]| {
            let mut chain = Chain::new(&path(stage.clone()), Setup { rate_hz: RATE, max_block: 512 });
            let mut out = before.clone();
            let mut at = 0;
            let mut sizes = blocks.iter().cycle();
            while at < 9000 {
                if at == 3000 {
                    chain.set(0, &later);
                }
                let end = if at < 3000 { 3000 } else { 9000 }.min(at + sizes.next().unwrap());
                let mut io: Vec<&mut [f32]> = out.channels_mut().iter_mut().map(|c| &mut c[at..end]).collect();
                chain.process(&mut io, at);
                at = end;
            }
            out
        };
        let (whole, cut) = (run(&[512]), run(&blocks));
        prop_assert!(whole.channels().iter().flatten().all(|x| x.is_finite()));
        prop_assert!(whole == cut);
    }
}

#[test]
fn an_impulse_is_the_dry_sound_bit_for_bit_and_so_is_no_response() {
    let impulse = |channels| {
        let mut one = vec![0.0f32; 6000];
        one[0] = 1.0;
        Buffer::new(RATE, vec![one; channels]).unwrap()
    };
    let before = signal("boatyard-loop", &[], 2).slice(0..48_000);
    for channels in [1, 2] {
        assert!(render(&path(answered(&impulse(channels), &[])), &before).after == before, "{channels}");
    }
    let none = Stage { mix: 1.0, ..stage_with("convolution", &[]) };
    assert!(render(&path(none.clone()), &before).after == before);
    let mut gone = answered(&impulse(1), &[]);
    gone.sounds[0].as_mut().unwrap().samples = None;
    assert!(render(&path(gone), &before).after == before);
}

fn t30(response: &RoomResponse) -> f64 {
    response.decay().times().t30.unwrap().seconds
}

/// A known decay is measured through the effect as it is alone, and goes with the stretch.
#[test]
fn the_decay_of_a_response_is_measured_as_alone_and_scales_with_its_stretch() {
    let response = falling(1.2, 1.6);
    near(t30(&RoomResponse::of_buffer(&response)) / 1.2, 1.0, 0.03);
    let measured = |stretch: f64| {
        let stage = answered(&response, &[("stretch", stretch)]);
        t30(&RoomResponse::of_stage(&stage, RATE, room::LONGEST_S))
    };
    let alone = measured(1.0);
    near(alone / t30(&RoomResponse::of_buffer(&response)), 1.0, 0.01);
    for stretch in [0.5, 0.8, 1.5, 2.0] {
        near(measured(stretch) / (stretch * alone), 1.0, 0.02);
    }
}

/// What is stretched lies as far from where it was as it is slower, at the same energy, and nothing is mirrored.
#[test]
fn a_stretched_response_is_moved_in_pitch() {
    // A tone of 5 kHz that falls: at 50 % it is one of 10 kHz, at 200 % one of 2.5 kHz.
    let tone: Vec<f32> = (0..24_000)
        .map(|n| {
            let t = f64::from(n) / 48_000.0;
            (0.5 * (std::f64::consts::TAU * 5000.0 * t).sin() * (-6.0 * t).exp()) as f32
        })
        .collect();
    let response = Buffer::new(RATE, vec![tone]).unwrap();
    let mut impulse = Buffer::new(RATE, vec![vec![0.0; 48_000]]).unwrap();
    impulse.channels_mut()[0][0] = 1.0;
    let energy = |sound: &Buffer| sound.channels()[0].iter().map(|x| f64::from(x * x)).sum::<f64>();
    for (stretch, freq_hz) in [(0.5, 10_000.0), (1.0, 5000.0), (2.0, 2500.0)] {
        let heard = render(&path(answered(&response, &[("stretch", stretch)])), &impulse).after;
        near(energy(&heard) / energy(&response), 1.0, 0.01);
        let crossings = heard.channels()[0][..9600].windows(2).filter(|w| w[0] <= 0.0 && w[1] > 0.0).count();
        near(crossings as f64 / 0.2, freq_hz, 20.0);
    }
    // What would lie over half the rate at half the length is gone.
    let high: Vec<f32> = (0..24_000)
        .map(|n| (0.3 * (std::f64::consts::TAU * 17_000.0 * f64::from(n) / 48_000.0).sin()) as f32)
        .collect();
    let high = Buffer::new(RATE, vec![high]).unwrap();
    let heard = render(&path(answered(&high, &[("stretch", 0.5)])), &impulse).after;
    assert!(energy(&heard) < 1e-4 * energy(&high), "{}", energy(&heard) / energy(&high));
}

/// True stereo, by four responses of which each is told from the others: what comes in on one side alone, on both, and on the two as
/// each other's opposite.
#[test]
fn true_stereo_takes_each_side_to_both() {
    let mut response = Buffer::new(RATE, vec![vec![0.0; 9000]; 4]).unwrap();
    for (which, (late, gain)) in [(10, 0.5), (700, 0.25), (5000, 0.2), (8999, 0.125)].into_iter().enumerate()
    {
        response.channels_mut()[which][late] = gain;
    }
    let mut before = Buffer::new(RATE, vec![vec![0.0; 12_000]; 2]).unwrap();
    for (left, right) in [(1.0, 0.0), (0.0, 1.0), (1.0, 1.0), (0.5, -1.0)] {
        (before.channels_mut()[0][0], before.channels_mut()[1][0]) = (left, right);
        let after = render(&path(answered(&response, &[])), &before).after;
        for (side, heard) in
            [[(10, 0.5 * left), (5000, 0.2 * right)], [(700, 0.25 * left), (8999, 0.125 * right)]]
                .into_iter()
                .enumerate()
        {
            for (n, x) in after.channels()[side].iter().enumerate() {
                let expected = heard.iter().find(|(at, _)| *at == n).map_or(0.0, |(_, x)| *x);
                near(f64::from(*x), f64::from(expected), 1e-7);
            }
        }
    }
    // Four that lead each side straight to itself are the dry sound bit for bit.
    let mut straight = Buffer::new(RATE, vec![vec![0.0; 6000]; 4]).unwrap();
    (straight.channels_mut()[0][0], straight.channels_mut()[3][0]) = (1.0, 1.0);
    let before = signal("boatyard-loop", &[], 2).slice(0..48_000);
    assert!(render(&path(answered(&straight, &[])), &before).after == before);
    // Shaped, cut and turned around as two are.
    let params = &[("stretch", 0.7), ("cut_s", 0.3), ("fall_ms", 50.0), ("reverse", 1.0)];
    let two = falling(0.5, 0.6);
    let silent = vec![0.0; two.frames()];
    let [left, right] = two.channels() else { unreachable!() };
    let four = Buffer::new(RATE, vec![left.clone(), silent.clone(), silent, right.clone()]).unwrap();
    let heard = |response| render(&path(answered(response, params)), &before).after;
    for (one, other) in heard(&two).channels().iter().zip(heard(&four).channels()) {
        assert!(one.iter().zip(other).all(|(x, y)| (x - y).abs() < 1e-6));
    }
}

/// Pink noise comes out of every shipped response as loud as it goes in, and of others too.
#[test]
fn pink_noise_comes_out_as_loud_as_it_went_in() {
    let pink = signal("pink-noise", &[("seconds", 8.0), ("level_dbfs", -24.0)], 2);
    let loudness = |sound: &Buffer| Levels::of(&sound.slice(192_000..384_000)).loudness_lufs;
    let dry = loudness(&pink);
    let shipped = signals::ALL.iter().filter(|kind| kind.id.starts_with("response-"));
    let mut responses: Vec<(&str, Buffer)> = shipped.map(|kind| (kind.id, signal(kind.id, &[], 2))).collect();
    assert_eq!(responses.len(), 15);
    responses.push((
        "one side",
        Buffer::new(RATE, vec![falling(0.5, 0.6).channels()[0].clone(), vec![0.0; 28_800]]).unwrap(),
    ));
    // True stereo: each way a room of its own, or all four the same.
    let (own, other) = (falling(0.5, 0.6), signal("response-sail-loft", &[], 2).slice(0..28_800));
    let four = |ways: [&Vec<f32>; 4]| Buffer::new(RATE, ways.map(Clone::clone).to_vec()).unwrap();
    let [a, b, c, d] = [&own.channels()[0], &own.channels()[1], &other.channels()[0], &other.channels()[1]];
    responses.push(("true stereo", four([a, b, c, d])));
    responses.push(("four alike", four([a, a, a, a])));
    let turned = a.iter().map(|x| -x).collect();
    responses.push(("what both sides have vanishes", four([a, b, &turned, d])));
    for (name, response) in &responses {
        for params in
            [&[("level", 0.0)][..], &[("level", 0.0), ("stretch", 0.6), ("reverse", 1.0), ("cut_s", 0.9)]]
        {
            let wet = loudness(&render(&path(answered(response, params)), &pink).after);
            assert!((wet - dry).abs() < 0.5, "{name} {params:?}: {wet} LUFS for {dry}");
        }
    }
    // Silence stays silence.
    let silent = Buffer::new(RATE, vec![vec![0.0; 9000]]).unwrap();
    assert!(
        render(&path(answered(&silent, &[("level", 0.0)])), &pink)
            .after
            .channels()
            .iter()
            .flatten()
            .all(|x| *x == 0.0)
    );
}

#[test]
fn envelope_cut_reverse_and_pre_delay_do_as_they_say() {
    let flat = Buffer::new(RATE, vec![vec![0.1; 48_000]]).unwrap();
    let mut impulse = Buffer::new(RATE, vec![vec![0.0; 60_000]]).unwrap();
    impulse.channels_mut()[0][0] = 1.0;
    let shape = |response: &Buffer, params: &[(&str, f64)]| {
        render(&path(answered(response, params)), &impulse).after.channels()[0].clone()
    };
    // A raised sine: half-way up at half the time.
    let rising = shape(&flat, &[("rise_ms", 200.0)]);
    assert!(rising[0].abs() < 1e-6);
    near(f64::from(rising[4800]), 0.05, 1e-5);
    near(f64::from(rising[9700]), 0.1, 1e-6);
    let cut = shape(&flat, &[("cut_s", 0.5), ("fall_ms", 100.0)]);
    near(f64::from(cut[19_000]), 0.1, 1e-6);
    near(f64::from(cut[24_000 - 2400]), 0.05, 1e-5);
    assert!(cut[24_001..].iter().all(|x| x.abs() < 1e-7));
    let late = shape(&flat, &[("predelay_ms", 100.0)]);
    assert!(late[..4800].iter().all(|x| x.abs() < 1e-7) && (late[4801] - 0.1).abs() < 1e-6);
    let ramp = Buffer::new(RATE, vec![(0..1000).map(|n| n as f32 / 1000.0).collect()]).unwrap();
    let back = shape(&ramp, &[("reverse", 1.0)]);
    for (n, x) in back.iter().enumerate().take(1000) {
        near(f64::from(*x), 0.999 - n as f64 / 1000.0, 1e-6);
    }
}

/// A room that is changed while a tone runs goes over without a click, and ends as if it had always been so.
#[test]
fn a_room_that_is_changed_goes_over_without_a_click() {
    let response = falling(0.8, 1.0);
    let tone = signal("sine", &[("seconds", 4.0), ("freq_hz", 440.0), ("level_dbfs", -12.0)], 2);
    let steps = |sound: &[f32]| sound.windows(2).map(|w| (w[1] - w[0]).abs()).fold(0.0f32, f32::max);
    for moved in [
        ("cut_s", 0.2),
        ("rise_ms", 300.0),
        ("reverse", 1.0),
        ("stretch", 0.7),
        ("predelay_ms", 80.0),
        ("width", 0.0),
        ("tilt_db", -9.0),
        ("low_cut_hz", 400.0),
    ] {
        let (stage, later) = (answered(&response, &[]), answered(&response, &[moved]));
        let mut chain = Chain::new(&path(stage.clone()), Setup { rate_hz: RATE, max_block: 512 });
        let mut out = tone.clone();
        let mut at = 0;
        out.for_each_block(480, |io| {
            if at == 96_000 {
                chain.set(0, &later);
            }
            chain.process(io, at);
            at += 480;
        });
        let out = &out.channels()[0];
        let steady = steps(&render(&path(stage), &tone).after.channels()[0][48_000..]);
        let after = render(&path(later), &tone).after;
        let most = steady.max(steps(&after.channels()[0][144_000..]));
        let step = steps(&out[95_000..120_000]);
        assert!(step < 1.3 * most, "{moved:?}: a step of {step}, {most} in the tone");
        let end = 180_000;
        assert!(
            out[end..end + 4800].iter().zip(&after.channels()[0][end..]).all(|(a, b)| (a - b).abs() < 1e-4),
            "{moved:?}"
        );
    }
}

/// Shipped places fall in the times of their recipes: the octave of 1 kHz, within what noise and the octaves beside it allow.
#[test]
fn shipped_responses_fall_as_their_recipes_say() {
    for (id, decay_s) in [
        ("response-chart-room", 0.3),
        ("response-net-loft", 0.72),
        ("response-sail-loft", 1.5),
        ("response-tide-hall", 2.3),
        ("response-bright-plate", 2.0),
        ("response-damped-plate", 0.8),
        ("response-tank", 1.9),
    ] {
        let response = RoomResponse::of_buffer(&signal(id, &[], 2));
        let sides = response.reverberant();
        let octave: room::Octave = room::octaves(&sides, RATE, &[1000.0]).pop().unwrap();
        let decay = room::decay_of_octave(&octave, room::first_heard(&sides), RATE, room::Ground::Noise);
        let found = decay.fit(-5.0, -35.0).unwrap().seconds;
        assert!((found / decay_s - 1.0).abs() < 0.12, "{id}: {found} s for {decay_s}");
    }
    for kind in signals::ALL.iter().filter(|kind| kind.id.starts_with("response-")) {
        let made = signal(kind.id, &[], 2);
        let peak = made.channels().iter().flatten().fold(0.0f32, |most, x| most.max(x.abs()));
        near(f64::from(peak), 0.5, 1e-6);
        assert!(made.seconds() < 5.5 && made == signal(kind.id, &[], 2), "{}", kind.id);
        assert!(
            Arc::new(made.clone()).channels() != signal(kind.id, &[("seed", 9.0)], 2).channels()
                || kind.id.contains("cabinet"),
            "{}",
            kind.id
        );
    }
}

/// Where the pitch stays, the decay goes with the stretch and every octave keeps its level; the direct sound is not doubled.
#[test]
fn a_response_is_stretched_with_its_pitch_staying() {
    let response = falling(1.2, 1.6);
    let recorded =
        |params: &[(&str, f64)]| RoomResponse::of_stage(&answered(&response, params), RATE, room::LONGEST_S);
    let alone = recorded(&[]);
    let levels = |response: &RoomResponse| {
        let sides = response.reverberant();
        let octaves: Vec<room::Octave> = room::octaves(&sides, RATE, &[250.0, 1000.0, 4000.0]);
        octaves
            .iter()
            .map(|o| 10.0 * (o.samples.iter().map(|x| x.norm_sqr()).sum::<f64>() / o.rate_hz).log10())
            .collect::<Vec<f64>>()
    };
    for stretch in [0.5, 0.8, 1.5, 2.0] {
        let stretched = recorded(&[("stretch", stretch), ("pitch", 1.0)]);
        near(t30(&stretched) / (stretch * t30(&alone)), 1.0, 0.02);
        // It lasts longer by the stretch, and so has more energy by that; no octave more than another, as far as one noise tells.
        for ((was, is), within) in levels(&alone).iter().zip(levels(&stretched)).zip([1.5, 0.8, 0.5]) {
            near(is - was - 10.0 * stretch.log10(), 0.0, within);
        }
    }
    // A tone stays where it is.
    let tone: Vec<f32> = (0..24_000)
        .map(|n| {
            let t = f64::from(n) / 48_000.0;
            (0.5 * (std::f64::consts::TAU * 5000.0 * t).sin() * (-6.0 * t).exp()) as f32
        })
        .collect();
    let tone = Buffer::new(RATE, vec![tone]).unwrap();
    let mut impulse = Buffer::new(RATE, vec![vec![0.0; 48_000]]).unwrap();
    impulse.channels_mut()[0][0] = 1.0;
    let heard = render(&path(answered(&tone, &[("stretch", 2.0), ("pitch", 1.0)])), &impulse).after;
    let crossings = heard.channels()[0][..9600].windows(2).filter(|w| w[0] <= 0.0 && w[1] > 0.0).count();
    near(crossings as f64 / 0.2, 5000.0, 100.0);
    // An impulse is the dry sound however it is stretched: nothing comes a second time.
    let before = signal("boatyard-loop", &[], 2).slice(0..48_000);
    for stretch in [0.5, 2.0] {
        let dry = answered(&impulse, &[("stretch", stretch), ("pitch", 1.0)]);
        assert!(render(&path(dry), &before).after == before, "{stretch}");
    }
}
