//! What is heavy is made bit by bit where it plays for the ear, and lanes that nobody hears rest on a slow machine; what is
//! heard stays what is rendered.

use assert_no_alloc::assert_no_alloc;
use clear_bend_effects::Setup;
use clear_bend_playing::live::Live;
use clear_bend_playing::path::{Chain, Path, Play, Stage};
use clear_bend_playing::render::render;

use clear_bend_testing::{RATE, compressor, demo_loop, signal, stage_with};

const BLOCK: usize = 128;
const SETUP: Setup = Setup { rate_hz: RATE, max_block: BLOCK };

/// Bells in linear or balanced phase; on mid or side where that is wanted.
fn bells(phase: f64, q: f64, scope: f64) -> Stage {
    let band = |k: i32| {
        [
            (format!("kind_{k}"), 6.0),
            (format!("freq_{k}_hz"), 50.0 * 3f64.powi(k)),
            (format!("gain_{k}_db"), 6.0),
            (format!("q_{k}"), q),
        ]
    };
    let mut params: Vec<(String, f64)> = (1..=5).flat_map(band).collect();
    params.extend([("phase".to_owned(), phase), ("scope_2".to_owned(), scope)]);
    let params: Vec<(&str, f64)> = params.iter().map(|(id, value)| (id.as_str(), *value)).collect();
    stage_with("equaliser", &params)
}

fn run(chain: &mut Chain, frames: usize) -> Vec<f32> {
    let noise = signal("white-noise", &[("level_dbfs", -12.0), ("seconds", 4.0)], 2);
    let mut sound = noise.slice(0..frames);
    let mut at = 0;
    sound.for_each_block(BLOCK, |io| {
        chain.process(io, at);
        at += io[0].len();
    });
    sound.channels().concat()
}

/// Prepared to the end, a chain sounds as one that was made at once: bit for bit in the same turn, and but for what is
/// rounded in another, since its pieces lie elsewhere.
#[test]
fn what_is_made_in_turns_is_what_is_made_at_once() {
    for stage in [
        bells(1.0, 1.0, 0.0),
        bells(2.0, 1.0, 0.0),
        bells(1.0, 1.0, 3.0),
        bells(1.0, 1.0, 1.0),
        bells(1.0, 12.0, 0.0),
    ] {
        let path = Path { stages: vec![stage] };
        let frames = 60_000;
        let expected = run(&mut Chain::new(&path, SETUP), frames);
        for turn in [0, 3, 19] {
            let mut chain = Chain::in_turn(&path, SETUP, turn);
            assert!(!chain.ready(), "nothing is there yet");
            assert!(run(&mut chain, BLOCK).iter().all(|x| *x == 0.0), "so nothing is heard");
            let parts = (0..).find(|_| assert_no_alloc(|| !chain.prepare())).unwrap();
            assert!(chain.ready() && (20..500).contains(&parts), "{parts}");
            chain.reset();
            let found = run(&mut chain, frames);
            let away = found.iter().zip(&expected).map(|(a, b)| (a - b).abs()).fold(0.0, f32::max);
            assert!(away <= if turn == 0 { 0.0 } else { 1e-6 }, "turn {turn}: {away}");
        }
    }
}

/// A band that moves while it plays, on all scopes in turn, makes other kernels without allocating; where it comes to rest,
/// the sound is that of its last place, and on the way there is no step.
#[test]
fn moved_bands_arrive() {
    let source = signal("sine", &[("freq_hz", 150.0), ("level_dbfs", -12.0), ("seconds", 1.0)], 2);
    let mut live = Live::new(SETUP).unwrap();
    live.set_source(source.clone());
    let path = Path { stages: vec![bells(1.0, 1.0, 0.0)] };
    live.set_path(&path);
    live.set_playing(true);
    let place = |id: &str| path.stages[0].effect.params.iter().position(|p| p.id == id).unwrap();
    let (mut left, mut right) = ([0.0; BLOCK], [0.0; BLOCK]);
    let mut heard = Vec::new();
    for k in 0..1600 {
        if k > 400 && k < 800 && k % 5 == 0 {
            live.set_param(0, 0, place("gain_1_db"), f64::from(k % 13) - 6.0).unwrap();
            live.set_param(0, 0, place("scope_2"), f64::from(k / 5 % 5)).unwrap();
        }
        if k == 800 {
            live.set_param(0, 0, place("gain_1_db"), -6.0).unwrap();
            live.set_param(0, 0, place("scope_2"), 0.0).unwrap();
        }
        assert_no_alloc(|| live.process(&mut left, &mut right));
        heard.extend_from_slice(&left);
    }
    let mut last = path.clone();
    last.stages[0].values[place("gain_1_db")] = -6.0;
    let settled = clear_bend_playing::render::render_with(&last, &source, Play::Round, |_| {}).after;
    let rms = |x: &[f32]| (x.iter().map(|x| f64::from(x * x)).sum::<f64>() / x.len() as f64).sqrt();
    let (found, expected) = (rms(&heard[heard.len() - 32_000..]), rms(&settled.channels()[0][..32_000]));
    assert!((found / expected - 1.0).abs() < 1e-3, "{found} for {expected}");
    // A sine of 150 Hz and at most 12 dB more than it has rises by no more than that from sample to sample.
    let steepest = 10f32.powf(0.05 * (-12.0 + 18.0)) * std::f32::consts::TAU * 150.0 / RATE as f32;
    assert!(heard.windows(2).all(|w| (w[1] - w[0]).abs() < steepest));
}

