//! The response of a place or a device, worked out of the recording of a sweep (A. Farina, "Simultaneous Measurement of Impulse
//! Response and Distortion with a Swept-Sine Technique", AES 108th Convention, 2000).
//!
//! The spectrum of the recording over that of the sweep is that of the response. What the loudspeaker distorts is a sweep of a multiple
//! of the frequency, which comes so much earlier as the sweep takes from one to the other: it lies ahead of the response, and is cut off.

use std::f64::consts::{LN_2, PI};

use rustfft::num_complex::Complex64;
use serde::{Deserialize, Serialize};

use clear_bend_catalogue::Unit;
use clear_bend_signals::{LONGEST_RESPONSE_S, SWEEP, Source, SourceDocument, Sweep};
use clear_bend_sound::Buffer;
use clear_bend_sound::cast;
use clear_bend_sound::dsp::BUTTERWORTH_4;
use clear_bend_sound::dsp::plans::{self, sound_of, spectrum_of};
use clear_bend_sound::level::gain_from_db;
use clear_bend_sound::refusal::Refusal;

/// What the spectrum of the sweep is at least, against what it is on the whole at a frequency, as a power: -40 dB.
const LEAST: f64 = 1e-4;
/// From here to the last frequency of the sweep the response fades, as a share of that.
const FADES: f64 = 0.93;
/// At this share of the first frequency the response is 3 dB down.
const LOWEST: f64 = 0.65;
/// Blocks in which energies are compared, s.
const BLOCK_S: f64 = 0.01;
/// The response begins this long before its first sound, s, and that is looked for so long before the highest sample.
const BEFORE_S: f64 = 0.002;
const EARLIER_S: f64 = 0.05;
/// The first sound has at least this share of the highest sample.
const FIRST: f64 = 0.1;
/// At its end the response fades over this long, s.
const FADE_S: f64 = 0.01;
/// A response with a smaller range over the noise is of no use, dB.
const LEAST_RANGE_DB: f64 = 20.0;
/// More energy than this share of what comes after it lies ahead of a first sound only where the sweep is another one.
const AHEAD: f64 = 0.1;
/// A recording under this level is too quiet for anything, dBFS.
const QUIET_DBFS: f64 = -80.0;
/// A recording begins late where what lies before it has so many times the power of what lies in it, at the highest place of each.
const LATE: f64 = 4.0;
/// Harmonics that are looked for.
const HARMONICS: std::ops::RangeInclusive<u32> = 2..=5;

/// A harmonic that the loudspeaker or the microphone added.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
#[serde(deny_unknown_fields)]
pub struct SweepHarmonic {
    /// Two for twice the frequency, and so on.
    pub order: u32,
    /// Its energy against that of the response, dB.
    pub level_db: f64,
}

/// What was found in the recording of a sweep.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
#[serde(deny_unknown_fields)]
pub struct SweepFound {
    /// The frequencies between which the response holds, Hz.
    pub from_hz: f64,
    /// See `from_hz`.
    pub to_hz: f64,
    /// How far the response stands over the noise, dB.
    pub range_db: f64,
    /// When the sweep begins in the recording, s.
    pub begins_s: f64,
    /// By how much faster the recorder's clock ran than that of the player, in millionths; it is taken out. None where it is too little to be
    /// told.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub drift_ppm: Option<f64>,
    /// Harmonics that were cut off, where they stand over the noise.
    pub harmonics: Vec<SweepHarmonic>,
    /// What is so, in sentences.
    pub sentences: Vec<String>,
}

/// A response and what was found with it.
#[derive(Debug, Clone)]
pub struct Recovered {
    /// The response, as loud as the recording of an impulse of 1 would be.
    pub response: Buffer,
    /// What was found.
    pub found: SweepFound,
}

