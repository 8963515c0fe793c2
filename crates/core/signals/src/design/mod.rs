//! A designed response: curves over time, from which reflections are thrown at random and shaped, octave by octave.
//!
//! `curves.rs` says what is drawn, `falls.rs` how it falls, `pulses.rs` throws the reflections, `octaves.rs` lets every octave fall in
//! its own time, `heard.rs` so that it is measured as it was drawn, and `answer.rs` puts it together. Sparse pulses that thicken to
//! noise: Karjalainen and Järveläinen, "Reverberation Modeling Using Velvet Noise", AES 30th Conference, 2007; Välimäki and others, "A
//! Perceptual Study on Velvet Noise and Its Variants at Different Pulse Densities", IEEE Trans. Audio, Speech, Lang. Process. 21(7),
//! 2013.

mod answer;
mod curves;
mod drawn;
mod falls;
mod heard;
mod octaves;
mod part;
mod pulses;

pub use answer::{Made, Maker, answer};
pub use curves::{CURVES, Curve, Curves, MOST_POINTS, OCTAVES_HZ};
pub use drawn::{Design, DesignDocument, MOST_PLACED, PLACED, Placed, Settings};

use super::kind::{Family, Material, SignalKind};

/// A designed response.
pub const DESIGNED: SignalKind = SignalKind {
    id: "response-by-design",
    label: "By design",
    family: Family::Response,
    material: Material::Clicks,
    purpose: "A response that you draw: echoes per second, level, decay by octave, smear, width, bandwidth and word length over time.",
    params: Settings::PARAMS,
    highest: |_| None,
    fits: |_| Ok(()),
    make: |values, rate_hz, channels| {
        Design::checked(values.to_vec(), None).map_or(Vec::new(), |design| answer(&design, rate_hz, channels))
    },
};
