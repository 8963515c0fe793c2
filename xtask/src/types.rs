//! TypeScript declarations of everything that crosses from the core to the browser.

use anyhow::{Context, Result};
use clear_bend_core::bench::BenchDocument;
use clear_bend_core::bend::BendPoint;
use clear_bend_core::ear_maps::EarMapDocument;
use clear_bend_core::effects::Curves;
use clear_bend_core::fan::{Equal, FanRow};
use clear_bend_core::live::Meters;
use clear_bend_core::measures::modulation::{
    ModulationSpectrum, NotchMoment, PitchView, Sidebands, SwingView, Traces, WaveLook,
};
use clear_bend_core::measures::room::{
    CorrelationView, DecayView, DensityView, Falling, OctavesView, PartsView, UnderHits,
};
use clear_bend_core::measures::{
    Analysing, Attack, BandLevel, Closeness, CurvePoint, Distortion, GainView, Histogram, Parts, Resonances,
    ResponseView, StepResponse,
};
use clear_bend_core::mix::Audible;
use clear_bend_core::offered::Catalogue;
use clear_bend_core::path::Difference;
use clear_bend_core::report::{
    DesignView, ReferenceLevels, Report, RoomBendPoint, RoomMeasured, RoomPlan, SendsCompared, SumLevels,
};
use clear_bend_core::responses::ResponseDocument;
use ts_rs::{Config, TS};

/// Writes one file per type, and with it every type that it mentions. What an earlier run wrote goes, so that a type
/// which is no longer written is missed at once and not only on a new machine.
pub fn write() -> Result<()> {
    let folder = crate::root().join("web/src/generated/types");
    if folder.exists() {
        std::fs::remove_dir_all(&folder).with_context(|| format!("{}", folder.display()))?;
    }
    let config = Config::new().with_out_dir(folder);
    BenchDocument::export_all(&config)?;
    Catalogue::export_all(&config)?;
    Report::export_all(&config)?;
    BendPoint::export_all(&config)?;
    Analysing::export_all(&config)?;
    Attack::export_all(&config)?;
    BandLevel::export_all(&config)?;
    Curves::export_all(&config)?;
    EarMapDocument::export_all(&config)?;
    Parts::export_all(&config)?;
    Resonances::export_all(&config)?;
    GainView::export_all(&config)?;
    ResponseView::export_all(&config)?;
    DecayView::export_all(&config)?;
    OctavesView::export_all(&config)?;
    PartsView::export_all(&config)?;
    DensityView::export_all(&config)?;
    CorrelationView::export_all(&config)?;
    Falling::export_all(&config)?;
    SwingView::export_all(&config)?;
    NotchMoment::export_all(&config)?;
    Sidebands::export_all(&config)?;
    Traces::export_all(&config)?;
    PitchView::export_all(&config)?;
    ModulationSpectrum::export_all(&config)?;
    WaveLook::export_all(&config)?;
    Closeness::export_all(&config)?;
    UnderHits::export_all(&config)?;
    CurvePoint::export_all(&config)?;
    Distortion::export_all(&config)?;
    Histogram::export_all(&config)?;
    StepResponse::export_all(&config)?;
    Difference::export_all(&config)?;
    FanRow::export_all(&config)?;
    Equal::export_all(&config)?;
    Meters::export_all(&config)?;
    ReferenceLevels::export_all(&config)?;
    SumLevels::export_all(&config)?;
    SendsCompared::export_all(&config)?;
    Audible::export_all(&config)?;
    ResponseDocument::export_all(&config)?;
    DesignView::export_all(&config)?;
    RoomPlan::export_all(&config)?;
    RoomMeasured::export_all(&config)?;
    RoomBendPoint::export_all(&config)?;
    Ok(())
}
