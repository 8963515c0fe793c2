//! What the page asks of the core: catalogue, controls, texts, checks.

use clear_bend_bench::{BENCH_RATE_HZ, BenchDocument};
use clear_bend_catalogue::ear_maps::{self, EDGE};
use clear_bend_catalogue::{Param, Unit, note_of, outcomes};
use clear_bend_effects as effects;
use clear_bend_effects::offered;
use clear_bend_measures::{self as measures, Analyser, Resolution};
use clear_bend_playing::mix;
use clear_bend_playing::path::{self, Path, Stage};
use clear_bend_signals as signals;
use clear_bend_signals::design::{CURVES, PLACED};
use clear_bend_sound::Refusal;
use clear_bend_sound::level::{db_from_gain, gain_from_db};
use clear_bend_sound::region::{self, Region};
use wasm_bindgen::prelude::{JsError, wasm_bindgen};

use crate::crossing::{given, js, taken, text};
use crate::measure::path_of;

/// The catalogue.
///
/// # Errors
/// None in practice: the catalogue can always be written.
#[wasm_bindgen(js_name = catalogue)]
pub fn catalogue() -> Result<js::Catalogue, JsError> {
    given(&offered::catalogue())
}

/// A new bench.
///
/// # Errors
/// None in practice.
#[wasm_bindgen(js_name = freshBench)]
pub fn fresh_bench() -> Result<js::Bench, JsError> {
    given(&BenchDocument::fresh())
}

/// What is heard of stems that play together, by their strips and whether they are shared paths.
///
/// # Errors
/// Refuses what is no list of these.
#[wasm_bindgen(js_name = audible)]
pub fn audible(strips: &js::Strips) -> Result<js::Audible, JsError> {
    given(&mix::audible(&taken(strips)?))
}

/// A bench with a stage of the path at work taken into a shared path to which the stem sends as much.
///
/// # Errors
/// The sentence of the core's refusal.
#[wasm_bindgen(js_name = sharedStage)]
pub fn shared_stage(bench: &js::Bench, stage: usize) -> Result<js::Bench, JsError> {
    given(&BenchDocument::from_json(&text(bench))?.sharing(stage)?)
}

/// Checks the text of a bench and reads it.
///
/// # Errors
/// The sentence of the core's refusal.
#[wasm_bindgen(js_name = checkBench)]
pub fn check_bench(text: &str) -> Result<js::Bench, JsError> {
    given(&BenchDocument::from_json(text)?)
}

/// A value of a unit as it stands on the screen.
///
/// # Errors
/// Refuses a unit that is not known.
#[wasm_bindgen(js_name = unitText)]
pub fn unit_text(unit: &str, value: f64) -> Result<String, JsError> {
    let unit: Unit = serde_json::from_value(unit.into())?;
    Ok(unit.text(value))
}

/// From which change on a measured quantity is heard to be another one, in its unit; none where no standard says it.
#[wasm_bindgen(js_name = justNoticeable)]
pub fn just_noticeable(outcome: &str, value: f64) -> Option<f64> {
    outcomes::just_noticeable(outcome, value)
}

/// Whether a change of a measured quantity is known to be too small to be heard by itself.
#[wasm_bindgen(js_name = isUnnoticed)]
pub fn is_unnoticed(outcome: &str, from: f64, to: f64) -> bool {
    outcomes::is_unnoticed(outcome, from, to)
}

/// In what two paths differ.
///
/// # Errors
/// The sentence of the core's refusal.
#[wasm_bindgen(js_name = differences)]
pub fn differences(one: &js::Path, other: &js::Path) -> Result<js::Differences, JsError> {
    given(&path::differences(&path_of(one)?, &path_of(other)?))
}

/// Checks the text of a path file and reads it.
///
/// # Errors
/// The sentence of the core's refusal.
#[wasm_bindgen(js_name = checkPath)]
pub fn check_path(text: &str) -> Result<js::Path, JsError> {
    given(&Path::from_json(text)?.to_document())
}

/// The region between two places of a source, in seconds.
///
/// # Errors
/// None in practice.
#[wasm_bindgen(js_name = region)]
pub fn region(a_s: f64, b_s: f64, source_s: f64) -> Result<js::Region, JsError> {
    given(&Region::between(a_s, b_s, source_s))
}

/// What is worked on where no region is chosen.
///
/// # Errors
/// None in practice.
#[wasm_bindgen(js_name = usualRegion)]
pub fn usual_region(source_s: f64) -> Result<js::Region, JsError> {
    given(&Region::usual(source_s))
}

/// A place moved to an onset that is near, s.
#[wasm_bindgen(js_name = snapped)]
pub fn snapped(at_s: f64, onsets_s: &[f64], shown_s: f64) -> f64 {
    region::snapped(at_s, onsets_s, shown_s)
}

