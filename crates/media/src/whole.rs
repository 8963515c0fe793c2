//! Samples as whole numbers, for files of 16 or 24 bits.

use clear_bend_signals::SplitMix64;
use clear_bend_sound::Buffer;
use clear_bend_sound::Refusal;

/// Word lengths of files of whole numbers.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Bits {
    /// 16 bits.
    Sixteen,
    /// 24 bits.
    TwentyFour,
}

impl Bits {
    /// How many.
    #[must_use]
    pub fn count(self) -> u16 {
        match self {
            Self::Sixteen => 16,
            Self::TwentyFour => 24,
        }
    }

    fn full_scale(self) -> f64 {
        f64::from(self.count() - 1).exp2()
    }

    /// The step that lies nearest to a sample.
    pub(crate) fn nearest(self, x: f32) -> i32 {
        self.nearest_to(f64::from(x) * self.full_scale())
    }

    fn nearest_to(self, steps: f64) -> i32 {
        rounded(steps.round().clamp(-self.full_scale(), self.full_scale() - 1.0))
    }
}

/// The samples of all channels in turn. Where 16 bits are not enough, triangular dither of two steps is added before
/// rounding (Lipshitz, Wannamaker, Vanderkooy, "Quantization and Dither", JAES 40(5), 1992); it is the same every time.
///
/// # Errors
/// Refuses samples over full scale.
pub fn whole_numbers(buffer: &Buffer, bits: Bits) -> Result<impl Iterator<Item = i32> + '_, Refusal> {
    let peak = buffer.channels().iter().flatten().fold(0.0f32, |peak, x| peak.max(x.abs()));
    if peak > 1.0 {
        let found = format!("{:+.1} dBFS", clear_bend_sound::level::db_from_gain(f64::from(peak)));
        let accepted =
            format!("at most 0 dBFS in a file of {} bits; 32-bit float holds any level", bits.count());
        return Err(Refusal::new("peak", found, accepted));
    }
    let full_scale = bits.full_scale();
    let fits = move |x: &f32| (f64::from(*x) * full_scale).fract() == 0.0;
    let dithers = bits == Bits::Sixteen && !buffer.channels().iter().flatten().all(fits);
    let mut random = SplitMix64::new(16, 1);
    let in_turn = (0..buffer.frames()).flat_map(|frame| buffer.channels().iter().map(move |c| c[frame]));
    Ok(in_turn.map(move |x| {
        let dither = if dithers { 0.5 * (random.bipolar() + random.bipolar()) } else { 0.0 };
        bits.nearest_to(f64::from(x) * full_scale + dither)
    }))
}

/// A whole number of at most 24 bits.
#[allow(clippy::cast_possible_truncation)]
fn rounded(value: f64) -> i32 {
    value as i32
}
