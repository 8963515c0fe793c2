//! Numbers read off a passage. Each has one definition, given in its docstring and in docs/measures.md.

mod analyser;
mod attack;
mod bands;
mod compare;
mod distortion;
pub mod export;
mod histogram;
mod hum;
mod levels;
mod masking;
pub mod modulation;
mod movement;
mod onsets;
mod overview;
mod partial;
pub mod passage;
mod predicted_match;
mod reduction;
mod resonances;
mod response;
pub mod responses;
pub mod room;
mod run;
mod sibilants;
mod spectrogram;
mod spectrum;
mod static_curve;
mod step;
pub mod sweeps;

pub use analyser::{Analyser, Analysing};
pub use attack::{Attack, measure_attack};
pub use bands::{BandLevel, band_levels, octave_levels};
pub use compare::{LevelMatch, LevelMatches, MatchBy, MatchedBy, difference};
pub use distortion::{Distortion, LowTone, MOST_HARMONIC, harmonics_of, measure_distortion};
pub use histogram::Histogram;
pub use hum::Hum;
pub use levels::{
    Levels, PeakAndLoudness, PlainLevels, crest_db, loudest_moments, loudness_or_rms, peak_dbfs,
};
pub use masking::{HIDDEN_DB, MaskedOctave, Masking, Parts, masking};
pub use movement::{Duck, Pumping, ducks};
pub use onsets::{OnsetLevels, find_onsets, onset_levels};
pub use overview::{Overview, deepest, wave_columns};
pub use predicted_match::predicted_match_db;
pub use reduction::Reduction;
pub use resonances::{Resonance, Resonances, find_resonances};
pub use response::{
    GainView, Response, ResponseView, Ringing, Tail, log_freqs, measure_path_response, measure_response,
    scopes_of,
};
pub use run::run_stage;
pub use sibilants::{Sibilant, Sibilants};
pub use spectrogram::{Closeness, spectrogram};
pub use spectrum::{MeanPower, Resolution, Spectrum, Transform, Window, channel_samples, columns_dbfs};
pub use static_curve::{CurvePoint, LEVELS_DBFS, measure_static_curve};
pub use step::{StepResponse, StepSide, measure_step};
