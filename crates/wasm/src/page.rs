//! What the page asks of the core: catalogue, controls, texts, checks.

use clear_bend_core::bench::{BENCH_RATE_HZ, BenchDocument, MOST_SHARED};
use clear_bend_core::catalogue::{Param, Unit, note_of, outcomes};
use clear_bend_core::document::parse_json;
use clear_bend_core::ear_maps::EDGE;
use clear_bend_core::live::MOST_LANES;
use clear_bend_core::measures::{self, Analyser, Analysing, Resolution};
use clear_bend_core::offered::catalogue;
use clear_bend_core::path::{Path, Stage, differences};
use clear_bend_core::region::{self, Region};
use clear_bend_core::signals;
use clear_bend_core::signals::design::{CURVES, PLACED};
use clear_bend_core::{Refusal, effects, mix};
use wasm_bindgen::prelude::{JsError, wasm_bindgen};

use crate::json;
use crate::measure::path_of;

/// The catalogue as JSON.
///
/// # Errors
/// None in practice: the catalogue can always be written.
#[wasm_bindgen(js_name = catalogueJson)]
pub fn catalogue_json() -> Result<String, JsError> {
    json(&catalogue())
}

/// A new bench as JSON.
///
/// # Errors
/// None in practice.
#[wasm_bindgen(js_name = freshBenchJson)]
pub fn fresh_bench_json() -> Result<String, JsError> {
    json(&BenchDocument::fresh())
}

/// The most shared paths of a bench.
#[wasm_bindgen(js_name = mostShared)]
#[must_use]
pub fn most_shared() -> usize {
    MOST_SHARED
}

/// The place of the first shared path among the lanes of the live bench.
#[wasm_bindgen(js_name = firstSharedLane)]
#[must_use]
pub fn first_shared_lane() -> usize {
    MOST_LANES
}

/// What is heard of stems that play together, by their strips and whether they are shared paths, as JSON.
///
/// # Errors
/// Refuses what is no list of these.
#[wasm_bindgen(js_name = audibleJson)]
pub fn audible_json(strips_json: &str) -> Result<String, JsError> {
    json(&mix::audible(&parse_json::<Vec<_>>(strips_json)?))
}

/// A bench with a stage of the path at work taken into a shared path to which the stem sends as much, as JSON.
///
/// # Errors
/// The sentence of the core's refusal.
#[wasm_bindgen(js_name = sharedStageJson)]
pub fn shared_stage_json(bench_json: &str, stage: usize) -> Result<String, JsError> {
    json(&BenchDocument::from_json(bench_json)?.sharing(stage)?)
}

/// Checks a bench and returns it as JSON.
///
/// # Errors
/// The sentence of the core's refusal.
#[wasm_bindgen(js_name = checkBenchJson)]
pub fn check_bench_json(text: &str) -> Result<String, JsError> {
    json(&BenchDocument::from_json(text)?)
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

/// In what two paths differ, as JSON.
///
/// # Errors
/// The sentence of the core's refusal.
#[wasm_bindgen(js_name = differencesJson)]
pub fn differences_json(one: &str, other: &str) -> Result<String, JsError> {
    json(&differences(&path_of(one)?, &path_of(other)?))
}

/// Checks a path file and returns it as JSON.
///
/// # Errors
/// The sentence of the core's refusal.
#[wasm_bindgen(js_name = checkPathJson)]
pub fn check_path_json(text: &str) -> Result<String, JsError> {
    json(&Path::from_json(text)?.to_document())
}

/// The region between two places of a source, in seconds, as JSON.
///
/// # Errors
/// None in practice.
#[wasm_bindgen(js_name = regionJson)]
pub fn region_json(a_s: f64, b_s: f64, source_s: f64) -> Result<String, JsError> {
    json(&Region::between(a_s, b_s, source_s))
}

/// What is worked on where no region is chosen, as JSON.
///
/// # Errors
/// None in practice.
#[wasm_bindgen(js_name = usualRegionJson)]
pub fn usual_region_json(source_s: f64) -> Result<String, JsError> {
    json(&Region::usual(source_s))
}

/// A place moved to an onset that is near, s.
#[wasm_bindgen(js_name = snapped)]
pub fn snapped(at_s: f64, onsets_s: &[f64], shown_s: f64) -> f64 {
    region::snapped(at_s, onsets_s, shown_s)
}

/// The curves of a stage (JSON) by its formulas at some frequencies (Hz), as JSON with four decimals, which are fewer
/// letters to be read at every move of a hand; `null` where it is no filter.
///
/// # Errors
/// The sentence of the core's refusal.
#[wasm_bindgen(js_name = curvesJson)]
pub fn curves_json(stage: &str, rate_hz: u32, freqs_hz: &[f64]) -> Result<String, JsError> {
    let stage = Stage::from_document(&parse_json(stage)?)?;
    let mut curves = stage.effect.drawn_curves(&stage.values, rate_hz, freqs_hz);
    if let Some(curves) = &mut curves {
        let rounded = |values: &mut Vec<f64>| values.iter_mut().for_each(|x| *x = (*x * 1e4).round() / 1e4);
        curves.bands.iter_mut().for_each(|band| rounded(&mut band.gains_db));
        curves.sums.iter_mut().flat_map(|sum| [&mut sum.gains_db, &mut sum.phases_deg]).for_each(rounded);
    }
    json(&curves)
}

/// The decay times that a stage (JSON) sets at some frequencies (Hz), s; NaN where it never ends, and nothing where it sets none.
///
/// # Errors
/// The sentence of the core's refusal.
#[wasm_bindgen(js_name = setDecays)]
pub fn set_decays(stage: &str, freqs_hz: &[f64]) -> Result<Vec<f64>, JsError> {
    let stage = Stage::from_document(&parse_json(stage)?)?;
    let sets = freqs_hz.iter().filter_map(|hz| stage.effect.decay_s(&stage.values, *hz));
    Ok(sets.map(|set| if set.is_finite() { set } else { f64::NAN }).collect())
}

/// A stage as the step at a place of the guided order explains it; none where the order ends before.
///
/// # Errors
/// The sentence of the core's refusal.
#[wasm_bindgen(js_name = explainedJson)]
pub fn explained_json(stage: &str, place: usize) -> Result<String, JsError> {
    let stage = Stage::from_document(&parse_json(stage)?)?;
    json(&stage.effect.order.get(place).map(|step| stage.explained(step).to_document()))
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
    /// Spectra that have seen nothing, taken as a JSON description says.
    ///
    /// # Errors
    /// Refuses what is no such description.
    #[wasm_bindgen(constructor)]
    pub fn new(how: &str) -> Result<LiveSpectra, JsError> {
        let how: Analysing = parse_json(how)?;
        Ok(Self(Analyser::new(BENCH_RATE_HZ, how)))
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
