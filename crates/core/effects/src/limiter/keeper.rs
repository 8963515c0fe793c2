//! Keeps the wave between samples under the ceiling, once the limiter is done.
//!
//! A gain that moves changes the wave between samples in a way that no look ahead of it can know: the samples of a true
//! peak have slightly different gains. What is still over the ceiling is little, so that a second, small gain settles it.

use super::envelope::Envelope;
use crate::Setup;
use clear_bend_sound::cast;
use clear_bend_sound::dsp::{Between, Delay, SlidingMax, db_from_linear, larger, linear_from_db, smaller};
use clear_bend_sound::level::gain_from_db;

/// The small gain comes and goes over this time, s: the slower, the less it changes the wave by itself.
const SMOOTH_S: f64 = 0.002;
/// The time in which it goes back by 63 %, s.
const RELEASE_S: f64 = 0.005;
/// The gain for a peak holds for so many samples around it, of which the wave there is mostly made.
const GUARD: usize = 8;
/// It keeps this far under the ceiling, dB: what it changes by moving, and what lies between the places it looks at.
const ROOM_DB: f64 = 0.04;

/// The second, small gain of a limiter, for one or two channels.
pub(super) struct Keeper {
    between: [Between; 2],
    around: SlidingMax,
    envelope: Envelope,
    late: [Delay; 2],
    peaks: Vec<f32>,
    gain_db: Vec<f32>,
    room: f32,
}

impl Keeper {
    /// Frames by which it is late at a rate.
    pub(super) fn latency(rate_hz: u32) -> usize {
        Between::LATENCY + 1 + GUARD + cast::frames(SMOOTH_S, rate_hz)
    }

    pub(super) fn new(setup: Setup) -> Self {
        let smooth = cast::frames(SMOOTH_S, setup.rate_hz);
        let between = Between::new(setup.max_block);
        let late = Delay::new(Self::latency(setup.rate_hz));
        let mut envelope = Envelope::new(smooth, smooth);
        envelope.set_release(-(-1.0 / (RELEASE_S * f64::from(setup.rate_hz))).exp_m1());
        Self {
            between: [between.clone(), between],
            // The places of a frame lie within one frame to each side of it.
            around: SlidingMax::new(3 + 2 * GUARD, setup.max_block),
            envelope,
            late: [late.clone(), late],
            peaks: vec![0.0; setup.max_block],
            gain_db: vec![0.0; setup.max_block],
            room: cast::sample(gain_from_db(ROOM_DB)),
        }
    }

    /// Delays a block, keeps it under the ceiling (linear, on each frame as it comes in) and gives the gain of each frame
    /// that leaves, dB. Where it does not keep, it only delays.
    pub(super) fn process(&mut self, io: &mut [&mut [f32]], ceiling: &[f32], keeps: bool) -> &[f32] {
        let n = ceiling.len();
        let (peaks, gain_db) = (&mut self.peaks[..n], &mut self.gain_db[..n]);
        peaks.fill(0.0);
        let lowest = ceiling.iter().copied().fold(f32::MAX, smaller);
        for (channel, between) in io.iter().zip(&mut self.between) {
            between.raise(channel, lowest, peaks);
        }
        self.around.process(peaks);
        for ((gain, peak), ceiling) in gain_db.iter_mut().zip(&*peaks).zip(ceiling) {
            let over = if keeps { larger(peak * self.room / ceiling, 1.0) } else { 1.0 };
            *gain = self.envelope.push(-db_from_linear(over));
        }
        for (late, channel) in self.late.iter_mut().zip(io.iter_mut()) {
            late.process(channel);
            for (x, gain) in channel.iter_mut().zip(&*gain_db) {
                *x *= linear_from_db(*gain);
            }
        }
        gain_db
    }

    pub(super) fn reset(&mut self) {
        self.between.iter_mut().for_each(Between::reset);
        self.around.reset();
        self.envelope.reset();
        self.late.iter_mut().for_each(Delay::reset);
    }
}
