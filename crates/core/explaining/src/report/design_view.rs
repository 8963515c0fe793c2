//! A designed response as it is drawn and explained: its wave, and what of it is measured against what of it was drawn.

use serde::Serialize;

use clear_bend_catalogue::Unit;
use clear_bend_measures::room::{Density, RoomResponse, t30s_by_steep_octaves};
use clear_bend_measures::wave_columns;
use clear_bend_signals::design::{DESIGNED, Design, Made, Maker, OCTAVES_HZ};
use clear_bend_signals::{Source, SourceDocument};
use clear_bend_sound::Buffer;
use clear_bend_sound::cast;
use clear_bend_sound::refusal::Refusal;

/// Times at which the density is read.
const POINTS: usize = 120;
/// Reflections are counted over so long, s, and over so many of them to each side at least.
const COUNTED_S: f64 = 0.02;
const COUNTED: usize = 10;
/// A response should fall by so much before it ends, dB.
const ENOUGH_DB: f64 = 60.0;
/// A change of a decay by this share is just heard (ISO 3382-1).
const NOTICED: f64 = 0.05;
/// A decay beside that is so many times as long is heard through the filter of an octave.
const MUCH_LONGER: f64 = 1.25;
/// So many periods make a decay.
const FEW_PERIODS: f64 = 100.0;
/// The octave of which sentences speak: 1 kHz.
const MIDDLE: usize = 4;

/// An octave of a designed response.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct DesignOctave {
    /// Its middle, Hz.
    pub freq_hz: f64,
    /// T30 as it follows from the curves, s; none where it does not fall far enough.
    pub drawn_s: Option<f64>,
    /// T30 as it is measured in the response through filters of sixth order, s.
    pub measured_s: Option<f64>,
}

/// The density at a time.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct DesignDensity {
    /// The time, s.
    pub at_s: f64,
    /// Reflections per second as drawn.
    pub drawn_per_s: f64,
    /// As counted on the left side; none before the first and after the last.
    pub counted_per_s: Option<f64>,
}

/// What is seen of a designed response.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct DesignView {
    /// Length, s.
    pub seconds: f64,
    /// Lowest and highest sample in columns of the same length, left and right.
    pub waves: [Vec<[f32; 2]>; 2],
    /// The density over time.
    pub density: Vec<DesignDensity>,
    /// How many reflections have been thrown on the left side.
    pub count: usize,
    /// When it first is as dense as noise, ms after its first sound; none where it never is.
    pub dense_ms: Option<f64>,
    /// Decay by octave.
    pub octaves: Vec<DesignOctave>,
    /// What is so, in sentences.
    pub sentences: Vec<String>,
}

/// The design of a source that is one.
///
/// # Errors
/// Refuses a document that is none, and what does not fit in it.
pub fn design_of(document: &SourceDocument) -> Result<Design, Refusal> {
    match Source::from_document(document)? {
        Source::Designed(design) => Ok(*design),
        _ => Err(Refusal::new("kind", format!("\u{201c}{}\u{201d}", document.kind), DESIGNED.id)),
    }
}

impl DesignView {
    /// Makes the response and reads it, with its wave in so many columns.
    ///
    /// # Errors
    /// Refuses rates that [`Buffer::new`] refuses.
    pub fn of(design: &Design, rate_hz: u32, columns: usize) -> Result<Self, Refusal> {
        Self::by(&mut Maker::default(), design, rate_hz, columns)
    }

    /// The same by somebody who has made others before.
    ///
    /// # Errors
    /// As [`DesignView::of`].
    pub fn by(maker: &mut Maker, design: &Design, rate_hz: u32, columns: usize) -> Result<Self, Refusal> {
        let Made { sides, places, drawn_t30s: drawn } = maker.made(design, rate_hz, 2);
        let response = Buffer::new(rate_hz, sides)?;
        let recorded = RoomResponse::of_buffer(&response);
        // The response was made so that the usual filter of an octave hears what was drawn: it is read by another one.
        let (reverberant, measured) = (recorded.reverberant(), t30s_by_steep_octaves(&recorded, &OCTAVES_HZ));
        let octaves: Vec<DesignOctave> = OCTAVES_HZ
            .iter()
            .zip(drawn.iter().zip(measured))
            .map(|(freq_hz, (drawn_s, measured_s))| DesignOctave {
                freq_hz: *freq_hz,
                drawn_s: *drawn_s,
                measured_s,
            })
            .collect();
        let dense_ms = Density::reaches_noise_ms(&reverberant, rate_hz, response.seconds());
        let side = |k: usize| wave_columns(&response.channels()[k], columns);
        let sentences = spoken(design, &response, &places, dense_ms, &octaves);
        Ok(Self {
            seconds: response.seconds(),
            waves: [side(0), side(1)],
            density: density(design, &places, rate_hz),
            count: places.len(),
            dense_ms,
            octaves,
            sentences,
        })
    }
}

/// The density as it is drawn, and as reflections are counted around every time.
fn density(design: &Design, places: &[usize], rate_hz: u32) -> Vec<DesignDensity> {
    let rate = f64::from(rate_hz);
    let length_s = design.settings().length_s;
    let point = |k: usize| {
        let at_s = length_s * cast::real(k) / cast::real(POINTS - 1);
        let near = |seconds: f64| places.partition_point(|place| cast::real(*place) < seconds * rate);
        let here = near(at_s);
        let from = near(at_s - 0.5 * COUNTED_S).min(here.saturating_sub(COUNTED));
        let to = near(at_s + 0.5 * COUNTED_S).max(here + COUNTED).min(places.len().saturating_sub(1));
        let counted =
            places.get(to).zip(places.get(from)).map(|(to, from)| cast::real(to.saturating_sub(*from)));
        let within = here > 0 && here < places.len();
        let counted_per_s =
            counted.filter(|span| within && *span > 0.0).map(|span| cast::real(to - from) * rate / span);
        DesignDensity { at_s, drawn_per_s: design.curves.density_per_s(at_s), counted_per_s }
    };
    (0..POINTS).map(point).collect()
}

