//! The response of a room: every image as a pulse, and a diffuse tail where they end.

use std::f64::consts::{FRAC_PI_2, PI, TAU};

use rustfft::num_complex::Complex64;

use super::decays::decays;
use super::measures::{BANDS_HZ, EARS_M, RoomMeasures, distance};
use super::mirrors::{MirrorImage, complete_m, images, images_between};
use crate::cast;
use crate::catalogue::METRES_PER_S;
use crate::dsp::{Kaiser, plans};
use crate::signals::SplitMix64;

/// The response begins so many samples before the direct sound comes to the nearer ear: room for the flank of its pulse.
pub const BEFORE: usize = 16;
/// A response ends here at the latest, s.
pub const LATEST_S: f64 = 10.0;
/// It ends when it has fallen by this much: 72 dB, as a share of the decay time.
const ENDS: f64 = 1.2;
/// It lasts at least so long after the direct sound, s.
const LEAST_S: f64 = 0.05;
/// Samples of a pulse to each side of its place.
const SIDE: i64 = 16;
/// A window in which images are counted, s.
const COUNTED_S: f64 = 0.004;
/// So many images are needed to take the level of the tail from them.
const ENOUGH: usize = 12;

/// Makes the response at the ears (two channels), or in the middle between them (one). A source of 1 at a distance of 1 m has
/// a pressure of 1.
#[must_use]
pub fn answer(room: &RoomMeasures, rate_hz: u32, channels: usize) -> Vec<Vec<f64>> {
    let rate = f64::from(rate_hz);
    let ears = if channels == 1 { vec![room.listener_m] } else { room.ears_m().to_vec() };
    let nearer = ears.iter().map(|ear| distance(*ear, room.source_m)).fold(f64::INFINITY, f64::min);
    // Time and place of the first sample.
    let begins_s = (nearer / METRES_PER_S * rate).floor() / rate - cast::real(BEFORE) / rate;
    let images = images(room, room.order);
    let tail = Tail::of(room, &images, rate_hz);
    let frames = cast::frames((tail.lasts_s - begins_s).clamp(LEAST_S, LATEST_S), rate_hz);
    let mut trains: Vec<[Vec<f64>; 6]> = ears.iter().map(|_| [(); 6].map(|()| vec![0.0; frames])).collect();
    let window = Kaiser::new(90.0);
    for image in &images {
        let gains = image.gains(room);
        for (ear, train) in ears.iter().zip(&mut trains) {
            let away = distance(image.place_m, *ear);
            let at = (away / METRES_PER_S - begins_s) * rate;
            let (near, part) = (cast::whole(at.floor()), at - at.floor());
            for k in 1 - SIDE..=SIDE {
                let Some(n) = usize::try_from(near + k).ok().filter(|n| *n < frames) else { continue };
                let off = cast::signed(k) - part;
                let sinc = if off == 0.0 { 1.0 } else { (PI * off).sin() / (PI * off) };
                let tap = sinc * window.at((off / cast::signed(SIDE)).clamp(-1.0, 1.0)) / away;
                for (band, gain) in train.iter_mut().zip(gains) {
                    band[n] += gain * tap;
                }
            }
        }
    }
    tail.add(room, &mut trains, begins_s, rate);
    trains.iter().map(|train| together(train, rate)).collect()
}

/// The diffuse part.
struct Tail {
    /// Decay times by octave, s.
    lasts: [f64; 6],
    /// When all of it has fallen far enough, s after the sound left the source.
    lasts_s: f64,
    /// The share of images that are missing, in windows of [`COUNTED_S`] from the moment the sound left the source.
    missing: Vec<f64>,
    /// By how much the images are louder than the formula for a diffuse field before they begin to be missing, in every octave.
    louder: [f64; 6],
}

impl Tail {
    fn of(room: &RoomMeasures, images: &[MirrorImage], rate_hz: u32) -> Self {
        let lasts = decays(room).map(|octave| octave.eyring_s.unwrap_or(f64::INFINITY));
        let complete_s = complete_m(room, room.order) / METRES_PER_S;
        let longest = lasts.iter().fold(0.0, |a: f64, b| a.max(*b));
        // Images between bare walls may be heard for longer than any formula says.
        let last_s = last_heard_m(room, images) / METRES_PER_S + cast::real(BEFORE) / f64::from(rate_hz);
        let lasts_s = (complete_s + ENDS * longest).max(last_s).min(2.0 * LATEST_S);
        let mut counted = vec![0.0; cast::count(lasts_s / COUNTED_S) + 2];
        let (mut found, mut heard) = (0, [0.0; 6]);
        for image in images {
            let away_s = distance(image.place_m, room.listener_m) / METRES_PER_S;
            if let Some(count) = counted.get_mut(cast::floor(away_s / COUNTED_S)) {
                *count += 1.0;
            }
            // The direct sound and the first images are no diffuse field.
            if (0.5 * complete_s..complete_s).contains(&away_s) {
                found += 1;
                let gains = image.gains(room);
                heard
                    .iter_mut()
                    .zip(gains)
                    .for_each(|(sum, gain)| *sum += (gain / (away_s * METRES_PER_S)).powi(2));
            }
        }
        let missing = counted.iter().enumerate().map(|(k, count)| {
            let (from, to) = (cast::real(k) * COUNTED_S, cast::real(k + 1) * COUNTED_S);
            if to <= complete_s {
                return 0.0;
            }
            (1.0 - count / images_between(from, to, room.volume_m3())).clamp(0.0, 1.0)
        });
        let missing = missing.collect();
        let field = 4.0 * PI * METRES_PER_S / room.volume_m3();
        let louder = [0, 1, 2, 3, 4, 5].map(|band| {
            let fall = 6.0 * std::f64::consts::LN_10 / lasts[band];
            let (from, to) = ((-fall * 0.5 * complete_s).exp(), (-fall * complete_s).exp());
            let expected = field * if fall > 0.0 { (from - to) / fall } else { 0.5 * complete_s };
            let ratio = heard[band] / expected;
            if found >= ENOUGH && ratio.is_finite() { ratio.clamp(0.1, 10.0) } else { 1.0 }
        });
        Self { lasts, lasts_s, missing, louder }
    }

