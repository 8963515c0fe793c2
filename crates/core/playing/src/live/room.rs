//! Room for one block of everything, and the fades between what is heard.

/// Length of the fades between before, after and difference, and of those around jumps, s.
pub(super) const FADE_S: f64 = 0.01;

/// Room for one block of everything.
pub(super) struct Room {
    pub(super) before: [Vec<f32>; 2],
    pub(super) after: [Vec<f32>; 2],
    pub(super) lane: [Vec<f32>; 2],
    pub(super) backing: [Vec<f32>; 2],
    pub(super) reference: [Vec<f32>; 2],
    pub(super) gate: Vec<f32>,
    pub(super) shares: [Vec<f32>; 2],
}
