//! What the page asks of the core: catalogue, controls, texts, checks.

use clear_bend_core::bench::BenchDocument;
use clear_bend_core::catalogue::{Param, Unit, catalogue};
use clear_bend_core::path::{Path, differences};
use clear_bend_core::region::{self, Region};
use clear_bend_core::signals;
use clear_bend_core::{Refusal, effects, mix};
use wasm_bindgen::prelude::{JsError, wasm_bindgen};

use crate::json;

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

/// In what two paths differ, as JSON.
///
/// # Errors
/// The sentence of the core's refusal.
#[wasm_bindgen(js_name = differencesJson)]
pub fn differences_json(one: &str, other: &str) -> Result<String, JsError> {
    json(&differences(&Path::from_json(one)?, &Path::from_json(other)?))
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

    /// The level or the pan of a stem.
    ///
    /// # Errors
    /// Refuses anything else.
    #[wasm_bindgen(js_name = ofStrip)]
    pub fn of_strip(param: &str) -> Result<Control, JsError> {
        let found = [mix::LEVEL, mix::PAN].into_iter().find(|p| p.id == param);
        found.map(Self).ok_or_else(|| Refusal::new("param", param, "level_db, pan").into())
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

    /// Reads a typed value.
    ///
    /// # Errors
    /// The sentence of the core's refusal.
    pub fn parse(&self, typed: &str) -> Result<f64, JsError> {
        Ok(self.0.parse(typed)?)
    }
}