    /// Adds it to the octaves of every ear. Its power is that of all images together, a pulse of 1 over its distance each: there are
    /// `4 pi c^3 t^2 / V` of them in a second at the distance `c t`, so that the distance cancels out.
    fn add(&self, room: &RoomMeasures, trains: &mut [[Vec<f64>; 6]], begins_s: f64, rate: f64) {
        let power = 4.0 * PI * METRES_PER_S / room.volume_m3() / rate;
        let frames = trains.first().map_or(0, |train| train[0].len());
        let noise = |stream: u64| {
            let mut random = SplitMix64::new(room.seed, 70 + stream);
            // An even spread over [-1, 1) has a mean square of 1/3.
            (0..frames).map(|_| 3f64.sqrt() * random.bipolar()).collect::<Vec<f64>>()
        };
        let noises = [noise(0), noise(1)];
        let time = |n: usize| begins_s + cast::real(n) / rate;
        let missing: Vec<f64> = (0..frames).map(|n| self.missing_at(time(n)).sqrt()).collect();
        for band in 0..6 {
            let fall = 3.0 * std::f64::consts::LN_10 / self.lasts[band];
            let gain = (power * self.louder[band]).sqrt();
            // Sound from all around is alike at both ears as far as it is long against their distance.
            let turn = TAU * BANDS_HZ[band] * EARS_M / METRES_PER_S;
            let alike = turn.sin() / turn;
            let levels: Vec<f64> = missing
                .iter()
                .enumerate()
                .map(|(n, missing)| gain * missing * (-fall * time(n)).exp())
                .collect();
            for (ear, train) in trains.iter_mut().enumerate() {
                let [common, own] = if ear == 0 { [1.0, 0.0] } else { [alike, (1.0 - alike * alike).sqrt()] };
                for (n, y) in train[band].iter_mut().enumerate() {
                    if missing[n] > 0.0 {
                        *y += levels[n] * (common * noises[0][n] + own * noises[1][n]);
                    }
                }
            }
        }
    }

    /// The share of images that are missing at a time, between the middles of two windows.
    fn missing_at(&self, t: f64) -> f64 {
        let place = (t / COUNTED_S - 0.5).max(0.0);
        let (k, part) = (cast::floor(place), place - place.floor());
        let share = |k: usize| self.missing.get(k).copied().unwrap_or(1.0);
        share(k) + part * (share(k + 1) - share(k))
    }
}

/// How far away the last image is before those that have less than a share of all power in every octave: 72 dB.
fn last_heard_m(room: &RoomMeasures, all: &[MirrorImage]) -> f64 {
    const LEAST: f64 = 6.3e-8;
    let mut heard: Vec<(f64, f64)> = all
        .iter()
        .map(|image| {
            let away = distance(image.place_m, room.listener_m);
            (away, (image.gains(room).into_iter().fold(0.0, f64::max) / away).powi(2))
        })
        .collect();
    heard.sort_by(|a, b| b.0.total_cmp(&a.0));
    let whole: f64 = heard.iter().map(|(_, power)| power).sum();
    let mut left = 0.0;
    let last = heard.iter().find(|(_, power)| {
        left += power;
        left > LEAST * whole
    });
    last.map_or(0.0, |(away, _)| *away)
}

/// Puts octaves together, each of which counts in its own part of the spectrum, without a phase: where all are the same, they are that.
fn together(train: &[Vec<f64>; 6], rate: f64) -> Vec<f64> {
    let frames = train[0].len();
    let length = plans::quick_length(frames + 4096);
    let (forward, backward) = (plans::forward(length), plans::backward(length));
    let mut sum = vec![Complex64::default(); length / 2 + 1];
    for (band, samples) in train.iter().enumerate() {
        let mut time = vec![0.0; length];
        time[..frames].copy_from_slice(samples);
        let mut spectrum = vec![Complex64::default(); length / 2 + 1];
        let done = forward.process(&mut time, &mut spectrum);
        debug_assert!(done.is_ok(), "the lengths fit");
        for (bin, (sum, x)) in sum.iter_mut().zip(&spectrum).enumerate() {
            *sum += x * weight(band, cast::real(bin) * rate / cast::real(length));
        }
    }
    let mut time = vec![0.0; length];
    sum[0].im = 0.0;
    if let Some(last) = sum.last_mut() {
        last.im = 0.0;
    }
    let done = backward.process(&mut sum, &mut time);
    debug_assert!(done.is_ok(), "the lengths fit");
    time.truncate(frames);
    time.iter_mut().for_each(|x| *x /= cast::real(length));
    time
}

/// How much an octave counts at a frequency: all at its middle, nothing at that of the next.
fn weight(band: usize, freq_hz: f64) -> f64 {
    let place = (freq_hz / BANDS_HZ[0]).log2().clamp(0.0, cast::real(BANDS_HZ.len() - 1));
    let off = (place - cast::real(band)).abs();
    if off < 1.0 { (FRAC_PI_2 * off).cos().powi(2) } else { 0.0 }
}
