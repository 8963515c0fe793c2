//! The measuring part: what the page and its worker ask of the core.

use clear_bend_core::bench::{BENCH_RATE_HZ, BenchDocument};
use clear_bend_core::bend::{BendOf, USUAL_POINTS};
use clear_bend_core::catalogue::{Param, Unit, catalogue};
use clear_bend_core::measures::{Overview, deepest, measure_static_curve};
use clear_bend_core::path::{Path, parse_json};
use clear_bend_core::render::{Rendered, render};
use clear_bend_core::report::{Passage, PointLevels, read, render_points};
use clear_bend_core::signals::{self, Source, SourceDocument};
use clear_bend_core::{Refusal, effects};
use serde::Serialize;
use wasm_bindgen::prelude::{JsError, wasm_bindgen};

fn json(value: &impl Serialize) -> Result<String, JsError> {
    Ok(serde_json::to_string(value)?)
}

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
        self.0.unit.text(value)
    }

    /// Reads a typed value.
    ///
    /// # Errors
    /// The sentence of the core's refusal.
    pub fn parse(&self, typed: &str) -> Result<f64, JsError> {
        Ok(self.0.parse(typed)?)
    }
}

/// A source through a path, as it is exported: all samples of the first channel, then all of the second.
///
/// # Errors
/// The sentence of the core's refusal.
#[wasm_bindgen(js_name = renderSamples)]
pub fn render_samples(source_json: &str, path_json: &str) -> Result<Vec<f32>, JsError> {
    let source = Source::from_document(&parse_json::<SourceDocument>(source_json)?)?;
    let path = Path::from_json(path_json)?;
    Ok(render(&path, &source.render(BENCH_RATE_HZ, 2)?).after.channels().concat())
}

/// Input against output of one stage of a path, as JSON: predicted and measured.
///
/// # Errors
/// The sentence of the core's refusal.
#[wasm_bindgen(js_name = staticCurveJson)]
pub fn static_curve_json(path_json: &str, stage: usize, step_db: usize) -> Result<String, JsError> {
    let path = Path::from_json(path_json)?;
    let stage = path.stages.get(stage).ok_or_else(|| Refusal::new("stage", stage, "a stage of the path"))?;
    json(&measure_static_curve(stage, BENCH_RATE_HZ, step_db))
}

/// A source and what the latest path made of it.
#[wasm_bindgen]
pub struct MeasuringBench {
    passage: Passage,
    path: Path,
    rendered: Option<(Rendered, Vec<PointLevels>)>,
}

#[wasm_bindgen]
impl MeasuringBench {
    /// Makes the source and reads everything off it.
    ///
    /// # Errors
    /// The sentence of the core's refusal.
    #[wasm_bindgen(constructor)]
    pub fn new(source_json: &str) -> Result<MeasuringBench, JsError> {
        let source = Source::from_document(&parse_json::<SourceDocument>(source_json)?)?;
        let passage = Passage::new(source.render(BENCH_RATE_HZ, 2)?);
        Ok(Self { passage, path: Path::default(), rendered: None })
    }

    /// Length of the source, s.
    #[wasm_bindgen(getter)]
    pub fn seconds(&self) -> f64 {
        self.passage.buffer.seconds()
    }

    /// Runs a path over the source.
    ///
    /// # Errors
    /// The sentence of the core's refusal.
    pub fn render(&mut self, path_json: &str) -> Result<(), JsError> {
        self.path = Path::from_json(path_json)?;
        self.rendered = Some(render_points(&self.path, &self.passage));
        Ok(())
    }

    /// Samples of a channel of the source.
    pub fn before(&self, channel: usize) -> Vec<f32> {
        self.passage.buffer.channels().get(channel).cloned().unwrap_or_default()
    }

    /// Smallest, then largest sample of every column of the source.
    #[wasm_bindgen(js_name = beforeColumns)]
    pub fn before_columns(&self, columns: usize) -> Vec<f32> {
        let overview = Overview::of(&self.passage.buffer, columns);
        [overview.min, overview.max].concat()
    }

    /// Smallest, then largest sample of every column after the path.
    #[wasm_bindgen(js_name = afterColumns)]
    pub fn after_columns(&self, columns: usize) -> Vec<f32> {
        let overview = self.rendered.as_ref().map(|(r, _)| Overview::of(&r.after, columns));
        overview.map(|o| [o.min, o.max].concat()).unwrap_or_default()
    }

    /// Deepest gain of a stage in every column, dB; empty where the stage reports none.
    #[wasm_bindgen(js_name = gainColumns)]
    pub fn gain_columns(&self, stage: usize, columns: usize) -> Vec<f32> {
        let gain = self.rendered.as_ref().and_then(|(r, _)| r.gains_db.get(stage)?.as_ref());
        gain.map(|gain| deepest(gain, columns)).unwrap_or_default()
    }

    /// How many points the bend of a parameter has.
    #[wasm_bindgen(js_name = bendPoints)]
    pub fn bend_points() -> usize {
        USUAL_POINTS
    }

    /// One point of the bend of a parameter of the latest path, as JSON: one render of the source.
    ///
    /// # Errors
    /// The sentence of the core's refusal.
    #[wasm_bindgen(js_name = bendPointJson)]
    pub fn bend_point_json(&self, stage: usize, param: &str, point: usize) -> Result<String, JsError> {
        let bend = BendOf::new(&self.path, stage, param)?;
        let value = bend.values(USUAL_POINTS).nth(point);
        let value = value.ok_or_else(|| Refusal::new("point", point, format!("under {USUAL_POINTS}")))?;
        json(&bend.point(&self.passage, value))
    }

    /// Everything that is read off before and after, as JSON.
    ///
    /// # Errors
    /// Says so when nothing has been rendered yet.
    #[wasm_bindgen(js_name = reportJson)]
    pub fn report_json(&self) -> Result<String, JsError> {
        let (rendered, points) =
            self.rendered.as_ref().ok_or_else(|| JsError::new("nothing is rendered yet"))?;
        json(&read(&self.path, &self.passage, rendered, points.clone()))
    }
}