fn spoken(
    design: &Design,
    response: &Buffer,
    places: &[usize],
    dense_ms: Option<f64>,
    octaves: &[DesignOctave],
) -> Vec<String> {
    let mut said = Vec::new();
    let thrown = match places.len() {
        1 => "1 reflection is thrown".to_owned(),
        count => format!("{count} reflections are thrown"),
    };
    let by_hand = match design.placed.len() {
        0 => String::new(),
        1 => ", 1 is placed by hand".to_owned(),
        count => format!(", {count} are placed by hand"),
    };
    said.push(match dense_ms {
        Some(ms) => {
            format!("{thrown}{by_hand}; {ms:.0} ms after the first sound they are as dense as noise.")
        }
        None => format!("{thrown}{by_hand}; they never get as dense as noise."),
    });
    if let Some((drawn, measured)) = octaves.get(MIDDLE).and_then(|o| o.drawn_s.zip(o.measured_s)) {
        said.push(format!("At 1 kHz it rings {measured:.2} s; the curves say {drawn:.2} s."));
    }
    said.extend(off(octaves));
    let length_s = design.settings().length_s;
    let fallen_db = fallen_db(design, MIDDLE);
    if fallen_db < ENOUGH_DB {
        said.push(format!(
            "When it ends after {length_s:.2} s, the octave at 1 kHz has fallen by {fallen_db:.0} dB: the rest is cut off."
        ));
    }
    let heard = response.channels().iter().filter_map(|side| side.iter().rposition(|x| *x != 0.0)).max();
    let bits = design.curves.word_bits(length_s);
    if let Some(last) = heard.map(|last| cast::real(last) / f64::from(response.rate_hz()))
        && bits < 24.0
        && last < 0.95 * length_s
    {
        said.push(format!("Rounded to {bits:.0} bits, nothing is left of it from {last:.2} s on."));
    }
    if heard.is_none() {
        said.push("It is silent: nothing is placed, and no reflection comes before it ends.".to_owned());
    }
    said
}

/// Every octave that does not ring as it was drawn, where that can be heard, or of which no time can be read, and why the furthest one does
/// not.
fn off(octaves: &[DesignOctave]) -> Option<String> {
    // By what share; of what no time can be read, it is out of all reach.
    let off = |octave: &DesignOctave| {
        let drawn_s = octave.drawn_s?;
        let off = octave.measured_s.map_or(f64::INFINITY, |measured_s| (measured_s / drawn_s).ln().abs());
        (off > (1.0 + NOTICED).ln()).then_some((drawn_s, off))
    };
    let all: Vec<(usize, f64, f64)> = octaves
        .iter()
        .enumerate()
        .filter_map(|(k, octave)| off(octave).map(|(drawn_s, off)| (k, drawn_s, off)))
        .collect();
    let (k, drawn_s, _) = *all.iter().max_by(|a, b| a.2.total_cmp(&b.2))?;
    let measured_s = octaves[k].measured_s;
    let octave = &octaves[k];
    let beside =
        [k.checked_sub(1), Some(k + 1)].into_iter().flatten().filter_map(|k| octaves.get(k)?.drawn_s);
    let longest_beside = beside.fold(0.0, f64::max);
    let is_shorter = measured_s.is_some_and(|measured_s| measured_s < drawn_s);
    let why = match longest_beside > MUCH_LONGER * drawn_s {
        true if is_shorter => {
            "through the usual filter of an octave it rings as drawn, with what that lets through of the longer octaves beside it; here a steeper one is read"
        }
        true => {
            "the octaves beside it ring longer, and are heard through the filter with which an octave is measured"
        }
        false if octave.freq_hz * drawn_s < FEW_PERIODS => {
            "it falls within so few of its periods that chance has a say"
        }
        false => "there are too few reflections for a smooth decay",
    };
    let hz = |k: usize| Unit::Hz.text(octaves[k].freq_hz);
    let read = |measured_s: Option<f64>, rings: &str| {
        measured_s.map_or("no single time can be read".to_owned(), |s| format!("{rings}{s:.2} s"))
    };
    let others: Vec<String> = all
        .iter()
        .filter(|(other, ..)| *other != k)
        .map(|(other, drawn_s, _)| {
            format!("at {} {} for {drawn_s:.2} s", hz(*other), read(octaves[*other].measured_s, ""))
        })
        .collect();
    let others = if others.is_empty() { String::new() } else { format!(" Also {}.", others.join(", ")) };
    let (hz, read) = (hz(k), read(measured_s, "the response rings "));
    Some(format!("At {hz} {read}, the curves say {drawn_s:.2} s: {why}.{others}"))
}

/// By how much an octave has fallen when the response ends, level curve and decay together, dB.
fn fallen_db(design: &Design, octave: usize) -> f64 {
    const STEPS: usize = 400;
    let length_s = design.settings().length_s;
    let step_s = length_s / cast::real(STEPS);
    let falls = |k: usize| 60.0 * step_s / design.curves.decay_s(octave, (cast::real(k) + 0.5) * step_s);
    let begins_db = design.curves.level_db(design.settings().from_ms / 1000.0);
    begins_db - design.curves.level_db(length_s) + (0..STEPS).map(falls).sum::<f64>()
}
