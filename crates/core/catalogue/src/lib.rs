//! What an effect, a signal and a parameter are: described once, read by the screen, the command line,
//! the validation and the files.

mod aside;
mod diagram;
mod digits;
pub mod document;
pub mod ear_maps;
mod guide;
mod hold;
mod notes;
mod number;
pub mod outcomes;
mod scale;
#[cfg(feature = "schema")]
pub mod schema;
mod settings;
mod sound;
mod text;
mod values;

pub use aside::{METRES_PER_S, note_of, octaves_of_q, q_of_octaves, way_m};
pub use diagram::{Block, Diagram};
pub use digits::decimal;
pub use guide::{StartingPoint, Step};
pub use hold::{Hold, free_place_hz};
pub use notes::{NOTES, TEMPO, note_s};
pub use number::Number;
pub use scale::Scale;
pub use sound::{KEY, SoundSlot};
pub use values::{List, Values, Written, name_in_list};

use serde::Serialize;

use clear_bend_sound::Refusal;

/// The unit of a parameter or an outcome. It decides how a value is written and which suffixes may be typed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, serde::Deserialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
#[serde(rename_all = "kebab-case")]
pub enum Unit {
    /// A gain or a difference of levels, dB.
    Db,
    /// A level against full scale, dBFS.
    Dbfs,
    /// Loudness, LUFS.
    Lufs,
    /// A compression ratio, `n : 1`.
    Ratio,
    /// Milliseconds.
    Ms,
    /// Seconds.
    S,
    /// Hertz.
    Hz,
    /// A share from 0 to 1, written in percent.
    Percent,
    /// A plain whole number.
    Count,
    /// A ratio under a threshold, `1 : n`.
    Expansion,
    /// Octaves.
    Octaves,
    /// A share from 0 to 1, written in percent to a hundredth.
    FinePercent,
    /// A number from -1 to 1 without a unit, to two decimals.
    Signed,
    /// The quality of a resonance: frequency over width.
    Q,
    /// The slope of a cut, in whole steps of 6 dB per octave.
    Slope,
    /// Semitones.
    Semitones,
    /// Metres.
    M,
    /// Seconds to a hundredth.
    FineS,
    /// Bits of a word.
    Bits,
    /// Hundredths of a semitone.
    Cents,
    /// Milliseconds by which a sound is late; beside them stands its way in metres.
    DelayMs,
    /// Beats per minute.
    Bpm,
    /// Degrees of a cycle.
    Degrees,
    /// Milliseconds to a hundredth.
    FineMs,
    /// So many in a second.
    PerS,
}

/// The measured quantity that a parameter is there to change. How it is read off a passage stands in `outcomes`.
#[derive(Debug, Clone, Copy, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct Outcome {
    /// Identifier, as in reports.
    pub id: &'static str,
    /// The words on the screen.
    pub label: &'static str,
    /// Its unit.
    pub unit: Unit,
}

/// The picture that shows best what a parameter does.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, serde::Deserialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Picture {
    /// Waveform before and after on one time axis, the gain beneath.
    #[default]
    OverTime,
    /// Input level against output level.
    InToOut,
    /// The gain over time when a tone steps up and down again.
    Step,
    /// Every onset: its transient, its body and what lies between, before and after.
    Onsets,
    /// How much of the time every level takes, before and after.
    Levels,
    /// The harmonics of a low tone, before and after.
    Harmonics,
    /// The gain of every band over time.
    Bands,
    /// The gain over frequency, over the spectra before and after.
    Curve,
    /// Phase and group delay over frequency.
    Phase,
    /// The impulse response, and a low note before and after.
    Ringing,
    /// The true shape against the plain formula.
    NearTop,
    /// Levels over time and frequency, before and after.
    Spectrogram,
    /// This part and another stem: their spectra, and where one hides the other.
    Parts,
    /// The level in octave bands, before and after, and how wide they are.
    Octaves,
    /// The decay of a room's response, with the lines fitted to it.
    Decay,
    /// Its decay time by octave, as set and as measured.
    DecayByOctave,
    /// Its response to an impulse, with its parts.
    Impulse,
    /// The first 200 ms of that.
    FirstReflections,
    /// Its level over frequency, as it falls.
    Falling,
    /// The same over time and frequency.
    FallingOverTime,
    /// The level of the reverb against that of the sound, and where the next hit covers it.
    UnderHits,
    /// Its echo density over time.
    Density,
    /// The correlation of left and right in it, over time and by octave.
    Correlation,
    /// The swing of an oscillator over the passage.
    Swing,
    /// The response of an effect that moves at one moment, with its notches.
    Notches,
    /// The lines beside a tone that an effect moves.
    Sidebands,
    /// The way of the notches through a cycle.
    Traces,
    /// The delays of voices over time, and their pitch.
    DelayAndPitch,
    /// The spectrum of the envelope, before and after.
    ModulationSpectrum,
    /// A few cycles of the wave, held still.
    HeldWave,
}

/// A value that is often used, and what for.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct Usual {
    /// The value, in the parameter's unit; may be infinite.
    #[serde(serialize_with = "number::serialize")]
    #[cfg_attr(feature = "typescript", ts(type = "number | \"inf\""))]
    pub value: f64,
    /// What it is used for. Common practice, not a standard.
    pub purpose: &'static str,
}

/// The choice that another parameter needs.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct ActsWith {
    /// The choice.
    pub param: &'static str,
    /// Its least value.
    pub from: f64,
    /// Its greatest value.
    pub to: f64,
}

impl ActsWith {
    /// From a value on.
    #[must_use]
    pub const fn at_least(param: &'static str, from: f64) -> Self {
        Self { param, from, to: 1000.0 }
    }
}

