//! What a stage or a path does by itself, to signals of the core's own: curves, steps, harmonics.

use std::sync::Arc;

use clear_bend_core::Refusal;
use clear_bend_core::bench::BENCH_RATE_HZ;
use clear_bend_core::catalogue::Picture;
use clear_bend_core::document::parse_json;
use clear_bend_core::effects::DrawnAt;
use clear_bend_core::measures;
use clear_bend_core::measures::modulation::{NotchMoment, PitchView, Sidebands, SwingView, Traces};
use clear_bend_core::measures::room::{self, Falling, RoomResponse, RoomView};
use clear_bend_core::measures::{
    GainView, Histogram, LowTone, Response, ResponseView, Tail, measure_attack, measure_distortion,
    measure_response, measure_static_curve, measure_step, predicted_match_db, scopes_of,
};
use clear_bend_core::path::{Path, Stage};
use clear_bend_core::render::render;
use clear_bend_core::scope::Scope;
use clear_bend_core::signals::{Source, SourceDocument};
use wasm_bindgen::prelude::{JsError, wasm_bindgen};

use crate::json;
use crate::measure::{MeasuringBench, path_of};

/// A source through a path, as it is exported: all samples of the first channel, then all of the second.
///
/// # Errors
/// The sentence of the core's refusal.
#[wasm_bindgen(js_name = renderSamples)]
pub fn render_samples(source_json: &str, path_json: &str) -> Result<Vec<f32>, JsError> {
    let source = Source::from_document(&parse_json::<SourceDocument>(source_json)?)?;
    let before = source.render(BENCH_RATE_HZ, 2)?;
    let made = |source: &Source| source.render(BENCH_RATE_HZ, 2).ok();
    let path = path_of(path_json)?
        .with_sounds(|_, slot, source| Some(Arc::new(slot.laid(&made(source)?, before.frames()))));
    Ok(render(&path, &before).after.channels().concat())
}

/// The match gain (dB) to hold until that of a path is measured: from another path whose gain is known, and the levels of the passage.
///
/// # Errors
/// The sentence of the core's refusal.
#[wasm_bindgen(js_name = predictedMatchDb)]
pub fn predicted_match(
    known_json: &str,
    known_db: f64,
    path_json: &str,
    levels_json: &str,
) -> Result<f64, JsError> {
    let levels: Histogram = parse_json(levels_json)?;
    Ok(predicted_match_db((&path_of(known_json)?, known_db), &path_of(path_json)?, &levels))
}

/// Input against output of one stage of a path, as JSON: predicted and measured.
///
/// # Errors
/// The sentence of the core's refusal.
#[wasm_bindgen(js_name = staticCurveJson)]
pub fn static_curve_json(path_json: &str, stage: usize, step_db: usize) -> Result<String, JsError> {
    json(&measure_static_curve(&stage_of(path_json, stage)?, BENCH_RATE_HZ, step_db))
}

/// The answer of one stage of a path to a step of level, as JSON; `null` for stages that report no gain.
///
/// # Errors
/// The sentence of the core's refusal.
#[wasm_bindgen(js_name = stepJson)]
pub fn step_json(path_json: &str, stage: usize) -> Result<String, JsError> {
    let stage = stage_of(path_json, stage)?;
    json(&measure_step(&stage, BENCH_RATE_HZ, stage.effect.step(&stage.values)))
}

/// The harmonics that one stage of a path adds to a low tone, as JSON.
///
/// # Errors
/// The sentence of the core's refusal.
#[wasm_bindgen(js_name = distortionJson)]
pub fn distortion_json(path_json: &str, stage: usize) -> Result<String, JsError> {
    json(&measure_distortion(&stage_of(path_json, stage)?, BENCH_RATE_HZ, &LowTone::USUAL))
}

/// The frequencies at which the bands of a stage meet or end, Hz.
///
/// # Errors
/// The sentence of the core's refusal.
#[wasm_bindgen(js_name = bandEdges)]
pub fn band_edges(path_json: &str, stage: usize) -> Result<Vec<f64>, JsError> {
    let stage = stage_of(path_json, stage)?;
    Ok(stage.effect.edges_hz(&stage.values))
}

/// The gain of one stage of a path at some frequencies (Hz), measured with an impulse on every scope that has a curve of
/// its own, as JSON.
///
/// # Errors
/// The sentence of the core's refusal.
#[wasm_bindgen(js_name = gainsJson)]
pub fn gains_json(path_json: &str, stage: usize, freqs_hz: &[f64]) -> Result<String, JsError> {
    let stage = stage_of(path_json, stage)?;
    let curves = stage.effect.curves(&stage.values, BENCH_RATE_HZ, &[]);
    let at = DrawnAt::new(freqs_hz, &curves.map(|curves| curves.places_hz).unwrap_or_default());
    let read = |(scope, response): (Scope, Response)| GainView::of(&response, scope, &at);
    json(&responses(&stage).map(read).collect::<Vec<_>>())
}

/// The same at some rising frequencies, with phase, group delay and impulse response.
///
/// # Errors
/// The sentence of the core's refusal.
#[wasm_bindgen(js_name = responsesJson)]
pub fn responses_json(path_json: &str, stage: usize, freqs_hz: &[f64]) -> Result<String, JsError> {
    let read = |(scope, response): (Scope, Response)| ResponseView::of(&response, scope, freqs_hz);
    json(&responses(&stage_of(path_json, stage)?).map(read).collect::<Vec<_>>())
}

