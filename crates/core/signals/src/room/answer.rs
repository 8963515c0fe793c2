//! The response of a room: every image as a pulse, and a diffuse tail where they end.

use std::f64::consts::{FRAC_PI_2, PI, TAU};

use rustfft::num_complex::Complex64;

use super::air::through_air;
use super::decays::by_walls_s;
use super::measures::{BANDS_HZ, EARS_M, RoomMeasures, distance};
use super::mirrors::{MirrorImage, complete_m, images};
use crate::SplitMix64;
use clear_bend_catalogue::METRES_PER_S;
use clear_bend_sound::cast;
use clear_bend_sound::dsp::plans::{quick_length, sound_of, spectrum_of};
use clear_bend_sound::dsp::{BUTTERWORTH_4, Corner, Kaiser, StateVariable};

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
/// So many images are needed to take the level of the tail from them, which come after this share of the time until one is missing.
const ENOUGH: usize = 12;
const DIFFUSE: f64 = 0.35;
/// Under this frequency no source sounds, Hz: pulses that all have one sign would add up to a pressure that stays.
const LOWEST_HZ: f64 = 20.0;

/// What an ear hears, octave by octave.
type Train = [Vec<f64>; 6];

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
    let frames = cast::frames((tail.ends_s - begins_s).clamp(LEAST_S, LATEST_S), rate_hz);
    let mut trains: Vec<Train> = ears.iter().map(|_| [(); 6].map(|()| vec![0.0; frames])).collect();
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
    let heard = trains.iter().map(|train| without_lowest(together(train, rate), rate));
    heard
        .map(|sound| match room.air {
            Some(air) => through_air(&sound, air, begins_s, rate),
            None => sound,
        })
        .collect()
}

/// The diffuse part.
struct Tail {
    /// Decay times by octave, s.
    lasts_s: [f64; 6],
    /// When all of it has fallen far enough, s after the sound left the source.
    ends_s: f64,
    /// The stretch of time in which the images are all there and make a diffuse field, s; none where there are too few of them.
    diffuse_s: Option<(f64, f64)>,
    /// The share of the power that is missing in every octave, in windows of [`COUNTED_S`] from the moment the sound left the source.
    missing: [Vec<f64>; 6],
}

impl Tail {
    fn of(room: &RoomMeasures, images: &[MirrorImage], rate_hz: u32) -> Self {
        let lasts_s = by_walls_s(room);
        let complete_s = complete_m(room, room.order) / METRES_PER_S;
        let longest = lasts_s.iter().fold(0.0, |a: f64, b| a.max(*b));
        // Images between bare walls may be heard for longer than any formula says.
        let last_s = last_heard_m(room, images) / METRES_PER_S + cast::real(BEFORE) / f64::from(rate_hz);
        let ends_s = (complete_s + ENDS * longest).max(last_s).min(2.0 * LATEST_S);
        let windows = cast::count(ends_s / COUNTED_S) + 2;
        let mut heard = [(); 6].map(|()| vec![0.0; windows]);
        // The direct sound and the first images are no diffuse field.
        let diffuse_s = (DIFFUSE * complete_s, complete_s);
        let (mut found, mut of_images) = (0, [0.0; 6]);
        for image in images {
            let away_m = distance(image.place_m, room.listener_m);
            let away_s = away_m / METRES_PER_S;
            let is_diffuse = (diffuse_s.0..diffuse_s.1).contains(&away_s);
            found += usize::from(is_diffuse);
            for (band, gain) in image.gains(room).into_iter().enumerate() {
                let power = (gain / away_m).powi(2);
                of_images[band] += if is_diffuse { power } else { 0.0 };
                if let Some(heard) = heard[band].get_mut(cast::floor(away_s / COUNTED_S)) {
                    *heard += power;
                }
            }
        }
        let found = found >= ENOUGH;
        let field = 4.0 * PI * METRES_PER_S / room.volume_m3();
        // The power of a field that falls as one octave does, between two moments.
        let of_field = |band: usize, from_s: f64, to_s: f64| {
            let fall = 6.0 * std::f64::consts::LN_10 / lasts_s[band];
            let falls = (-fall * from_s).exp() - (-fall * to_s).exp();
            field * if fall > 0.0 { falls / fall } else { to_s - from_s }
        };
        for (band, heard) in heard.iter_mut().enumerate() {
            let ratio = of_images[band] / of_field(band, diffuse_s.0, diffuse_s.1);
            let louder = if found && ratio.is_finite() { ratio.clamp(0.1, 10.0) } else { 1.0 };
            for (k, heard) in heard.iter_mut().enumerate() {
                let (from, to) = (cast::real(k) * COUNTED_S, cast::real(k + 1) * COUNTED_S);
                // Few images that have met few walls may be most of the power: the tail is what is left.
                let share = *heard / (louder * of_field(band, from, to));
                *heard = if to <= complete_s || share.is_nan() { 0.0 } else { (1.0 - share).clamp(0.0, 1.0) };
            }
        }
        Self { lasts_s, ends_s, diffuse_s: found.then_some(diffuse_s), missing: heard }
    }

