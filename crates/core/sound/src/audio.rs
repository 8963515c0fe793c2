//! A passage of sound in memory.

use crate::Refusal;
use crate::cast;

/// The sample rates that are accepted, in Hz.
pub const RATES_HZ: std::ops::RangeInclusive<u32> = 8_000..=192_000;

/// The longest passage that is accepted, in seconds.
pub const LONGEST_S: f64 = 600.0;

/// The channels of a true stereo response.
pub const TRUE_STEREO: usize = 4;

/// A power of two of frames that lasts about as long at a rate as `at_48k` frames do at 48 kHz: within a factor of the
/// square root of two.
#[must_use]
pub fn frames_alike(at_48k: usize, rate_hz: u32) -> usize {
    let octaves = (f64::from(rate_hz) / 48_000.0).log2().round();
    cast::count(cast::real(at_48k) * octaves.exp2())
}

/// Samples of one or two channels at one rate, channel by channel. Full scale is 1.0.
///
/// A response may have four, for true stereo: what the left input gives left and right, then what the right input gives left and right
/// (common practice). Played by itself it is what both inputs together give: see [`Buffer::into_stereo`].
#[derive(Debug, Clone, PartialEq)]
pub struct Buffer {
    rate_hz: u32,
    recorded_hz: u32,
    channels: Vec<Vec<f32>>,
}

impl Buffer {
    /// Takes one vector of samples per channel.
    ///
    /// # Errors
    /// Refuses a rate outside [`RATES_HZ`], other than one, two or four channels, and channels of unequal length.
    pub fn new(rate_hz: u32, channels: Vec<Vec<f32>>) -> Result<Self, Refusal> {
        if !RATES_HZ.contains(&rate_hz) {
            return Err(Refusal::new("rate_hz", rate_hz, "8000 to 192000 Hz"));
        }
        if !matches!(channels.len(), 1 | 2 | TRUE_STEREO) {
            let accepted = "1 (mono), 2 (stereo) or 4 (a true stereo response)";
            return Err(Refusal::new("channels", channels.len(), accepted));
        }
        let length = channels[0].len();
        if let Some(other) = channels.iter().find(|c| c.len() != length) {
            return Err(Refusal::new(
                "channels",
                format!("{length} and {} samples", other.len()),
                "channels of equal length",
            ));
        }
        Ok(Self { rate_hz, recorded_hz: rate_hz, channels })
    }

    /// The same mono signal on one or two channels.
    ///
    /// # Errors
    /// As [`Buffer::new`].
    pub fn from_mono(rate_hz: u32, samples: Vec<f32>, channels: usize) -> Result<Self, Refusal> {
        Self::new(rate_hz, vec![samples; channels])
    }

    /// No samples, on one channel.
    pub fn empty(rate_hz: u32) -> Self {
        Self { rate_hz, recorded_hz: rate_hz, channels: vec![Vec::new()] }
    }

    /// Sample rate in Hz.
    #[must_use]
    pub fn rate_hz(&self) -> u32 {
        self.rate_hz
    }

    /// The rate at which it was recorded, Hz: that of its samples, if nobody has said otherwise.
    #[must_use]
    pub fn recorded_hz(&self) -> u32 {
        self.recorded_hz
    }

    /// The same samples, which were brought from the rate at which they had been recorded, Hz.
    #[must_use]
    pub fn recorded_at(self, recorded_hz: u32) -> Self {
        Self { recorded_hz, ..self }
    }

    /// Samples per channel.
    #[must_use]
    pub fn frames(&self) -> usize {
        self.channels[0].len()
    }

    /// Length in seconds.
    #[must_use]
    pub fn seconds(&self) -> f64 {
        cast::real(self.frames()) / f64::from(self.rate_hz)
    }

    /// The channels: one (mono), two (left, right), or the four of a true stereo response.
    #[must_use]
    pub fn channels(&self) -> &[Vec<f32>] {
        &self.channels
    }

    /// The channels, to be changed in place.
    pub fn channels_mut(&mut self) -> &mut [Vec<f32>] {
        &mut self.channels
    }

    /// The samples from `range`, cut to what is there.
    #[must_use]
    pub fn slice(&self, range: std::ops::Range<usize>) -> Self {
        let end = range.end.min(self.frames());
        let start = range.start.min(end);
        let channels = self.channels.iter().map(|c| c[start..end].to_vec()).collect();
        Self { channels, ..*self }
    }

    /// Makes it so many frames long: cut at its end, or with silence after it.
    pub fn resize(&mut self, frames: usize) {
        self.channels.iter_mut().for_each(|channel| channel.resize(frames, 0.0));
    }

