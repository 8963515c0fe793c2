//! Playing as an audio thread does, block by block.

use clear_bend_playing::live::Live;

/// Frames of a block.
pub const BLOCK: usize = 128;

/// Plays some frames and returns left and right.
pub fn play(live: &mut Live, frames: usize) -> [Vec<f32>; 2] {
    let mut out = [vec![], vec![]];
    for _ in 0..frames.div_ceil(BLOCK) {
        let (mut left, mut right) = ([0.0; BLOCK], [0.0; BLOCK]);
        live.process(&mut left, &mut right);
        out[0].extend_from_slice(&left);
        out[1].extend_from_slice(&right);
    }
    out
}
