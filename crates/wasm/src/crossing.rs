//! What crosses between the core and the browser, by type, declared here once. Values cross as plain objects, written and read as
//! JSON. What TypeScript calls each is what ts-rs makes of the Rust type, which a test holds.

use clear_bend_bench as bench;
use clear_bend_catalogue as catalogue;
use clear_bend_catalogue::document::parse_json;
use clear_bend_catalogue::ear_maps;
use clear_bend_effects as effects;
use clear_bend_effects::offered;
use clear_bend_explaining::bend;
use clear_bend_explaining::fan;
use clear_bend_explaining::report;
use clear_bend_measures::{self as measures, modulation, room};
#[cfg(feature = "typescript")]
use clear_bend_playing::live;
use clear_bend_playing::mix;
use clear_bend_playing::path;
use clear_bend_signals as signals;
use clear_bend_sound::Refusal;
use clear_bend_sound::region;
use js_sys::JSON;
use serde::Serialize;
use serde::de::DeserializeOwned;
use wasm_bindgen::JsCast;
use wasm_bindgen::prelude::{JsError, JsValue, wasm_bindgen};

use crate::played::{PlayedDesk, PlayedStem};

/// A value of the browser that stands for one of the core's.
pub trait Crossing: JsCast {
    /// What it stands for.
    type Of;
}

/// Hands a value of the core to the browser.
pub fn given<J: Crossing<Of: Serialize>>(value: &J::Of) -> Result<J, JsError> {
    let parsed = JSON::parse(&serde_json::to_string(value)?);
    Ok(parsed.map_err(|_| JsError::new("an answer of the core is no JSON"))?.unchecked_into())
}

/// Reads a value that the browser hands in.
pub fn taken<J: Crossing<Of: DeserializeOwned>>(value: &J) -> Result<J::Of, Refusal> {
    parse_json(&text(value.as_ref()))
}

/// The same as text; empty where it is nothing at all.
pub fn text(value: &JsValue) -> String {
    // JavaScript has `undefined` there for what cannot be written.
    JSON::stringify(value).ok().and_then(|text| text.as_string()).unwrap_or_default()
}