    /// The same on two channels: mono plays on both sides, and a true stereo response gives what both of its inputs together do.
    #[must_use]
    pub fn into_stereo(mut self) -> Self {
        match self.channels.as_mut_slice() {
            [mono] => {
                let other = mono.clone();
                self.channels.push(other);
            }
            [_, _, _, _] => self.channels = both_inputs(&self.channels),
            _ => {}
        }
        self
    }

    /// The same on two channels at most: see [`Buffer::into_stereo`].
    #[must_use]
    pub fn into_played(self) -> Self {
        if self.channels.len() == TRUE_STEREO { self.into_stereo() } else { self }
    }

    /// The mean of its channels.
    #[must_use]
    pub fn into_mono(self) -> Self {
        let mut mono = self.into_played();
        if let [left, right] = mono.channels.as_mut_slice() {
            left.iter_mut().zip(right).for_each(|(left, right)| *left = 0.5 * (*left + *right));
            mono.channels.truncate(1);
        }
        mono
    }

    /// Its frames again and again until there are so many; nothing stays nothing.
    #[must_use]
    pub fn repeated(&self, frames: usize) -> Self {
        let again = |channel: &Vec<f32>| channel.iter().copied().cycle().take(frames).collect();
        Self { channels: self.channels.iter().map(again).collect(), ..*self }
    }

    /// Multiplies every sample by a gain in dB.
    pub fn apply_gain_db(&mut self, gain_db: f64) {
        let gain = cast::sample(crate::level::gain_from_db(gain_db));
        for x in self.channels.iter_mut().flatten() {
            *x *= gain;
        }
    }

    /// Runs `f` over the buffer in blocks of at most `block` frames. Audio code gets its blocks this way.
    pub fn for_each_block(&mut self, block: usize, f: impl FnMut(&mut [&mut [f32]])) {
        match self.channels.as_mut_slice() {
            [left, right] => for_each_piece(&mut [left, right], block, f),
            [mono] => for_each_piece(&mut [mono], block, f),
            _ => {}
        }
    }
}

/// What both inputs of a true stereo response together give left and right.
#[must_use]
pub fn both_inputs(channels: &[Vec<f32>]) -> Vec<Vec<f32>> {
    let (left_input, right_input) = channels.split_at(channels.len() / 2);
    let sum = |(one, other): (&Vec<f32>, &Vec<f32>)| one.iter().zip(other).map(|(x, y)| x + y).collect();
    left_input.iter().zip(right_input).map(sum).collect()
}

/// Runs `f` over the frames of one or two channels in pieces of at most `most` frames.
pub fn for_each_piece(io: &mut [&mut [f32]], most: usize, mut f: impl FnMut(&mut [&mut [f32]])) {
    let frames = io.first().map_or(0, |c| c.len());
    let most = most.max(1);
    for start in (0..frames).step_by(most) {
        stretch(io, start..(start + most).min(frames), &mut f);
    }
}

/// Hands on a stretch of every channel of a block.
pub fn stretch(io: &mut [&mut [f32]], range: std::ops::Range<usize>, f: impl FnOnce(&mut [&mut [f32]])) {
    match io {
        [left, right] => f(&mut [&mut left[range.clone()], &mut right[range]]),
        [mono] => f(&mut [&mut mono[range]]),
        _ => {}
    }
}

/// Replaces NaN, infinities and denormals by zero, so that nothing downstream ever meets them.
pub fn sanitise(samples: &mut [f32]) {
    for x in samples {
        let normal = (f32::MIN_POSITIVE..=f32::MAX).contains(&x.abs());
        *x = if normal { *x } else { 0.0 };
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn refuses_what_is_not_mono_or_stereo_at_a_usual_rate() {
        assert_eq!(
            Buffer::new(48_000, vec![]).unwrap_err().to_string(),
            "channels is 0; accepted: 1 (mono), 2 (stereo) or 4 (a true stereo response)"
        );
        assert!(Buffer::new(3, vec![vec![0.0]]).is_err());
        assert!(Buffer::new(48_000, vec![vec![0.0], vec![]]).is_err());
    }

    #[test]
    fn sanitise_leaves_only_zero_and_normal_numbers() {
        let mut x = [f32::NAN, f32::INFINITY, -f32::INFINITY, 1e-40, -1e-40, 0.5, -1.0, 0.0, f32::MAX];
        sanitise(&mut x);
        assert_eq!(x, [0.0, 0.0, 0.0, 0.0, 0.0, 0.5, -1.0, 0.0, f32::MAX]);
    }
}