/// What a parameter does, moved in one of some linked stages, in the others.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
#[serde(rename_all = "kebab-case")]
pub enum Linked {
    /// Nothing.
    No,
    /// It has the same value.
    Same,
    /// It moves by as much, round and round its range.
    Along,
}

/// One parameter of an effect or one setting of a signal.
#[derive(Debug, Clone, Copy, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct Param {
    /// Identifier in files and on the command line, with its unit.
    pub id: &'static str,
    /// The name on the screen.
    pub label: &'static str,
    /// The heading under which it stands; none in effects with few parameters.
    pub group: &'static str,
    /// The choices, where the value is the place of one of them.
    pub choices: &'static [&'static str],
    /// The choice without which it does nothing; none for most.
    pub acts_with: Option<ActsWith>,
    /// Whether the whole bench has one value of it: moved in one place, it moves wherever it stands.
    pub shared: bool,
    /// What becomes of it in the other stages of a path that move, while they are linked.
    pub linked: Linked,
    /// Unit of the value.
    pub unit: Unit,
    /// Smallest accepted value.
    pub min: f64,
    /// Largest accepted value; may be infinite.
    #[serde(serialize_with = "number::serialize")]
    #[cfg_attr(feature = "typescript", ts(type = "number | \"inf\""))]
    pub max: f64,
    /// The value where nothing is said; may be infinite.
    #[serde(serialize_with = "number::serialize")]
    #[cfg_attr(feature = "typescript", ts(type = "number | \"inf\""))]
    pub default: f64,
    /// The value where a path file of version 1 says nothing, if it is another one.
    #[serde(skip)]
    pub default_in_1: Option<f64>,
    /// Accepted values are whole multiples of this; 0 where any will do.
    pub step: f64,
    /// How the range is laid along a control.
    pub scale: Scale,
    /// What the parameter is there to change.
    pub outcome: Option<Outcome>,
    /// The picture that shows it best.
    pub picture: Option<Picture>,
    /// What it is, in a sentence or two.
    pub what: &'static str,
    /// What to listen for.
    pub listen: &'static str,
    /// What to look at in the picture.
    pub look: &'static str,
    /// A common mistake.
    pub mistake: &'static str,
    /// Usual values (common practice).
    pub usual: &'static [Usual],
}

impl Param {
    /// A parameter with nothing said about it yet; entries fill in the rest.
    pub const BLANK: Self = Self {
        id: "",
        label: "",
        group: "",
        choices: &[],
        acts_with: None,
        shared: false,
        linked: Linked::No,
        unit: Unit::Count,
        min: 0.0,
        max: 1.0,
        default: 0.0,
        default_in_1: None,
        step: 0.0,
        scale: Scale::Linear,
        outcome: None,
        picture: None,
        what: "",
        listen: "",
        look: "",
        mistake: "",
        usual: &[],
    };

    /// Accepts a value within the range.
    ///
    /// # Errors
    /// Refuses NaN and values out of range, naming the range.
    pub fn check(&self, value: f64) -> Result<f64, Refusal> {
        let (min, max) = self.range();
        let step = if self.choices.is_empty() { self.step } else { 1.0 };
        let fits = step == 0.0 || value % step == 0.0;
        if value >= min && value <= max && fits { Ok(value) } else { Err(self.refused(value)) }
    }

    fn refused(&self, value: f64) -> Refusal {
        Refusal::new(self.id, Number(value), self.range_text())
    }

    /// The smallest and the largest accepted value.
    #[must_use]
    pub fn range(&self) -> (f64, f64) {
        if self.choices.is_empty() {
            (self.min, self.max)
        } else {
            (0.0, clear_bend_sound::cast::real(self.choices.len() - 1))
        }
    }

    /// Where a value lies along the control, 0 to 1.
    #[must_use]
    pub fn position_of(&self, value: f64) -> f64 {
        let (min, max) = self.range();
        self.scale.position(min, max, value).clamp(0.0, 1.0)
    }

    /// The value at a position along the control, as finely as it can be set: three digits further than it is written; steps are kept.
    #[must_use]
    pub fn place_value(&self, position: f64) -> f64 {
        if self.step > 0.0 || !self.choices.is_empty() {
            return self.value_at(position);
        }
        let (min, max) = self.range();
        let value = self.scale.value(min, max, position.clamp(0.0, 1.0));
        let per_grain = (1e3 / self.grain(value)).round();
        if !value.is_finite() || per_grain < 1.0 {
            return value;
        }
        ((value * per_grain).round() / per_grain).clamp(min, max)
    }

    /// The value at a position along the control, rounded as it is written.
    #[must_use]
    pub fn value_at(&self, position: f64) -> f64 {
        let position = if position.is_nan() { 0.0 } else { position.clamp(0.0, 1.0) };
        let (min, max) = self.range();
        let rounded = self.rounded(self.scale.value(min, max, position));
        let stepped = if self.step > 0.0 { (rounded / self.step).round() * self.step } else { rounded };
        stepped.clamp(min, max)
    }

    /// The value `steps` hundredths of the control further; always moves unless it is at the end.
    #[must_use]
    pub fn nudged(&self, value: f64, steps: f64) -> f64 {
        let moved = self.value_at(self.position_of(value) + steps / 100.0);
        let stuck = (moved - value) * steps <= 0.0 && value.is_finite();
        let grain = self.grain(value).max(self.step);
        let moved = if stuck { self.rounded(value + grain * steps.signum()) } else { moved };
        let (min, max) = self.range();
        moved.clamp(min, max)
    }
}
