//! The level that decides: of the signal itself or of a key, peak or RMS, of one channel or of both.

use crate::{Beside, MOVE_S, Setup};
use clear_bend_sound::cast;
use clear_bend_sound::dsp::{Corner, Ramp, SlidingMax, StateVariable, larger};

/// The detector holds the largest sample of this time, so that any tone above 500 Hz reads as a steady
/// level. Below, the gain follows the wave if attack and release let it: the distortion of a bass by
/// short times, which is a fact of the trade.
const HOLD_S: f64 = 0.001;

/// Levels under this (-200 dBFS) read as this where two channels are linked in part: keeps the logarithm finite.
const SMALLEST_LEVEL: f32 = 1e-10;

/// Low and high cut of what the detector hears, 12 dB per octave each; at the ends of their ranges they are off.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct KeyCuts {
    /// Corner of the low cut, Hz; off at 20 Hz.
    pub low_hz: f64,
    /// Corner of the high cut, Hz; off at 20 kHz.
    pub high_hz: f64,
}

impl KeyCuts {
    /// Where both are off, Hz.
    pub const OFF: Self = Self { low_hz: 20.0, high_hz: 20_000.0 };
}

/// Reads levels block by block.
#[derive(Debug, Clone)]
pub struct Detector {
    rate_hz: f64,
    low_cut: Option<Corner>,
    high_cut: Option<Corner>,
    filters: [[StateVariable; 2]; 2],
    /// What the detector hears, per channel.
    heard: [Vec<f32>; 2],
    /// The level per channel, linear; both the same when they are linked.
    levels: [Vec<f32>; 2],
    hold: [SlidingMax; 2],
    /// Share of the RMS detector in the level, 0 or 1 at rest.
    rms: Ramp,
    rms_share: f64,
    mean_square: [f64; 2],
    link: Ramp,
    lanes: usize,
    /// Channels of what is heard.
    channels: usize,
    frames: usize,
}

impl Detector {
    /// A peak detector that links both channels.
    #[must_use]
    pub fn new(setup: Setup) -> Self {
        let block = || [vec![0.0; setup.max_block], vec![0.0; setup.max_block]];
        // Half a wave of 500 Hz, counted at both ends.
        let hold = SlidingMax::new(cast::frames(HOLD_S, setup.rate_hz) + 1, setup.max_block);
        Self {
            rate_hz: f64::from(setup.rate_hz),
            low_cut: None,
            high_cut: None,
            filters: Default::default(),
            heard: block(),
            levels: block(),
            hold: [hold.clone(), hold],
            rms: Ramp::new(0.0, cast::frames(MOVE_S, setup.rate_hz)),
            rms_share: 1.0,
            mean_square: [0.0; 2],
            link: Ramp::new(1.0, cast::frames(MOVE_S, setup.rate_hz)),
            lanes: 1,
            channels: 1,
            frames: 0,
        }
    }

    /// Takes other cuts.
    pub fn set_cuts(&mut self, cuts: KeyCuts) {
        let corner = |hz| Corner::butterworth(hz, self.rate_hz);
        self.low_cut = (cuts.low_hz > KeyCuts::OFF.low_hz).then(|| corner(cuts.low_hz));
        self.high_cut = (cuts.high_hz < KeyCuts::OFF.high_hz).then(|| corner(cuts.high_hz));
    }

    /// Reads the RMS level over a window instead of the peak: the mean of the squares, smoothed by one pole whose time
    /// is the window (JAES 60(6), section 2.1).
    pub fn set_rms(&mut self, on: bool, window_ms: f64) {
        // Where one of the two has rested, it begins anew.
        if on && self.rms.rests_at(0.0) {
            self.mean_square = [0.0; 2];
        } else if !on && self.rms.rests_at(1.0) {
            self.hold.iter_mut().for_each(SlidingMax::reset);
        }
        self.rms.set(if on { 1.0 } else { 0.0 });
        self.rms_share = -(-1000.0 / (window_ms * self.rate_hz)).exp_m1();
    }

    /// How far both channels go by the louder one: 1 altogether, 0 each by itself. Returns whether that parts two
    /// channels that were one until now.
    pub fn set_link(&mut self, link: f64) -> bool {
        let parts = self.link.rests_at(1.0) && link < 1.0;
        if parts {
            let [first, second] = &mut self.hold;
            second.follow(first);
            self.mean_square[1] = self.mean_square[0];
        }
        self.link.set(link);
        parts
    }

    /// Arrives at all settings and forgets all earlier samples.
    pub fn reset(&mut self) {
        self.filters = Default::default();
        self.hold.iter_mut().for_each(SlidingMax::reset);
        self.rms.settle();
        self.link.settle();
        self.mean_square = [0.0; 2];
    }

    /// Samples until a move of the detector ends; blocks must end there, so that it makes no difference where others
    /// do. None while it is at rest.
    #[must_use]
    pub fn left(&self) -> Option<usize> {
        [&self.rms, &self.link].map(Ramp::left).into_iter().filter(|left| *left > 0).min()
    }