    /// By how much the images of an octave are louder than a diffuse field would be that falls as the tail does, as a power, over the
    /// time in which all are there: in small rooms few modes lie in the lowest octaves, and neither the formula nor the sum of the images'
    /// powers says how loud those are.
    fn louder(&self, power: f64, band: usize, trains: &[Train], begins_s: f64, rate: f64) -> f64 {
        let Some((from_s, to_s)) = self.diffuse_s else { return 1.0 };
        let place = |s: f64| cast::count(((s - begins_s) * rate).max(0.0));
        let (mut heard, mut expected) = (0.0, 0.0);
        let fall = 6.0 * std::f64::consts::LN_10 / self.lasts_s[band];
        for train in trains {
            let (sound, share) = octave_alone(&train[band], BANDS_HZ[band], rate);
            let part = place(from_s).min(sound.len())..place(to_s).min(sound.len());
            heard += sound[part.clone()].iter().map(|x| x * x).sum::<f64>();
            let falling = part.map(|n| (-fall * (begins_s + cast::real(n) / rate)).exp());
            expected += share * power * falling.sum::<f64>();
        }
        let ratio = heard / expected;
        if ratio.is_finite() { ratio.clamp(0.1, 10.0) } else { 1.0 }
    }

    /// Adds it to the octaves of every ear. Its power is that of all images together, a pulse of 1 over its distance each: there are
    /// `4 pi c^3 t^2 / V` of them in a second at the distance `c t`, so that the distance cancels out.
    fn add(&self, room: &RoomMeasures, trains: &mut [Train], begins_s: f64, rate: f64) {
        let power = 4.0 * PI * METRES_PER_S / room.volume_m3() / rate;
        let frames = trains.first().map_or(0, |train| train[0].len());
        let noise = |stream: u64| {
            let mut random = SplitMix64::new(room.seed, 70 + stream);
            // An even spread over [-1, 1) has a mean square of 1/3.
            (0..frames).map(|_| 3f64.sqrt() * random.bipolar()).collect::<Vec<f64>>()
        };
        let noises = [noise(0), noise(1)];
        let time = |n: usize| begins_s + cast::real(n) / rate;
        for band in 0..6 {
            let missing: Vec<f64> = (0..frames).map(|n| self.missing_at(band, time(n)).sqrt()).collect();
            if missing.iter().all(|missing| *missing == 0.0) {
                continue;
            }
            let fall = 3.0 * std::f64::consts::LN_10 / self.lasts_s[band];
            let gain = (power * self.louder(power, band, trains, begins_s, rate)).sqrt();
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

    /// The share of an octave that is missing at a time, between the middles of two windows.
    fn missing_at(&self, band: usize, t: f64) -> f64 {
        let place = (t / COUNTED_S - 0.5).max(0.0);
        let (k, part) = (cast::floor(place), place - place.floor());
        let share = |k: usize| self.missing[band].get(k).copied().unwrap_or(1.0);
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
fn together(train: &Train, rate: f64) -> Vec<f64> {
    let frames = train[0].len();
    let length = quick_length(frames + 4096);
    let mut sum = vec![Complex64::default(); length / 2 + 1];
    for (band, samples) in train.iter().enumerate() {
        for (bin, (sum, x)) in sum.iter_mut().zip(spectrum_of(padded(samples, length))).enumerate() {
            let place = (cast::real(bin) * rate / cast::real(length) / BANDS_HZ[0]).log2();
            *sum += x * share_of(place.clamp(0.0, cast::real(BANDS_HZ.len() - 1)) - cast::real(band));
        }
    }
    played(sum, length, frames)
}

/// An octave alone, as it counts where others lie to both of its sides, and the share of the power of white noise that it is.
fn octave_alone(samples: &[f64], freq_hz: f64, rate: f64) -> (Vec<f64>, f64) {
    let length = quick_length(samples.len() + 4096);
    let mut spectrum = spectrum_of(padded(samples, length));
    let mut power = 0.0;
    for (bin, x) in spectrum.iter_mut().enumerate() {
        let share = share_of((cast::real(bin) * rate / cast::real(length) / freq_hz).log2());
        power += share * share;
        *x *= share;
    }
    let share = power / cast::real(spectrum.len());
    (played(spectrum, length, samples.len()), share)
}

fn padded(samples: &[f64], length: usize) -> Vec<f64> {
    let mut time = samples.to_vec();
    time.resize(length, 0.0);
    time
}

fn played(spectrum: Vec<Complex64>, length: usize, frames: usize) -> Vec<f64> {
    let mut time = sound_of(spectrum, length);
    time.truncate(frames);
    time.iter_mut().for_each(|x| *x /= cast::real(length));
    time
}

/// How much an octave counts so many octaves away from its middle: all there, nothing in the middle of the next one.
fn share_of(away: f64) -> f64 {
    if away.abs() < 1.0 { (FRAC_PI_2 * away).cos().powi(2) } else { 0.0 }
}

/// Without what no source sounds.
fn without_lowest(mut sound: Vec<f64>, rate: f64) -> Vec<f64> {
    let mut filters = BUTTERWORTH_4.map(|q| (Corner::new(LOWEST_HZ, q, rate), StateVariable::default()));
    for x in &mut sound {
        *x = filters.iter_mut().fold(*x, |x, (corner, filter)| filter.step(corner, x).high);
    }
    sound
}