/// Works the response out of a recording of a sweep (a source of the kind `sweep`).
///
/// # Errors
/// Refuses other sources, and recordings that end before the sweep does, that are too quiet or too noisy, or of another sweep.
pub fn response_of(recording: &Buffer, sweep: &SourceDocument) -> Result<Recovered, Refusal> {
    let Source::Made(kind, values) = Source::from_document(sweep)? else { return Err(no_sweep(&sweep.kind)) };
    if *kind != SWEEP {
        return Err(no_sweep(&sweep.kind));
    }
    let settings = Sweep::from_values(&values);
    let (from_hz, to_hz) = (settings.from_hz, settings.to_hz);
    if to_hz < 2.0 * from_hz {
        let accepted = "a sweep that rises by an octave or more";
        return Err(Refusal::new("sweep", format!("from {from_hz} to {to_hz} Hz"), accepted));
    }
    let rate_hz = recording.rate_hz();
    let rate = f64::from(rate_hz);
    if recording.seconds() < settings.seconds {
        let found = format!("{:.2} s long", recording.seconds());
        let accepted = format!("all of the sweep, {:.2} s, and what rings after it", settings.seconds);
        return Err(Refusal::new("recording", found, accepted));
    }
    let played = Source::Made(kind, values).render(rate_hz, 1)?;
    let played = &played.channels()[0];
    let highest =
        recording.channels().iter().flatten().fold(0.0, |most: f64, x| most.max(f64::from(x.abs())));
    if highest < gain_from_db(QUIET_DBFS) {
        let found = if highest > 0.0 {
            format!("at most {}", Unit::Dbfs.text(20.0 * highest.log10()))
        } else {
            "silent".to_owned()
        };
        return Err(Refusal::new("recording", found, format!("a peak over {}", Unit::Dbfs.text(QUIET_DBFS))));
    }
    let mut sides = over(recording.channels(), played, &settings, rate);
    let mut drift = drift(&sides, recording.frames(), rate, &settings);
    let straight: Option<Vec<Vec<f64>>> =
        (drift != 0.0).then(|| sides.iter().map(|side| straightened(side, drift, rate, &settings)).collect());
    let found = Place::find(straight.as_ref().unwrap_or(&sides), recording.frames(), rate, &settings);
    let place = match (found, straight) {
        (Ok(_), _) if drift.abs() > MOST_DRIFT => {
            let found = format!("of a sweep that ran {:.2} % off, or of another one", 100.0 * drift.abs());
            let accepted = format!("{}, within {:.1} %", named(&settings), 100.0 * MOST_DRIFT);
            return Err(Refusal::new("recording", found, accepted));
        }
        (Ok(place), straight) => {
            sides = straight.unwrap_or(sides);
            place
        }
        // Nothing stands out there either: it is read, or refused, as it is.
        (Err(_), Some(_)) => {
            drift = 0.0;
            Place::find(&sides, recording.frames(), rate, &settings)?
        }
        (Err(refusal), None) => return Err(refusal),
    };
    if place.peak + played.len() > recording.frames() {
        let missing_s = cast::real(place.peak + played.len() - recording.frames()) / rate;
        let found = format!("cut off {missing_s:.2} s before the sweep ends");
        return Err(Refusal::new("recording", found, "all of the sweep, and what rings after it"));
    }
    if let Some(worst) = place.harmonics.iter().find(|harmonic| harmonic.level_db > 0.0) {
        let found = format!(
            "so distorted that the harmonic of {} times the frequency is {:.0} dB over the response",
            worst.order, worst.level_db
        );
        return Err(Refusal::new(
            "recording",
            found,
            "a response that stands over its harmonics: play it more quietly",
        ));
    }
    let left_s = cast::real(recording.frames() - place.peak - played.len()) / rate;
    let response = sides.iter().map(|side| cut_out(side, &place, rate)).collect();
    let clipped = recording.channels().iter().flatten().filter(|x| x.abs() >= 0.999).count() > 2;
    let mut sentences = spoken(&place, left_s, clipped, &settings);
    let drift_ppm = (drift != 0.0).then_some(1e6 * drift);
    sentences.extend(drift_ppm.map(|ppm| {
        let faster = if ppm > 0.0 { "faster" } else { "slower" };
        format!("The recorder ran {:.0} millionths {faster} than the player: that is taken out.", ppm.abs())
    }));
    let found = SweepFound {
        from_hz,
        to_hz: to_hz * FADES,
        range_db: place.range_db,
        begins_s: cast::real(place.peak) / rate,
        drift_ppm,
        harmonics: place.harmonics,
        sentences,
    };
    Ok(Recovered { response: Buffer::new(rate_hz, response)?, found })
}

fn no_sweep(kind: &str) -> Refusal {
    Refusal::new("sweep.kind", format!("\u{201c}{kind}\u{201d}"), format!("\u{201c}{}\u{201d}", SWEEP.id))
}

/// "20.0 Hz to 20.0 kHz in 8.00 s".
fn named(sweep: &Sweep) -> String {
    let [from, to] = [sweep.from_hz, sweep.to_hz].map(|hz| Unit::Hz.text(hz));
    format!("{from} to {to} in {:.2} s", sweep.seconds)
}

