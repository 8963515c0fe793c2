//! What a stage or a path does by itself, to signals of the core's own: curves, steps, harmonics.

use std::sync::Arc;

use clear_bend_bench::BENCH_RATE_HZ;
use clear_bend_effects::DrawnAt;
use clear_bend_measures as measures;
use clear_bend_measures::modulation::{NotchMoment, PitchView, Sidebands, SwingView, Traces};
use clear_bend_measures::room::{self, Falling, RoomResponse, RoomView};
use clear_bend_measures::{
    GainView, LowTone, Response, ResponseView, Tail, measure_attack, measure_distortion, measure_response,
    measure_static_curve, measure_step, predicted_match_db, scopes_of,
};
use clear_bend_playing::path::{Path, Stage};
use clear_bend_playing::render::render;
use clear_bend_signals::Source;
use clear_bend_sound::Refusal;
use clear_bend_sound::scope::Scope;
use wasm_bindgen::prelude::{JsError, wasm_bindgen};

use crate::crossing::{given, js, taken};
use crate::measure::{MeasuringBench, path_of};

/// A source through a path, as it is exported: all samples of the first channel, then all of the second.
///
/// # Errors
/// The sentence of the core's refusal.
#[wasm_bindgen(js_name = renderSamples)]
pub fn render_samples(source: &js::Source, path: &js::Path) -> Result<Vec<f32>, JsError> {
    let source = Source::from_document(&taken(source)?)?;
    let before = source.render(BENCH_RATE_HZ, 2)?;
    let made = |source: &Source| source.render(BENCH_RATE_HZ, 2).ok();
    let path = path_of(path)?
        .with_sounds(|_, slot, source| Some(Arc::new(slot.laid(&made(source)?, before.frames()))));
    Ok(render(&path, &before).after.channels().concat())
}

/// The match gain (dB) to hold until that of a path is measured: from another path whose gain is known, and the levels of the passage.
///
/// # Errors
/// The sentence of the core's refusal.
#[wasm_bindgen(js_name = predictedMatchDb)]
pub fn predicted_match(
    known: &js::Path,
    known_db: f64,
    path: &js::Path,
    levels: &js::Histogram,
) -> Result<f64, JsError> {
    Ok(predicted_match_db((&path_of(known)?, known_db), &path_of(path)?, &taken(levels)?))
}

/// Input against output of one stage of a path: predicted and measured.
///
/// # Errors
/// The sentence of the core's refusal.
#[wasm_bindgen(js_name = staticCurve)]
pub fn static_curve(path: &js::Path, stage: usize, step_db: usize) -> Result<js::CurvePoints, JsError> {
    given(&measure_static_curve(&stage_of(path, stage)?, BENCH_RATE_HZ, step_db))
}

/// The answer of one stage of a path to a step of level; `null` for stages that report no gain.
///
/// # Errors
/// The sentence of the core's refusal.
#[wasm_bindgen(js_name = step)]
pub fn step(path: &js::Path, stage: usize) -> Result<js::MaybeStep, JsError> {
    let stage = stage_of(path, stage)?;
    given(&measure_step(&stage, BENCH_RATE_HZ, stage.effect.step(&stage.values)))
}

/// The harmonics that one stage of a path adds to a low tone.
///
/// # Errors
/// The sentence of the core's refusal.
#[wasm_bindgen(js_name = distortion)]
pub fn distortion(path: &js::Path, stage: usize) -> Result<js::Distortion, JsError> {
    given(&measure_distortion(&stage_of(path, stage)?, BENCH_RATE_HZ, &LowTone::USUAL))
}

/// The frequencies at which the bands of a stage meet or end, Hz.
///
/// # Errors
/// The sentence of the core's refusal.
#[wasm_bindgen(js_name = bandEdges)]
pub fn band_edges(path: &js::Path, stage: usize) -> Result<Vec<f64>, JsError> {
    let stage = stage_of(path, stage)?;
    Ok(stage.effect.edges_hz(&stage.values))
}

/// The gain of one stage of a path at some frequencies (Hz), measured with an impulse on every scope that has a curve of
/// its own.
///
/// # Errors
/// The sentence of the core's refusal.
#[wasm_bindgen(js_name = gains)]
pub fn gains(path: &js::Path, stage: usize, freqs_hz: &[f64]) -> Result<js::Gains, JsError> {
    let stage = stage_of(path, stage)?;
    let curves = stage.effect.curves(&stage.values, BENCH_RATE_HZ, &[]);
    let at = DrawnAt::new(freqs_hz, &curves.map(|curves| curves.places_hz).unwrap_or_default());
    let read = |(scope, response): (Scope, Response)| GainView::of(&response, scope, &at);
    given(&responses(&stage).map(read).collect::<Vec<_>>())
}

/// The same at some rising frequencies, with phase, group delay and impulse response.
///
/// # Errors
/// The sentence of the core's refusal.
#[wasm_bindgen(js_name = responses)]
pub fn response_views(path: &js::Path, stage: usize, freqs_hz: &[f64]) -> Result<js::Responses, JsError> {
    let read = |(scope, response): (Scope, Response)| ResponseView::of(&response, scope, freqs_hz);
    given(&responses(&stage_of(path, stage)?).map(read).collect::<Vec<_>>())
}