/// The curves of a stage by its formulas at some frequencies (Hz), as JSON with four decimals, which are fewer
/// letters to be read at every move of a hand; `null` where it is no filter.
///
/// # Errors
/// The sentence of the core's refusal.
#[wasm_bindgen(js_name = curves)]
pub fn curves(stage: &js::Stage, rate_hz: u32, freqs_hz: &[f64]) -> Result<js::MaybeCurves, JsError> {
    let stage = Stage::from_document(&taken(stage)?)?;
    let mut curves = stage.effect.drawn_curves(&stage.values, rate_hz, freqs_hz);
    if let Some(curves) = &mut curves {
        let rounded = |values: &mut Vec<f64>| values.iter_mut().for_each(|x| *x = (*x * 1e4).round() / 1e4);
        curves.bands.iter_mut().for_each(|band| rounded(&mut band.gains_db));
        curves.sums.iter_mut().flat_map(|sum| [&mut sum.gains_db, &mut sum.phases_deg]).for_each(rounded);
    }
    given(&curves)
}

/// The decay times that a stage sets at some frequencies (Hz), s; NaN where it never ends, and nothing where it sets none.
///
/// # Errors
/// The sentence of the core's refusal.
#[wasm_bindgen(js_name = setDecays)]
pub fn set_decays(stage: &js::Stage, freqs_hz: &[f64]) -> Result<Vec<f64>, JsError> {
    let stage = Stage::from_document(&taken(stage)?)?;
    let sets = freqs_hz.iter().filter_map(|hz| stage.effect.decay_s(&stage.values, *hz));
    Ok(sets.map(|set| if set.is_finite() { set } else { f64::NAN }).collect())
}

/// A stage as the step at a place of the guided order explains it; none where the order ends before.
///
/// # Errors
/// The sentence of the core's refusal.
#[wasm_bindgen(js_name = explained)]
pub fn explained(stage: &js::Stage, place: usize) -> Result<js::MaybeStage, JsError> {
    let stage = Stage::from_document(&taken(stage)?)?;
    given(&stage.effect.order.get(place).map(|step| stage.explained(step).to_document()))
}

/// The parameters of a stage that do something as its choices stand, by their ids.
///
/// # Errors
/// The sentence of the core's refusal.
#[wasm_bindgen]
pub fn acting(stage: &js::Stage) -> Result<Vec<String>, JsError> {
    let stage = Stage::from_document(&taken(stage)?)?;
    let acts = |param: &&Param| stage.effect.acts(&stage.values, param);
    Ok(stage.effect.all_params().filter(acts).map(|param| param.id.to_owned()).collect())
}

/// A region to begin with after the others of an ear map.
///
/// # Errors
/// None in practice.
#[wasm_bindgen(js_name = nextRegion)]
pub fn next_region(regions: &js::EarRegions) -> Result<js::EarRegion, JsError> {
    given(&ear_maps::next_region(&taken(regions)?))
}

/// Where a new band stands beside others at some frequencies, Hz.
#[wasm_bindgen(js_name = freePlaceHz)]
#[must_use]
pub fn free_place_hz(taken: &[f64]) -> f64 {
    clear_bend_catalogue::free_place_hz(taken)
}

/// The level of an amplitude (full scale 1) as it is written.
#[wasm_bindgen(js_name = levelText)]
pub fn level_text(amplitude: f64) -> String {
    Unit::Dbfs.text(db_from_gain(amplitude))
}

/// A gain or a level in dB as a factor.
#[wasm_bindgen]
pub fn factor(db: f64) -> f64 {
    gain_from_db(db)
}

/// The version of the program.
#[wasm_bindgen(js_name = programVersion)]
#[must_use]
pub fn program_version() -> String {
    env!("CARGO_PKG_VERSION").to_owned()
}

/// Frequencies at equal ratios, ends included, Hz.
#[wasm_bindgen(js_name = logFreqs)]
pub fn log_freqs(from_hz: f64, to_hz: f64, count: usize) -> Vec<f64> {
    measures::log_freqs(from_hz, to_hz, count)
}

/// The nearest note to a frequency and the distance from it.
#[wasm_bindgen(js_name = noteText)]
pub fn note_text(freq_hz: f64) -> String {
    note_of(freq_hz)
}

/// The bandwidth of noise that one reading of a spectrum takes in, Hz.
///
/// # Errors
/// Refuses a resolution that is not known.
#[wasm_bindgen(js_name = bandwidthHz)]
pub fn bandwidth_hz(resolution: &str) -> Result<f64, JsError> {
    let resolution: Resolution = serde_json::from_value(resolution.into())?;
    Ok(resolution.bandwidth_hz(BENCH_RATE_HZ))
}

/// The spectra of what is playing.
#[wasm_bindgen]
pub struct LiveSpectra(Analyser);