/// Clocks that differ by more belong to another sweep, as a share: those of usual devices differ by less than a tenth of that.
const MOST_DRIFT: f64 = 1e-3;
/// A drift is looked for up to here, in such steps: a sweep of some seconds is smeared by a third of a wave at 10 kHz by one of them.
const LOOKED_DRIFT: f64 = 2e-2;
const DRIFT_STEP: f64 = 1e-5;
/// One that makes the highest sample higher by less than this share is none.
const SHARPER: f64 = 0.02;
/// So much around the highest sample is looked at, s.
const AROUND_S: f64 = 0.35;

/// By how much faster the recorder ran than the player, as a share; 0 where that cannot be told. A sweep that is recorded at another speed
/// comes the later, or the earlier, the higher it is: what should be one moment is a short sweep itself. Where that is taken out, the
/// response is highest.
fn drift(sides: &[Vec<f64>], frames: usize, rate: f64, sweep: &Sweep) -> f64 {
    let power = |side: &Vec<f64>| side.iter().map(|x| x * x).sum::<f64>();
    let Some(side) = sides.iter().max_by(|a, b| power(a).total_cmp(&power(b))) else { return 0.0 };
    // Where it is loudest for some time: a smeared one has no sample that stands out.
    let block = cast::count(BLOCK_S * rate).max(1);
    let loudest = (0..frames / block).max_by(|a, b| {
        let energy = |k: usize| side[k * block..(k + 1) * block].iter().map(|x| x * x).sum::<f64>();
        energy(*a).total_cmp(&energy(*b))
    });
    let middle = loudest.unwrap_or(0) * block;
    let reach = cast::count(AROUND_S * rate);
    let length = (2 * reach).next_power_of_two();
    let from = middle + side.len() * (length / side.len() + 1) - length / 2;
    let part: Vec<f64> = (0..length).map(|k| side[(from + k) % side.len()]).collect();
    let (spectrum, lateness) = (spectrum_of(part), lateness(length, rate, sweep));
    // Roughly by how much of it lies in how little time; finely by the highest place between samples.
    let concentrated = |drift: f64| -> f64 {
        turned_back(&spectrum, &lateness, length, drift).iter().map(|x| x.powi(4)).sum()
    };
    let highest = |drift: f64| {
        let finely = turned_back(&spectrum, &lateness, OVER * length, drift);
        finely.iter().fold(0.0, |most: f64, x| most.max(x.abs()))
    };
    let steps = cast::whole((LOOKED_DRIFT / DRIFT_STEP).round());
    // Near first, with fine steps; further out, where it is refused, with steps that grow.
    let near = (-100..=100).map(|k| cast::signed(k) * DRIFT_STEP);
    let far =
        (100..steps).step_by(5).flat_map(|k| [cast::signed(k) * DRIFT_STEP, -cast::signed(k) * DRIFT_STEP]);
    let found = near.chain(far).map(|drift| (drift, concentrated(drift)));
    let Some((rough, _)) = found.max_by(|a, b| a.1.total_cmp(&b.1)) else { return 0.0 };
    let around = (-2..=2).map(|k| rough + 0.5 * cast::signed(k) * DRIFT_STEP);
    let found = around.map(|drift| (drift, highest(drift)));
    let Some((mut best, mut most)) = found.max_by(|a, b| a.1.total_cmp(&b.1)) else { return 0.0 };
    let mut step = 0.5 * DRIFT_STEP;
    while step > 1e-7 {
        step *= 0.5;
        for drift in [best - step, best + step] {
            let high = highest(drift);
            if high > most {
                (best, most) = (drift, high);
            }
        }
    }
    if most > (1.0 + SHARPER) * highest(0.0) { best } else { 0.0 }
}

/// Between samples the highest place is looked for at so many of them.
const OVER: usize = 4;

/// A response without what a drift has smeared: a sweep of L seconds per e-fold that runs faster by a share comes L times that share earlier
/// with every e-fold. The highest frequencies stay where they are.
fn straightened(side: &[f64], drift: f64, rate: f64, sweep: &Sweep) -> Vec<f64> {
    turned_back(&spectrum_of(side.to_vec()), &lateness(side.len(), rate, sweep), side.len(), drift)
}

/// By how many turns every bin of a spectrum of so many samples is late for a drift of 1: the integral of how late a frequency is, over
/// frequency.
fn lateness(length: usize, rate: f64, sweep: &Sweep) -> Vec<f64> {
    let per_fold_s = sweep.seconds / (sweep.to_hz / sweep.from_hz).ln();
    let turns = |bin: usize| {
        let hz = (cast::real(bin) * rate / cast::real(length)).clamp(sweep.from_hz, sweep.to_hz);
        per_fold_s * hz * ((hz / sweep.to_hz).ln() - 1.0)
    };
    (0..=length / 2).map(turns).collect()
}