/// A measured response of every scope that has one of its own.
fn responses(stage: &Stage) -> impl Iterator<Item = (Scope, Response)> {
    let measure = |scope| (scope, measure_response(stage, BENCH_RATE_HZ, scope, Tail::Usual));
    scopes_of(stage, BENCH_RATE_HZ).into_iter().map(measure)
}

/// A low note through one stage of a path.
///
/// # Errors
/// The sentence of the core's refusal.
#[wasm_bindgen(js_name = attack)]
pub fn attack(path: &js::Path, stage: usize) -> Result<js::Attack, JsError> {
    given(&measure_attack(&stage_of(path, stage)?, BENCH_RATE_HZ))
}

fn stage_of(path: &js::Path, stage: usize) -> Result<Stage, Refusal> {
    take_stage(path_of(path)?, stage)
}

fn take_stage(mut path: Path, stage: usize) -> Result<Stage, Refusal> {
    if stage < path.stages.len() {
        Ok(path.stages.swap_remove(stage))
    } else {
        Err(Refusal::new("stage", stage, "a stage of the path"))
    }
}

/// The swing of a stage over so many seconds, at so many places; null where it does not move.
///
/// # Errors
/// The sentence of the core's refusal.
#[wasm_bindgen(js_name = swing)]
pub fn swing(path: &js::Path, stage: usize, seconds: f64, columns: usize) -> Result<js::MaybeSwing, JsError> {
    given(&SwingView::of(&stage_of(path, stage)?, seconds, columns))
}

/// The response of a stage at a place of its cycle, at so many frequencies; null where it does not move.
///
/// # Errors
/// The sentence of the core's refusal.
#[wasm_bindgen(js_name = moment)]
pub fn moment(stage: &js::Stage, cycles: f64, points: usize) -> Result<js::MaybeMoment, JsError> {
    let stage = Stage::from_document(&taken(stage)?)?;
    given(&NotchMoment::of(&stage, cycles, points, BENCH_RATE_HZ))
}

/// The spectrum of a tone (Hz) through a stage that moves; null where it does not.
///
/// # Errors
/// The sentence of the core's refusal.
#[wasm_bindgen(js_name = sidebands)]
pub fn sidebands(path: &js::Path, stage: usize, tone_hz: f64) -> Result<js::MaybeSidebands, JsError> {
    given(&Sidebands::of(&stage_of(path, stage)?, tone_hz, BENCH_RATE_HZ))
}

/// The way of the notches of a stage through a cycle, in so many columns of so many rows; null where it does not move.
///
/// # Errors
/// The sentence of the core's refusal.
#[wasm_bindgen(js_name = traces)]
pub fn traces(
    path: &js::Path,
    stage: usize,
    columns: usize,
    rows: usize,
) -> Result<js::MaybeTraces, JsError> {
    given(&Traces::of(&stage_of(path, stage)?, (columns, rows), BENCH_RATE_HZ))
}

/// The delays of a stage over so many seconds and the pitch that follows from them, at so many places; null where no delay
/// sways.
///
/// # Errors
/// The sentence of the core's refusal.
#[wasm_bindgen(js_name = pitch)]
pub fn pitch(path: &js::Path, stage: usize, seconds: f64, places: usize) -> Result<js::MaybePitch, JsError> {
    given(&PitchView::of(&stage_of(path, stage)?, seconds, places, BENCH_RATE_HZ))
}

/// What goes by a response needs the sounds that the bench has laid.
#[wasm_bindgen]
impl MeasuringBench {
    /// A stage as a room, for its pictures; null where it is none. A response by its parts is drawn over so many
    /// columns.
    ///
    /// # Errors
    /// The sentence of the core's refusal.
    #[wasm_bindgen(js_name = room)]
    pub fn room(
        &self,
        path: &js::Path,
        stage: usize,
        picture: &js::Picture,
        columns: usize,
    ) -> Result<js::MaybeRoom, JsError> {
        let stage = self.sounded_stage(path, stage)?;
        let picture = taken(picture)?;
        let rings = stage.effect.rings();
        given(&rings.then(|| RoomView::of_stage(&stage, BENCH_RATE_HZ, picture, columns)).flatten())
    }

    /// The falling spectrum of a stage's response in so many lines; null where it is no room.
    ///
    /// # Errors
    /// The sentence of the core's refusal.
    #[wasm_bindgen(js_name = falling)]
    pub fn falling(&self, path: &js::Path, stage: usize, lines: usize) -> Result<js::MaybeFalling, JsError> {
        let stage = self.sounded_stage(path, stage)?;
        let falling = stage.effect.rings().then(|| {
            let response = RoomResponse::of_stage(&stage, BENCH_RATE_HZ, room::LONGEST_S);
            let t30 = response.decay().fit(-5.0, -35.0);
            Falling::of(&response, t30.map(|t30| t30.seconds), lines)
        });
        given(&falling)
    }

    /// Lets a stage run over so many seconds of noise, in the blocks of an audio thread. How long that takes is for the caller to see.
    ///
    /// # Errors
    /// The sentence of the core's refusal.
    #[wasm_bindgen(js_name = runStage)]
    pub fn run_stage(&self, path: &js::Path, stage: usize, seconds: f64) -> Result<(), JsError> {
        measures::run_stage(&self.sounded_stage(path, stage)?, BENCH_RATE_HZ, seconds);
        Ok(())
    }

    fn sounded_stage(&self, path: &js::Path, stage: usize) -> Result<Stage, Refusal> {
        take_stage(self.sounded(path_of(path)?), stage)
    }
}
