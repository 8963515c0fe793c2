//! What the bend worker asks of the passage: what a parameter does over its range, as a bend and as a fan.

use clear_bend_core::Refusal;
use clear_bend_core::bend::{BendOf, BendPoint, USUAL_POINTS};
use clear_bend_core::catalogue::Number;
use clear_bend_core::document::parse_json;
use clear_bend_core::fan::{Equal, FanOf, FanRow, check_count, propose};
use clear_bend_core::render::Rendered;
use wasm_bindgen::prelude::{JsError, wasm_bindgen};

use crate::json;
use crate::measure::{MeasuringBench, extremes, gains, path_of};

/// So many values for a fan of a parameter of a path, proposed from its whole bend (a JSON list of points), as JSON.
///
/// # Errors
/// The sentence of the core's refusal.
#[wasm_bindgen(js_name = proposedFanJson)]
pub fn proposed_fan_json(
    path: &str,
    stage: usize,
    param: &str,
    points_json: &str,
    count: usize,
) -> Result<String, JsError> {
    let bend = BendOf::new(&path_of(path)?, stage, param)?;
    let points: Vec<BendPoint> = parse_json(points_json)?;
    check_count(count)?;
    json(&propose(&bend, &points, count).into_iter().map(Number).collect::<Vec<_>>())
}

#[wasm_bindgen]
impl MeasuringBench {
    /// How many points the bend of a parameter of the latest path has.
    ///
    /// # Errors
    /// The sentence of the core's refusal.
    #[wasm_bindgen(js_name = bendPoints)]
    pub fn bend_points(&self, stage: usize, param: &str) -> Result<usize, JsError> {
        Ok(BendOf::new(&self.path, stage, param)?.values(USUAL_POINTS).count())
    }

    /// The point of the bend at the value that is set, as JSON: one render of the passage.
    ///
    /// # Errors
    /// The sentence of the core's refusal.
    #[wasm_bindgen(js_name = bendNowJson)]
    pub fn bend_now_json(&mut self, stage: usize, param: &str) -> Result<String, JsError> {
        let bend = BendOf::new(&self.path, stage, param)?;
        json(&bend.point(&mut self.run, &self.passage, bend.value()))
    }

    /// One point of the bend of a parameter of the latest path, as JSON: one render of the passage.
    ///
    /// # Errors
    /// The sentence of the core's refusal.
    #[wasm_bindgen(js_name = bendPointJson)]
    pub fn bend_point_json(&mut self, stage: usize, param: &str, point: usize) -> Result<String, JsError> {
        let known = self.bends.entry((stage, param.to_owned())).or_default();
        if let Some(Some(measured)) = known.get(point) {
            return json(measured);
        }
        let bend = BendOf::new(&self.path, stage, param)?;
        let value = bend.values(USUAL_POINTS).nth(point);
        let value = value.ok_or_else(|| Refusal::new("point", point, format!("under {USUAL_POINTS}")))?;
        let measured = bend.point(&mut self.run, &self.passage, value);
        // A bend that was left half-way goes on where it stopped.
        known.resize(known.len().max(point + 1), None);
        known[point] = Some(measured);
        json(&measured)
    }

    /// The value of a parameter of a path at which its outcome is that of the same stage of another one, as JSON.
    ///
    /// # Errors
    /// The sentence of the core's refusal.
    #[wasm_bindgen(js_name = equalJson)]
    pub fn equal_json(&self, path: &str, other: &str, stage: usize, param: &str) -> Result<String, JsError> {
        let [path, other] = [self.sounded(path_of(path)?), self.sounded(path_of(other)?)];
        json(&Equal::find(&path, &other, stage, param, &self.passage)?)
    }

    /// Opens a fan of a parameter of the latest path with these values (a JSON list).
    ///
    /// # Errors
    /// The sentence of the core's refusal.
    #[wasm_bindgen(js_name = openFan)]
    pub fn open_fan(
        &mut self,
        stage: usize,
        param: &str,
        values_json: &str,
        same: Option<String>,
    ) -> Result<(), JsError> {
        let fan = FanOf::new(&self.path, stage, param, same.as_deref(), &self.passage)?;
        let values: Vec<Number> = parse_json(values_json)?;
        let values: Vec<f64> = values.into_iter().map(|number| number.0).collect();
        fan.check(&values)?;
        self.fan = Some((fan, values));
        Ok(())
    }

    /// Renders one value of the fan and reads it off, as JSON.
    ///
    /// # Errors
    /// Says so when there is no such value.
    #[wasm_bindgen(js_name = fanRowJson)]
    pub fn fan_row_json(&mut self, index: usize) -> Result<String, JsError> {
        let missing = || JsError::new("the fan has no such value");
        let (fan, values) = self.fan.as_ref().ok_or_else(missing)?;
        let (rendered, row): (Rendered, FanRow) =
            fan.row(&mut self.run, &self.passage, *values.get(index).ok_or_else(missing)?);
        self.fan_rendered = Some(rendered);
        json(&row)
    }

    /// Smallest, then largest sample of every column of the latest value of the fan, with its tail.
    #[wasm_bindgen(js_name = fanColumns)]
    pub fn fan_columns(&self, columns: usize) -> Vec<f32> {
        self.fan_rendered.as_ref().map(|r| extremes(&r.with_tail(), columns)).unwrap_or_default()
    }

    /// Length of the latest value of the fan with its tail, s.
    #[wasm_bindgen(getter, js_name = fanSeconds)]
    pub fn fan_seconds(&self) -> f64 {
        self.fan_rendered.as_ref().map_or(0.0, |r| r.after.seconds() + r.tail.seconds())
    }

    /// Deepest gain of a stage in every column of the latest value of the fan, dB.
    #[wasm_bindgen(js_name = fanGainColumns)]
    pub fn fan_gain_columns(&self, stage: usize, columns: usize) -> Vec<f32> {
        self.fan_rendered.as_ref().map(|r| gains(r, stage, columns)).unwrap_or_default()
    }
}