/// A spectrum without a drift, as so many samples: more of them lie between those that it was taken of.
fn turned_back(spectrum: &[Complex64], lateness: &[f64], samples: usize, drift: f64) -> Vec<f64> {
    let mut turned = plans::backward(samples).make_input_vec();
    let scale = 1.0 / cast::real(2 * (spectrum.len() - 1));
    for (y, (x, late)) in turned.iter_mut().zip(spectrum.iter().zip(lateness)) {
        *y = x * Complex64::from_polar(scale, -2.0 * PI * drift * late);
    }
    sound_of(turned, samples)
}

/// The responses of the sides of a recording, with their harmonics: they go round, and what would lie before the beginning lies at the
/// end.
fn over(recording: &[Vec<f32>], played: &[f32], sweep: &Sweep, rate: f64) -> Vec<Vec<f64>> {
    let longest = recording.iter().map(Vec::len).max().unwrap_or(0);
    let length = plans::quick_length(longest + played.len());
    let padded = |samples: &[f32]| {
        let mut time = vec![0.0; length];
        time.iter_mut().zip(samples).for_each(|(y, x)| *y = f64::from(*x));
        spectrum_of(time)
    };
    let octaves = (sweep.to_hz / sweep.from_hz).ln();
    let gain = gain_from_db(sweep.level_dbfs);
    let mut inverse = padded(played);
    for (bin, x) in inverse.iter_mut().enumerate() {
        let freq_hz = cast::real(bin) * rate / cast::real(length);
        // A sweep stays for `seconds / octaves / f` within a hertz at f.
        let usual = (gain * rate).powi(2) * sweep.seconds
            / (4.0 * octaves * freq_hz.clamp(sweep.from_hz, sweep.to_hz));
        let share = kept(freq_hz, sweep) / cast::real(length);
        *x = x.conj() * share / (x.norm_sqr() + LEAST * usual);
    }
    let response = |side: &Vec<f32>| {
        let mut recorded = padded(side);
        recorded.iter_mut().zip(&inverse).for_each(|(y, x)| *y *= x);
        sound_of(recorded, length)
    };
    recording.iter().map(response).collect()
}

/// The share of a frequency that is kept: nothing over the last one of the sweep, and less and less under its first, by a high-pass of
/// the fourth order (Butterworth), which does not ring ahead as one without a phase would.
fn kept(freq_hz: f64, sweep: &Sweep) -> Complex64 {
    let high = ((freq_hz / sweep.to_hz - FADES) / (1.0 - FADES)).clamp(0.0, 1.0);
    let s = Complex64::new(0.0, freq_hz / (LOWEST * sweep.from_hz));
    let low: Complex64 = BUTTERWORTH_4.iter().map(|q| s * s / (s * s + s / q + 1.0)).product();
    low * (0.5 + 0.5 * (PI * high).cos())
}

/// Where the response lies.
struct Place {
    /// Its highest sample: when the sweep begins in the recording.
    peak: usize,
    begins: usize,
    ends: usize,
    range_db: f64,
    /// Whether its end is that of the noise, and not that of the recording.
    noisy: bool,
    harmonics: Vec<SweepHarmonic>,
}