/// While a lane in linear phase is made, the one before it is heard; then it is, as it is rendered.
#[test]
fn a_lane_is_heard_once_it_is_made() {
    // So quiet that the monitor's limiter has nothing to do.
    let mut source = demo_loop();
    source.apply_gain_db(-24.0);
    let mut live = Live::new(SETUP).unwrap();
    live.set_source(source.clone());
    live.set_path(&compressor(&[]));
    live.set_playing(true);
    let mut heard = Vec::new();
    let linear = Path { stages: vec![bells(1.0, 1.0, 0.0)] };
    let block = |live: &mut Live, heard: &mut Vec<f32>| {
        let (mut left, mut right) = ([0.0; BLOCK], [0.0; BLOCK]);
        live.process(&mut left, &mut right);
        heard.extend_from_slice(&left);
    };
    (0..200).for_each(|_| block(&mut live, &mut heard));
    live.set_path(&linear);
    heard.clear();
    (0..20).for_each(|_| block(&mut live, &mut heard));
    assert!(heard.iter().any(|x| x.abs() > 1e-3), "what was there goes on");
    (0..800).for_each(|_| block(&mut live, &mut heard));
    let rendered = render(&linear, &source).after;
    let last = &heard[heard.len() - 4096..];
    let away = |start: usize| {
        last.iter().zip(&rendered.channels()[0][start..]).map(|(a, b)| (a - b).abs()).fold(0.0, f32::max)
    };
    // Looked at here and there, so that silence does not pass for a likeness.
    let near = |start: usize| {
        let pairs = last.iter().zip(&rendered.channels()[0][start..]).step_by(61);
        pairs.map(|(a, b)| (a - b).abs()).fold(0.0, f32::max)
    };
    let start = (0..200_000).min_by(|a, b| near(*a).total_cmp(&near(*b)));
    assert!(away(start.unwrap()) < 1e-4, "{}", away(start.unwrap()));
}

/// On a slow machine, only what is heard runs. One that is chosen begins from rest and is heard once it has run for as long as
/// it is late; what it gives then is what it would have given from rest.
#[test]
fn lanes_that_nobody_hears_rest() {
    let source = signal("sine", &[("level_dbfs", -12.0), ("seconds", 1.0)], 2);
    let lanes =
        [compressor(&[]), compressor(&[("threshold_db", -40.0), ("ratio", 10.0), ("release_ms", 20.0)])];
    let mut live = Live::new(SETUP).unwrap();
    live.set_source(source.clone());
    lanes.iter().enumerate().for_each(|(i, path)| live.set_lane(i, path));
    live.set_playing(true);
    live.set_resting(true);
    let play = |live: &mut Live, blocks: usize| {
        let mut heard = Vec::new();
        for _ in 0..blocks {
            let (mut left, mut right) = ([0.0; BLOCK], [0.0; BLOCK]);
            assert_no_alloc(|| live.process(&mut left, &mut right));
            heard.extend_from_slice(&left);
        }
        heard.iter().fold(0.0f32, |most, x| most.max(x.abs()))
    };
    play(&mut live, 200);
    let plain = play(&mut live, 200);
    live.set_heard(1);
    play(&mut live, 400);
    let held = play(&mut live, 200);
    let expected = |path: &Path| {
        let after = render(path, &source).after;
        after.channels()[0][24_000..].iter().fold(0.0f32, |most, x| most.max(x.abs()))
    };
    assert!((plain - expected(&lanes[0])).abs() < 1e-4, "{plain}");
    assert!((held - expected(&lanes[1])).abs() < 1e-4, "{held}");
    // All run again, and the other one at once, as it would have been all the time.
    live.set_resting(false);
    play(&mut live, 400);
    live.set_heard(0);
    play(&mut live, 8);
    assert!((play(&mut live, 50) - plain).abs() < 1e-4);
}
