//! What is heard of falling octaves through the filter with which each is measured, and how they are brought back to what is drawn.

use super::curves::OCTAVES_HZ;
use super::falls::{COUNT, Falls};
use super::part::Part;
use clear_bend_sound::cast;
use clear_bend_sound::dsp::{InOctaves, Octave, exact_middle, octave_weight};

/// One octave of random reflections falls a little faster or slower than its curve says by chance, and through a filter of an octave
/// its neighbours are heard as well. It is brought back by at most this factor, in at most so many rounds, or until nothing moves by
/// more than a share.
const MOST_OFF: f64 = 1.4;
const ROUNDS: usize = 8;
const AT_REST: f64 = 1e-4;
/// What lies further from the middle of an octave than this, as a ratio, is not heard through its filter.
const REACH: f64 = 2.25;

/// What is heard through the filter of an octave before anything falls.
pub struct Heard {
    bands: Vec<Band>,
}

/// What two octaves have in common that are neighbours, or one with itself.
struct Band {
    octaves: [usize; 2],
    /// In sums of [`SUMMED`](super::falls::SUMMED) points.
    power: Vec<f64>,
}

impl Heard {
    /// Hears the octave itself, its neighbours, and what each has in common with the next one.
    #[must_use]
    pub fn of(whole: &InOctaves<f32>, octave: usize, falls: &Falls) -> Self {
        let middle = exact_middle(OCTAVES_HZ[octave]);
        let near = octave.saturating_sub(1)..=(octave + 1).min(COUNT - 1);
        let pairs = near.clone().zip(near.clone().skip(1));
        let band = |[low, high]: [usize; 2]| {
            let (lower, upper) = (Part::of(low), Part::of(high));
            let (from_hz, to_hz) = (upper.edges_hz[0], lower.edges_hz[3]);
            let envelope = whole.envelope(
                from_hz.max(middle / REACH),
                to_hz.min(middle * REACH),
                // What they have in common is heard as often as each alone would be.
                |freq_hz| {
                    (lower.share(freq_hz) * upper.share(freq_hz)).sqrt() * octave_weight(freq_hz / middle)
                },
            );
            Band { octaves: [low, high], power: power_of(&envelope, falls) }
        };
        let alone = near.map(|octave| [octave; 2]);
        Self { bands: alone.chain(pairs.map(|(low, high)| [low, high])).map(band).collect() }
    }

    /// Its power as all octaves fall with their gains, in sums of [`SUMMED`](super::falls::SUMMED) points.
    fn power(&self, gains: &[Vec<f64>; COUNT]) -> Vec<f64> {
        let mut sums = vec![0.0; gains[0].len()];
        for Band { octaves: [low, high], power } in &self.bands {
            let times = if low == high { 1.0 } else { 2.0 };
            let gains = gains[*low].iter().zip(&gains[*high]);
            for (sum, (power, (a, b))) in sums.iter_mut().zip(power.iter().zip(gains)) {
                *sum += times * power * a * b;
            }
        }
        sums
    }
}

/// The power of an envelope, in sums of [`SUMMED`](super::falls::SUMMED) points.
fn power_of(envelope: &Octave<f32>, falls: &Falls) -> Vec<f64> {
    let mut power = vec![0.0; falls.sums()];
    let sums_per_sample = falls.sums_per_s() / envelope.rate_hz;
    let mut k = 0;
    for (n, x) in envelope.samples.iter().enumerate() {
        // Between the middles of two sums: the lowest octaves have fewer samples than there are sums.
        let place = (cast::real(n) * sums_per_sample - 0.5).max(0.0);
        while place >= cast::real(k + 1) {
            k += 1;
        }
        let part = place - cast::real(k);
        let energy = f64::from(x.norm_sqr()) * sums_per_sample;
        for (k, share) in [(k, 1.0 - part), (k + 1, part)] {
            if let Some(sum) = power.get_mut(k) {
                *sum += share * energy;
            }
        }
    }
    power
}

/// How many times as fast every octave must fall so that, through the filter of an octave, its decay time is that of its curve.
#[must_use]
pub fn brought_back(falls: &Falls, drawn: &[Option<f64>; COUNT], heard: &[Heard; COUNT]) -> [f64; COUNT] {
    let mut faster = [1.0; COUNT];
    // How far off each was at the least, and where.
    let mut best = [(f64::INFINITY, 1.0); COUNT];
    for _ in 0..ROUNDS {
        let gains: [Vec<f64>; COUNT] = std::array::from_fn(|octave| falls.gains(octave, faster[octave]));
        let mut moved = 0.0;
        for (octave, heard) in heard.iter().enumerate() {
            let power = heard.power(&gains);
            if let Some((drawn, now)) = drawn[octave].zip(falls.t30_s(octave, &power)) {
                let (before, off) = (faster[octave], (now / drawn).ln().abs());
                if off < best[octave].0 {
                    best[octave] = (off, before);
                }
                faster[octave] = (before * now / drawn).clamp(1.0 / MOST_OFF, MOST_OFF);
                moved = f64::max(moved, (faster[octave] / before - 1.0).abs());
            }
        }
        if moved < AT_REST {
            break;
        }
    }
    // One that falls faster may ring longer, since what it leaves is its neighbour: it would be chased to the end.
    let chased = |faster: f64| faster == MOST_OFF || faster == 1.0 / MOST_OFF;
    std::array::from_fn(|octave| if chased(faster[octave]) { best[octave].1 } else { faster[octave] })
}