impl Place {
    fn find(sides: &[Vec<f64>], frames: usize, rate: f64, sweep: &Sweep) -> Result<Self, Refusal> {
        let length = sides[0].len();
        let power: Vec<f64> =
            (0..length).map(|n| sides.iter().map(|side| side[n] * side[n]).sum::<f64>()).collect();
        let highest = |places: std::ops::Range<usize>| places.max_by(|a, b| power[*a].total_cmp(&power[*b]));
        let peak = highest(0..frames).unwrap_or(0);
        // What would lie before the beginning lies at the end.
        if let Some(late) = highest(frames..length).filter(|late| power[*late] > LATE * power[peak]) {
            let found = format!("begun {:.2} s after the sweep", cast::real(length - late) / rate);
            return Err(Refusal::new("recording", found, "all of the sweep, from its beginning"));
        }
        let block = cast::count(BLOCK_S * rate).max(1);
        let energy = |from: usize, count: usize| (0..count).map(|k| power[(from + k) % length]).sum::<f64>();
        let per_octave_s = sweep.seconds / (sweep.to_hz / sweep.from_hz).ln();
        let begins = first(&power, peak, rate);
        // Between the second harmonic and the first sound nothing comes but noise, and what still rings of that harmonic.
        let ahead = cast::count((0.6 * LN_2 * per_octave_s).min(0.5) * rate).max(block);
        let from = begins + length - cast::count(BLOCK_S * rate) - ahead;
        let mut blocks: Vec<f64> = (0..ahead / block).map(|k| energy(from + k * block, block)).collect();
        blocks.sort_by(f64::total_cmp);
        let noise = blocks.get(blocks.len() / 4).copied().unwrap_or(0.0);
        let range_db = 10.0 * (energy(peak + length - block / 2, block) / noise).log10();
        let played = named(sweep);
        if range_db < LEAST_RANGE_DB {
            let found = format!(
                "such that the response is only {:.0} dB over what lies ahead of it",
                range_db.max(0.0)
            );
            let accepted = format!(
                "{LEAST_RANGE_DB:.0} dB or more: a louder or longer sweep, less noise, and the sweep that was played, if that was not {played}"
            );
            return Err(Refusal::new("recording", found, accepted));
        }
        if energy(from, ahead) > AHEAD * energy(begins, ahead) {
            return Err(Refusal::new("recording", "of another sweep", played));
        }
        let longest = cast::count(LONGEST_RESPONSE_S * rate).min(frames - begins);
        // The response ends where its blocks are noise, and stay it.
        let is_heard = |k: &usize| energy(begins + k * block, block) > 2.0 * noise;
        let heard = (0..longest / block).rev().find(|k| is_heard(k) && is_heard(&k.saturating_sub(1)));
        let ends = begins + ((heard.unwrap_or(0) + 1) * block).min(longest);
        let all = energy(begins, ends - begins);
        // One of a higher order than the sweep has ratios would lie before its beginning.
        let heard = HARMONICS.filter(|order| f64::from(*order) < sweep.to_hz / sweep.from_hz);
        let harmonics = heard.filter_map(|order| {
            let at = |order: f64| {
                peak + length - cast::count(order.ln() * per_octave_s * rate) - cast::count(BEFORE_S * rate)
            };
            let (from, to) = (at(f64::from(order)), at(f64::from(order) - 0.7));
            let heard = energy(from, to - from) - noise * cast::real(to - from) / cast::real(block);
            let level_db = 10.0 * (heard / all).log10();
            (heard > 4.0 * noise && level_db > -range_db).then_some(SweepHarmonic { order, level_db })
        });
        let noisy = ends - begins < longest;
        Ok(Self { peak, begins, ends, range_db, noisy, harmonics: harmonics.collect() })
    }
}

/// Where the first sound before the highest sample is.
fn first(power: &[f64], peak: usize, rate: f64) -> usize {
    let earliest = peak.saturating_sub(cast::count(EARLIER_S * rate));
    let loud = |n: &usize| power[*n] > FIRST * FIRST * power[peak];
    let first = (earliest..=peak).find(loud).unwrap_or(peak);
    first.saturating_sub(cast::count(BEFORE_S * rate))
}

/// The response alone.
fn cut_out(side: &[f64], place: &Place, rate: f64) -> Vec<f32> {
    let count = place.ends - place.begins;
    let fade = cast::count(FADE_S * rate).min(count / 2).max(1);
    let part = side[place.begins..place.ends].iter().enumerate();
    part.map(|(k, x)| cast::sample(x * (cast::real(count - k) / cast::real(fade)).min(1.0))).collect()
}

fn spoken(place: &Place, left_s: f64, clipped: bool, sweep: &Sweep) -> Vec<String> {
    let mut said = vec![format!(
        "The response holds from {} to {}, and stands {:.0} dB over the noise.",
        Unit::Hz.text(sweep.from_hz),
        Unit::Hz.text(FADES * sweep.to_hz),
        place.range_db
    )];
    if let Some(worst) = place.harmonics.iter().max_by(|a, b| a.level_db.total_cmp(&b.level_db)) {
        said.push(format!(
            "Harmonics were cut off; the strongest is the one of {} times the frequency, {:.0} dB under the response.",
            worst.order, -worst.level_db
        ));
    }
    if left_s < 0.5 * LONGEST_RESPONSE_S && !place.noisy {
        said.push(format!(
            "The recording goes on for {left_s:.2} s after the sweep: highs that ring longer are cut off."
        ));
    }
    if clipped {
        said.push(
            "The recording reaches full scale: where it was cut off there, the response is not true."
                .to_owned(),
        );
    }
    said
}