#[wasm_bindgen]
impl LiveSpectra {
    /// Spectra that have seen nothing, taken as a description says.
    ///
    /// # Errors
    /// Refuses what is no such description.
    #[wasm_bindgen(constructor)]
    pub fn new(how: &js::Analysing) -> Result<LiveSpectra, JsError> {
        Ok(Self(Analyser::new(BENCH_RATE_HZ, taken(how)?)))
    }

    /// Takes in the next samples: all of left before, then right before, left after and right after.
    pub fn push(&mut self, samples: &[f32]) {
        self.0.push(samples);
    }

    /// Reads the spectra anew.
    pub fn read(&mut self) {
        self.0.read();
    }

    /// The levels before (0) or after (1) in columns at equal ratios, dBFS.
    pub fn columns(&self, side: usize, from_hz: f64, to_hz: f64, columns: usize) -> Vec<f32> {
        self.0.columns_dbfs(side, from_hz, to_hz, columns)
    }

    /// The highest levels so far.
    pub fn held(&self, side: usize, from_hz: f64, to_hz: f64, columns: usize) -> Vec<f32> {
        self.0.held_dbfs(side, from_hz, to_hz, columns)
    }
}

/// One parameter: how its values lie along a control, how they are written and typed.
#[wasm_bindgen]
pub struct Control(Param);

#[wasm_bindgen]
impl Control {
    /// The parameter (or the mix) of an effect.
    ///
    /// # Errors
    /// Refuses what is not in the catalogue.
    #[wasm_bindgen(js_name = ofEffect)]
    pub fn of_effect(effect: &str, param: &str) -> Result<Control, JsError> {
        let found = effects::find(effect)
            .and_then(|e| e.params.iter().chain([&e.mix]).find(|p| p.id == param).copied());
        found.map(Self).ok_or_else(|| Refusal::new("param", param, "a parameter of the effect").into())
    }

    /// The setting of a signal.
    ///
    /// # Errors
    /// Refuses what is not in the catalogue.
    #[wasm_bindgen(js_name = ofSignal)]
    pub fn of_signal(kind: &str, param: &str) -> Result<Control, JsError> {
        let found = signals::find(kind)?.params.iter().find(|p| p.id == param).copied();
        found.map(Self).ok_or_else(|| Refusal::new("param", param, "a setting of the signal").into())
    }

    /// The level or the pan of a stem, or the level at which it is sent to a shared path.
    ///
    /// # Errors
    /// Refuses anything else.
    #[wasm_bindgen(js_name = ofStrip)]
    pub fn of_strip(param: &str) -> Result<Control, JsError> {
        let found = [mix::LEVEL, mix::PAN, mix::SEND_LEVEL].into_iter().find(|p| p.id == param);
        found.map(Self).ok_or_else(|| Refusal::new("param", param, "level_db, pan, send_db").into())
    }

    /// A curve of a designed response, or what can be set of a reflection that is placed in it.
    ///
    /// # Errors
    /// Refuses what is not in the catalogue.
    #[wasm_bindgen(js_name = ofDesign)]
    pub fn of_design(curve: &str, placed: bool) -> Result<Control, JsError> {
        let params: &[Param] = if placed { &PLACED } else { CURVES };
        let found = params.iter().find(|p| p.id == curve).copied();
        found.map(Self).ok_or_else(|| Refusal::new("curve", curve, "a curve of the catalogue").into())
    }

    /// An end of a region of an ear map.
    #[wasm_bindgen(js_name = ofEarMap)]
    pub fn of_ear_map() -> Control {
        Self(EDGE)
    }

    /// Whether its values are choices, with nothing between them.
    #[wasm_bindgen(getter, js_name = isChoice)]
    pub fn is_choice(&self) -> bool {
        !self.0.choices.is_empty()
    }

    /// Where a value lies, 0 to 1.
    pub fn position(&self, value: f64) -> f64 {
        self.0.position_of(value)
    }

    /// The value at a position.
    pub fn value(&self, position: f64) -> f64 {
        self.0.value_at(position)
    }

    /// The value some hundredths of the control further.
    pub fn nudged(&self, value: f64, steps: f64) -> f64 {
        self.0.nudged(value, steps)
    }

    /// The value as it is written.
    pub fn text(&self, value: f64) -> String {
        self.0.text(value)
    }

    /// The value the second way, such as the note of a frequency; none for most units.
    pub fn aside(&self, value: f64) -> Option<String> {
        self.0.aside(value)
    }

    /// Reads a value that is typed the second way.
    ///
    /// # Errors
    /// The sentence of the core's refusal.
    #[wasm_bindgen(js_name = parseAside)]
    pub fn parse_aside(&self, typed: &str) -> Result<f64, JsError> {
        Ok(self.0.parse_aside(typed)?)
    }

    /// Reads a typed value.
    ///
    /// # Errors
    /// The sentence of the core's refusal.
    pub fn parse(&self, typed: &str) -> Result<f64, JsError> {
        Ok(self.0.parse(typed)?)
    }
}