/// A measured response of every scope that has one of its own.
fn responses(stage: &Stage) -> impl Iterator<Item = (Scope, Response)> {
    let measure = |scope| (scope, measure_response(stage, BENCH_RATE_HZ, scope, Tail::Usual));
    scopes_of(stage, BENCH_RATE_HZ).into_iter().map(measure)
}

/// A low note through one stage of a path, as JSON.
///
/// # Errors
/// The sentence of the core's refusal.
#[wasm_bindgen(js_name = attackJson)]
pub fn attack_json(path_json: &str, stage: usize) -> Result<String, JsError> {
    json(&measure_attack(&stage_of(path_json, stage)?, BENCH_RATE_HZ))
}

fn stage_of(path_json: &str, stage: usize) -> Result<Stage, Refusal> {
    take_stage(path_of(path_json)?, stage)
}

fn take_stage(mut path: Path, stage: usize) -> Result<Stage, Refusal> {
    if stage < path.stages.len() {
        Ok(path.stages.swap_remove(stage))
    } else {
        Err(Refusal::new("stage", stage, "a stage of the path"))
    }
}

/// The swing of a stage over so many seconds, at so many places, as JSON; null where it does not move.
///
/// # Errors
/// The sentence of the core's refusal.
#[wasm_bindgen(js_name = swingJson)]
pub fn swing_json(path_json: &str, stage: usize, seconds: f64, columns: usize) -> Result<String, JsError> {
    json(&SwingView::of(&stage_of(path_json, stage)?, seconds, columns))
}

/// The response of a stage (JSON) at a place of its cycle, at so many frequencies, as JSON; null where it does not move.
///
/// # Errors
/// The sentence of the core's refusal.
#[wasm_bindgen(js_name = momentJson)]
pub fn moment_json(stage: &str, cycles: f64, points: usize) -> Result<String, JsError> {
    let stage = Stage::from_document(&parse_json(stage)?)?;
    json(&NotchMoment::of(&stage, cycles, points, BENCH_RATE_HZ))
}

/// The spectrum of a tone (Hz) through a stage that moves, as JSON; null where it does not.
///
/// # Errors
/// The sentence of the core's refusal.
#[wasm_bindgen(js_name = sidebandsJson)]
pub fn sidebands_json(path_json: &str, stage: usize, tone_hz: f64) -> Result<String, JsError> {
    json(&Sidebands::of(&stage_of(path_json, stage)?, tone_hz, BENCH_RATE_HZ))
}

/// The way of the notches of a stage through a cycle, in so many columns of so many rows, as JSON; null where it does not move.
///
/// # Errors
/// The sentence of the core's refusal.
#[wasm_bindgen(js_name = tracesJson)]
pub fn traces_json(path_json: &str, stage: usize, columns: usize, rows: usize) -> Result<String, JsError> {
    json(&Traces::of(&stage_of(path_json, stage)?, (columns, rows), BENCH_RATE_HZ))
}

/// The delays of a stage over so many seconds and the pitch that follows from them, at so many places, as JSON; null where no delay
/// sways.
///
/// # Errors
/// The sentence of the core's refusal.
#[wasm_bindgen(js_name = pitchJson)]
pub fn pitch_json(path_json: &str, stage: usize, seconds: f64, places: usize) -> Result<String, JsError> {
    json(&PitchView::of(&stage_of(path_json, stage)?, seconds, places, BENCH_RATE_HZ))
}

/// What goes by a response needs the sounds that the bench has laid.
#[wasm_bindgen]
impl MeasuringBench {
    /// A stage as a room, for its pictures, as JSON; null where it is none. A response by its parts is drawn over so many
    /// columns.
    ///
    /// # Errors
    /// The sentence of the core's refusal.
    #[wasm_bindgen(js_name = roomJson)]
    pub fn room_json(
        &self,
        path_json: &str,
        stage: usize,
        picture: &str,
        columns: usize,
    ) -> Result<String, JsError> {
        let stage = self.sounded_stage(path_json, stage)?;
        let picture: Picture = serde_json::from_value(picture.into())?;
        let rings = stage.effect.rings();
        json(&rings.then(|| RoomView::of_stage(&stage, BENCH_RATE_HZ, picture, columns)).flatten())
    }

    /// The falling spectrum of a stage's response in so many lines, as JSON; null where it is no room.
    ///
    /// # Errors
    /// The sentence of the core's refusal.
    #[wasm_bindgen(js_name = fallingJson)]
    pub fn falling_json(&self, path_json: &str, stage: usize, lines: usize) -> Result<String, JsError> {
        let stage = self.sounded_stage(path_json, stage)?;
        let falling = stage.effect.rings().then(|| {
            let response = RoomResponse::of_stage(&stage, BENCH_RATE_HZ, room::LONGEST_S);
            let t30 = response.decay().fit(-5.0, -35.0);
            Falling::of(&response, t30.map(|t30| t30.seconds), lines)
        });
        json(&falling)
    }

    /// Lets a stage run over so many seconds of noise, in the blocks of an audio thread. How long that takes is for the caller to see.
    ///
    /// # Errors
    /// The sentence of the core's refusal.
    #[wasm_bindgen(js_name = runStage)]
    pub fn run_stage(&self, path_json: &str, stage: usize, seconds: f64) -> Result<(), JsError> {
        measures::run_stage(&self.sounded_stage(path_json, stage)?, BENCH_RATE_HZ, seconds);
        Ok(())
    }

    fn sounded_stage(&self, path_json: &str, stage: usize) -> Result<Stage, Refusal> {
        take_stage(self.sounded(path_of(path_json)?), stage)
    }
}
