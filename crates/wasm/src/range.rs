//! What the bend worker asks of the passage: what a parameter does over its range, as a bend and as a fan.

use clear_bend_catalogue::Number;
use clear_bend_explaining::bend::{BendOf, USUAL_POINTS};
use clear_bend_explaining::fan::{Equal, FanOf, FanRow, check_count, propose};
use clear_bend_playing::render::Rendered;
use clear_bend_sound::Refusal;
use wasm_bindgen::prelude::{JsError, wasm_bindgen};

use crate::crossing::{given, js, taken};
use crate::measure::{MeasuringBench, extremes, gains, path_of};

/// So many values for a fan of a parameter of a path, proposed from its whole bend.
///
/// # Errors
/// The sentence of the core's refusal.
#[wasm_bindgen(js_name = proposedFan)]
pub fn proposed_fan(
    path: &js::Path,
    stage: usize,
    param: &str,
    points: &js::BendPoints,
    count: usize,
) -> Result<js::Numbers, JsError> {
    let bend = BendOf::new(&path_of(path)?, stage, param)?;
    check_count(count)?;
    given(&propose(&bend, &taken(points)?, count).into_iter().map(Number).collect::<Vec<_>>())
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

    /// The point of the bend at the value that is set: one render of the passage.
    ///
    /// # Errors
    /// The sentence of the core's refusal.
    #[wasm_bindgen(js_name = bendNow)]
    pub fn bend_now(&mut self, stage: usize, param: &str) -> Result<js::BendPoint, JsError> {
        let bend = BendOf::new(&self.path, stage, param)?;
        given(&bend.point(&mut self.run, &self.passage, bend.value()))
    }

    /// One point of the bend of a parameter of the latest path: one render of the passage.
    ///
    /// # Errors
    /// The sentence of the core's refusal.
    #[wasm_bindgen(js_name = bendPoint)]
    pub fn bend_point(&mut self, stage: usize, param: &str, point: usize) -> Result<js::BendPoint, JsError> {
        let known = self.bends.entry((stage, param.to_owned())).or_default();
        if let Some(Some(measured)) = known.get(point) {
            return given(measured);
        }
        let bend = BendOf::new(&self.path, stage, param)?;
        let value = bend.values(USUAL_POINTS).nth(point);
        let value = value.ok_or_else(|| Refusal::new("point", point, format!("under {USUAL_POINTS}")))?;
        let measured = bend.point(&mut self.run, &self.passage, value);
        // A bend that was left half-way goes on where it stopped.
        known.resize(known.len().max(point + 1), None);
        known[point] = Some(measured);
        given(&measured)
    }

    /// The value of a parameter of a path at which its outcome is that of the same stage of another one.
    ///
    /// # Errors
    /// The sentence of the core's refusal.
    #[wasm_bindgen(js_name = equal)]
    pub fn equal(
        &self,
        path: &js::Path,
        other: &js::Path,
        stage: usize,
        param: &str,
    ) -> Result<js::Equal, JsError> {
        let [path, other] = [self.sounded(path_of(path)?), self.sounded(path_of(other)?)];
        given(&Equal::find(&path, &other, stage, param, &self.passage)?)
    }

    /// Opens a fan of a parameter of the latest path with these values.
    ///
    /// # Errors
    /// The sentence of the core's refusal.
    #[wasm_bindgen(js_name = openFan)]
    pub fn open_fan(
        &mut self,
        stage: usize,
        param: &str,
        values: &js::Numbers,
        same: Option<String>,
    ) -> Result<(), JsError> {
        let fan = FanOf::new(&self.path, stage, param, same.as_deref(), &self.passage)?;
        let values: Vec<f64> = taken(values)?.into_iter().map(|number| number.0).collect();
        fan.check(&values)?;
        self.fan = Some((fan, values));
        Ok(())
    }

    /// Renders one value of the fan and reads it off.
    ///
    /// # Errors
    /// Says so when there is no such value.
    #[wasm_bindgen(js_name = fanRow)]
    pub fn fan_row(&mut self, index: usize) -> Result<js::FanRow, JsError> {
        let missing = || JsError::new("the fan has no such value");
        let (fan, values) = self.fan.as_ref().ok_or_else(missing)?;
        let (rendered, row): (Rendered, FanRow) =
            fan.row(&mut self.run, &self.passage, *values.get(index).ok_or_else(missing)?);
        self.fan_rendered = Some(rendered);
        given(&row)
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
