//! What is thrown, taken apart into octaves that fall each in its own time.

use super::falls::{COUNT, Falls};
use super::heard::{Heard, brought_back};
use super::part::Part;
use super::pulses::GRID;
use clear_bend_sound::cast;
use clear_bend_sound::dsp::InOctaves;
use clear_bend_sound::dsp::oversample::{self, FACTOR};

/// Silence behind the sound, so that what rings before its beginning does not come round to its end, samples.
const APART: usize = 8192;
/// So few reflections say nothing about a decay.
const FEW: usize = 100;
/// An octave that ends under this share of an eighth of the rate has an eighth of the samples.
const SLOW: f64 = 0.3;
/// So many of them come before the sound begins, a whole number of points of the grid: what rings before it.
const BEFORE: usize = 24;

/// What is thrown, taken apart into octaves when that is needed first: as long as only the way it falls is changed, it need not be again.
pub struct Thrown {
    channels: Vec<Vec<f32>>,
    /// How many reflections there are.
    count: usize,
    rate_hz: u32,
    parts: Option<Parts>,
}

/// What is thrown in octaves, whose sum it is, and what is heard of it through the filter of each.
struct Parts {
    octaves: [Split; COUNT],
    heard: Option<[Heard; COUNT]>,
}

impl Thrown {
    /// So many reflections on some channels.
    #[must_use]
    pub fn new(channels: &[Vec<f64>], count: usize, rate_hz: u32) -> Self {
        Self { channels: channels.iter().map(|x| samples(x)).collect(), count, rate_hz, parts: None }
    }

    /// The channels as they fall, octave by octave, each so that it is measured with the decay time that is drawn, s.
    pub fn fallen(&mut self, falls: &Falls, drawn: &[Option<f64>; COUNT]) -> Vec<Vec<f64>> {
        let mut fallen: Vec<Vec<f64>> =
            self.channels.iter().map(|channel| vec![0.0; channel.len()]).collect();
        let few = self.count < FEW;
        if few && falls.is_one() {
            let gains = falls.gains_at_all(0, 1.0);
            for (channel, out) in self.channels.iter().zip(&mut fallen) {
                add(&gains, channel, 1, out);
            }
            return fallen;
        }
        let parts = self.parts.get_or_insert_with(|| Parts::of(&self.channels, self.rate_hz, falls, few));
        let faster = parts.heard.as_ref().map_or([1.0; COUNT], |heard| brought_back(falls, drawn, heard));
        let gains: [Vec<f64>; COUNT] =
            std::array::from_fn(|octave| falls.gains_at_all(octave, faster[octave]));
        for (channel, out) in fallen.iter_mut().enumerate() {
            let mut slow = vec![0.0; BEFORE + out.len() / FACTOR + BEFORE];
            for (part, gains) in parts.octaves.iter().zip(&gains) {
                if part.every == 1 {
                    add(gains, &part.channels[channel], 1, out);
                } else {
                    let before = BEFORE * part.every / GRID;
                    let gains: Vec<f64> =
                        std::iter::repeat_n(gains[0], before).chain(gains.iter().copied()).collect();
                    add(&gains, &part.channels[channel], part.every, &mut slow);
                }
            }
            let quick = oversample::up(&samples(&slow));
            out.iter_mut().zip(quick.iter().skip(FACTOR * BEFORE)).for_each(|(y, x)| *y += f64::from(*x));
        }
        fallen
    }
}

/// Adds a part, which has one of so many samples, with its gains at all points.
fn add(gains: &[f64], part: &[f32], every: usize, out: &mut [f64]) {
    let each = GRID / every;
    let pairs = gains.iter().zip(gains.iter().skip(1));
    for ((gain, next), (part, out)) in pairs.zip(part.chunks(each).zip(out.chunks_mut(each))) {
        let step = (next - gain) / cast::real(each);
        for (k, (x, y)) in part.iter().zip(out).enumerate() {
            *y += f64::from(*x) * (gain + step * cast::real(k));
        }
    }
}

fn samples(sound: &[f64]) -> Vec<f32> {
    sound.iter().map(|x| cast::sample(*x)).collect()
}

impl Parts {
    fn of(channels: &[Vec<f32>], rate_hz: u32, falls: &Falls, few: bool) -> Self {
        let frames = channels[0].len();
        let side = |k: usize| channels.get(k).map_or(vec![0.0; frames], Clone::clone);
        // Of 32 bits, so that it follows a hand.
        let whole = InOctaves::<f32>::with_room(&[side(0), side(1)], rate_hz, APART);
        Self {
            octaves: std::array::from_fn(|octave| {
                Split::of(&whole, octave, channels.len(), frames, f64::from(rate_hz))
            }),
            heard: (!few).then(|| std::array::from_fn(|octave| Heard::of(&whole, octave, falls))),
        }
    }
}

/// What is thrown on each channel in one octave, without a phase.
struct Split {
    channels: Vec<Vec<f32>>,
    /// It has one of so many samples, from [`BEFORE`] of them on before the sound; or all.
    every: usize,
}

impl Split {
    fn of(whole: &InOctaves<f32>, octave: usize, channels: usize, frames: usize, rate: f64) -> Self {
        let part = Part::of(octave);
        let slow = part.edges_hz[3] < SLOW * rate / cast::real(FACTOR);
        let (every, before) = if slow { (FACTOR, BEFORE) } else { (1, 0) };
        let mut both = whole.at_lower_rate(every, |freq_hz| part.share(freq_hz));
        // What rings before the sound has come round to the end.
        both.rotate_right(before);
        both.truncate(before + frames / every + before);
        let side = |k: usize| both.iter().map(|x| if k == 0 { x.re } else { x.im }).collect();
        Self { channels: (0..channels).map(side).collect(), every }
    }
}