/// Declares the types that others are made of, by the crate's modules, and the values that cross, as Rust and as TypeScript know
/// them.
macro_rules! crossings {
    (types { $($base:ident: $from:ty,)* } values { $($name:ident: $of:ty = $ts:literal,)* }) => {
        #[wasm_bindgen(typescript_custom_section)]
        const IMPORTS: &str = concat!($(
            "import type { ", stringify!($base), " } from \"../types/", stringify!($base), "\";\n"
        ),*);

        /// The values as they cross.
        #[allow(missing_docs, reason = "each is the value of that name")]
        pub mod js {
            use wasm_bindgen::prelude::wasm_bindgen;

            #[wasm_bindgen]
            extern "C" {
                $(#[wasm_bindgen(typescript_type = $ts)] pub type $name;)*
            }
        }

        $(impl Crossing for js::$name {
            type Of = $of;
        })*

        /// Writes the declarations of all types that cross, and of those that they mention.
        ///
        /// # Errors
        /// Those of writing a file.
        #[cfg(feature = "typescript")]
        pub fn export(config: &ts_rs::Config) -> Result<(), ts_rs::ExportError> {
            $(<$from as ts_rs::TS>::export_all(config)?;)*
            Ok(())
        }

        #[cfg(all(test, feature = "typescript"))]
        mod tests {
            use ts_rs::{Config, TS};

            use super::*;

            #[test]
            fn values_are_called_what_ts_rs_calls_them() {
                let config = Config::new();
                let imported = [$(<$from as TS>::name(&config)),*];
                assert_eq!(imported, [$(stringify!($base)),*]);
                $(
                    assert_eq!(<$of as TS>::name(&config), $ts, stringify!($name));
                    for word in $ts.split(|c: char| !c.is_alphanumeric()) {
                        let known = ["", "Array", "null", "number", "boolean", "inf"];
                        assert!(known.contains(&word) || imported.iter().any(|name| name == word), "{word}");
                    }
                )*
            }
        }
    };
}

crossings! {
    types {
        Analysing: measures::Analysing,
        Attack: measures::Attack,
        Audible: mix::Audible,
        BandLevel: measures::BandLevel,
        BendPoint: bend::BendPoint,
        BenchDocument: bench::BenchDocument,
        Catalogue: offered::Catalogue,
        Closeness: measures::Closeness,
        CurvePoint: measures::CurvePoint,
        Curves: effects::Curves,
        DesignView: report::DesignView,
        Difference: path::Difference,
        Distortion: measures::Distortion,
        EarMapDocument: ear_maps::EarMapDocument,
        EarRegion: ear_maps::EarRegion,
        Equal: fan::Equal,
        Falling: room::Falling,
        FanRow: fan::FanRow,
        GainView: measures::GainView,
        Histogram: measures::Histogram,
        LevelMatches: measures::LevelMatches,
        Meters: live::Meters,
        ModulationSpectrum: modulation::ModulationSpectrum,
        NotchMoment: modulation::NotchMoment,
        Parts: measures::Parts,
        PathDocument: path::PathDocument,
        Picture: catalogue::Picture,
        PitchView: modulation::PitchView,
        Play: path::Play,
        PlayedDesk: PlayedDesk,
        PlayedStem: PlayedStem,
        ReferenceLevels: report::ReferenceLevels,
        Region: region::Region,
        Report: report::Report,
        Resonances: measures::Resonances,
        ResponseDocument: clear_bend_measures::responses::ResponseDocument,
        ResponseView: measures::ResponseView,
        RoomBendPoint: report::RoomBendPoint,
        RoomMeasured: report::RoomMeasured,
        RoomPlan: report::RoomPlan,
        RoomView: room::RoomView,
        SendsCompared: report::SendsCompared,
        Sidebands: modulation::Sidebands,
        SourceDocument: signals::SourceDocument,
        StageDocument: path::StageDocument,
        StepResponse: measures::StepResponse,
        Strip: mix::Strip,
        SumLevels: report::SumLevels,
        SwingView: modulation::SwingView,
        Traces: modulation::Traces,
        UnderHits: room::UnderHits,
        WaveLook: modulation::WaveLook,
    }
    values {
        Analysing: measures::Analysing = "Analysing",
        Attack: measures::Attack = "Attack",
        Audible: Vec<mix::Audible> = "Array<Audible>",
        BandLevels: [Vec<measures::BandLevel>; 2] = "[Array<BandLevel>, Array<BandLevel>]",
        BendPoint: bend::BendPoint = "BendPoint",
        BendPoints: Vec<bend::BendPoint> = "Array<BendPoint>",
        Bench: bench::BenchDocument = "BenchDocument",
        Catalogue: offered::Catalogue = "Catalogue",
        Closeness: measures::Closeness = "Closeness",
        CurvePoints: Vec<measures::CurvePoint> = "Array<CurvePoint>",
        Desk: PlayedDesk = "PlayedDesk",
        DesignView: report::DesignView = "DesignView",
        Differences: Vec<path::Difference> = "Array<Difference>",
        Distortion: measures::Distortion = "Distortion",
        EarRegion: ear_maps::EarRegion = "EarRegion",
        EarRegions: Vec<ear_maps::EarRegion> = "Array<EarRegion>",
        Equal: fan::Equal = "Equal",
        FanRow: fan::FanRow = "FanRow",
        Gains: Vec<measures::GainView> = "Array<GainView>",
        Histogram: measures::Histogram = "Histogram",
        Histograms: [measures::Histogram; 2] = "[Histogram, Histogram]",
        LevelMatches: measures::LevelMatches = "LevelMatches",
        MaybeCompared: Option<report::SendsCompared> = "SendsCompared | null",
        MaybeCurves: Option<effects::Curves> = "Curves | null",
        MaybeFalling: Option<room::Falling> = "Falling | null",
        MaybeMoment: Option<modulation::NotchMoment> = "NotchMoment | null",
        MaybePitch: Option<modulation::PitchView> = "PitchView | null",
        MaybeRegion: Option<region::Region> = "Region | null",
        MaybeRoom: Option<room::RoomView> = "RoomView | null",
        MaybeSidebands: Option<modulation::Sidebands> = "Sidebands | null",
        MaybeStage: Option<path::StageDocument> = "StageDocument | null",
        MaybeStep: Option<measures::StepResponse> = "StepResponse | null",
        MaybeSwing: Option<modulation::SwingView> = "SwingView | null",
        MaybeTraces: Option<modulation::Traces> = "Traces | null",
        MaybeUnderHits: Option<room::UnderHits> = "UnderHits | null",
        ModulationSpectrum: modulation::ModulationSpectrum = "ModulationSpectrum",
        Numbers: Vec<catalogue::Number> = "Array<number | \"inf\">",
        Parts: measures::Parts = "Parts",
        Path: path::PathDocument = "PathDocument",
        Picture: catalogue::Picture = "Picture",
        Play: path::Play = "Play",
        ReferenceLevels: report::ReferenceLevels = "ReferenceLevels",
        Region: region::Region = "Region",
        Report: report::Report = "Report",
        Resonances: measures::Resonances = "Resonances",
        Responses: Vec<measures::ResponseView> = "Array<ResponseView>",
        RoomBendPoint: report::RoomBendPoint = "RoomBendPoint",
        RoomMeasured: report::RoomMeasured = "RoomMeasured",
        RoomPlan: report::RoomPlan = "RoomPlan",
        Source: signals::SourceDocument = "SourceDocument",
        Sources: Vec<signals::SourceDocument> = "Array<SourceDocument>",
        Stage: path::StageDocument = "StageDocument",
        Stem: PlayedStem = "PlayedStem",
        Strip: mix::Strip = "Strip",
        Strips: Vec<(mix::Strip, bool)> = "Array<[Strip, boolean]>",
        Sum: report::SumLevels = "SumLevels",
        WaveLooks: Vec<modulation::WaveLook> = "Array<WaveLook>",
    }
}