    /// Reads a block of the signal, or of the key if there is one; `listened` keeps what it has heard.
    pub fn process(&mut self, io: &[&mut [f32]], key: Option<Beside>, listened: bool) {
        let n = io.first().map_or(0, |c| c.len());
        self.frames = n;
        let channels = key.as_ref().map_or(io.len(), |key| key.channels().len()).clamp(1, 2);
        self.channels = channels;
        let own = |channel: usize| io.get(channel).map(|x| &**x);
        let signal = |channel: usize| match &key {
            Some(key) => key.channels().get(channel).copied().unwrap_or(&[]),
            None => own(channel).unwrap_or(&[]),
        };
        let copies = listened || self.low_cut.is_some() || self.high_cut.is_some();
        if copies {
            self.hear(signal, channels, n);
        }
        let heard = |channel: usize| if copies { &self.heard[channel][..n] } else { signal(channel) };
        // Both channels of a key drive a single one.
        let linked = channels == 1 || io.len() == 1 || self.link.rests_at(1.0);
        self.lanes = if linked { 1 } else { 2 };
        let by_rms = !self.rms.rests_at(0.0);
        let by_peak = !self.rms.rests_at(1.0);
        let [first, second] = &mut self.levels;
        let (first, second) = (&mut first[..n], &mut second[..n]);
        match (channels, linked) {
            (2, true) => {
                for (level, (a, b)) in first.iter_mut().zip(heard(0).iter().zip(heard(1))) {
                    *level = larger(a.abs(), b.abs());
                }
            }
            (2, false) => {
                rectify(heard(0), first);
                rectify(heard(1), second);
            }
            _ => rectify(heard(0), first),
        }
        // An unlinked channel keeps its own history; while linked, the second follows the first.
        for (lane, level) in [first, second].into_iter().take(self.lanes).enumerate() {
            if by_rms {
                let moves = self.rms.clone();
                let hold = &mut self.hold[lane];
                rms_and_peak(
                    level,
                    &mut self.mean_square[lane],
                    self.rms_share,
                    by_peak.then_some(hold),
                    moves,
                );
            } else {
                self.hold[lane].process(level);
            }
        }
        self.rms.skip(n);
        if self.lanes == 2 {
            let [first, second] = &mut self.levels;
            for (a, b) in first[..n].iter_mut().zip(&mut second[..n]) {
                let link = cast::sample(self.link.next_value());
                let louder = larger(*a, *b);
                // In dB: a level goes `link` of the way to the louder one.
                *a = toward(*a, louder, link);
                *b = toward(*b, louder, link);
            }
        } else {
            self.link.skip(n);
        }
    }

    /// Copies what is heard, through the cuts.
    fn hear<'a>(&mut self, signal: impl Fn(usize) -> &'a [f32], channels: usize, n: usize) {
        for (channel, (heard, [low, high])) in
            self.heard.iter_mut().zip(&mut self.filters).enumerate().take(channels)
        {
            let heard = &mut heard[..n];
            heard.copy_from_slice(signal(channel));
            if let Some(corner) = &self.low_cut {
                heard.iter_mut().for_each(|x| *x = cast::sample(low.step(corner, f64::from(*x)).high));
            }
            if let Some(corner) = &self.high_cut {
                heard.iter_mut().for_each(|x| *x = cast::sample(high.step(corner, f64::from(*x)).low));
            }
        }
    }

    /// The levels of the last block, linear: one lane for all channels, or one per channel.
    pub fn levels(&mut self) -> impl Iterator<Item = &mut [f32]> {
        let n = self.frames;
        self.levels.iter_mut().take(self.lanes).map(move |level| &mut level[..n])
    }

    /// How many lanes the last block has.
    #[must_use]
    pub fn lanes(&self) -> usize {
        self.lanes
    }

    /// What the detector has heard of the last block on a channel, if it was listened to.
    #[must_use]
    pub fn heard(&self, channel: usize) -> &[f32] {
        &self.heard[channel.min(self.channels - 1)][..self.frames]
    }
}

fn rectify(x: &[f32], out: &mut [f32]) {
    out.iter_mut().zip(x).for_each(|(out, x)| *out = x.abs());
}

fn toward(level: f32, louder: f32, link: f32) -> f32 {
    use clear_bend_sound::dsp::{exp2, log2};
    let (own, most) = (log2(larger(level, SMALLEST_LEVEL)), log2(larger(louder, SMALLEST_LEVEL)));
    exp2(own + link * (most - own))
}

/// The RMS level, or on the way from one detector to the other both, by their shares.
fn rms_and_peak(
    level: &mut [f32],
    mean_square: &mut f64,
    share: f64,
    hold: Option<&mut SlidingMax>,
    mut moves: Ramp,
) {
    let Some(hold) = hold else {
        for x in level {
            *x = rms_step(mean_square, share, *x);
        }
        return;
    };
    // Rare and short: one sample after the other.
    for x in level {
        let rms = rms_step(mean_square, share, *x);
        hold.process(std::slice::from_mut(x));
        let by_rms = cast::sample(moves.next_value());
        *x = by_rms * rms + (1.0 - by_rms) * *x;
    }
}

fn rms_step(mean_square: &mut f64, share: f64, x: f32) -> f32 {
    let square = f64::from(x) * f64::from(x);
    *mean_square += share * (square - *mean_square);
    if *mean_square < 1e-30 {
        *mean_square = 0.0;
    }
    cast::sample(mean_square.sqrt())
}
