//! A stage at work, so that whoever has a clock can see what it costs.

use clear_bend_effects::Setup;
use clear_bend_playing::path::{Chain, Path, Stage};
use clear_bend_signals::SplitMix64;
use clear_bend_sound::cast;

/// The block of an audio thread in a browser (W3C Web Audio API: a render quantum), frames.
const BLOCK: usize = 128;

/// Lets a stage run over so many seconds of stereo noise, as it is set, in the blocks of an audio thread.
pub fn run_stage(stage: &Stage, rate_hz: u32, seconds: f64) {
    let mut chain =
        Chain::new(&Path { stages: vec![stage.by_itself()] }, Setup { rate_hz, max_block: BLOCK });
    let mut random = SplitMix64::new(1, 0);
    let noise: Vec<f32> = (0..2 * BLOCK).map(|_| cast::sample(0.1 * random.bipolar())).collect();
    for block in 0..cast::frames(seconds, rate_hz) / BLOCK {
        let (mut left, mut right) = (noise[..BLOCK].to_vec(), noise[BLOCK..].to_vec());
        chain.process(&mut [&mut left, &mut right], block * BLOCK);
    }
}
