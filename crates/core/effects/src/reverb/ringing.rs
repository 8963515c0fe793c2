//! How long what is set rings: the gains of all-passes, and the tail.

use super::allpass::ChainSettings;
use super::decays::Decays;
use super::limits::Place;
use super::settings::{Settings, all_passes};
use clear_bend_catalogue::METRES_PER_S;
use clear_bend_sound::cast;

/// The gain of all-passes at full diffusion.
const FULL_DIFFUSION: f64 = 0.7;

impl Settings {
    /// The gain of the all-passes of the late part: what is set, but none that would ring on for longer than half of the decay
    /// (one of `d` seconds with a gain of `g` takes -3 d / log10 g to fall by 60 dB, Schroeder 1962).
    #[must_use]
    pub fn all_pass_gain(&self) -> f64 {
        let longest_s = self.diffusion_ms / 1000.0 / self.all_passes * self.character().all_passes.1;
        let half_s = 0.5 * Decays::of(self).at(4000.0);
        (FULL_DIFFUSION * self.diffusion).min(10f64.powf(-3.0 * longest_s / half_s))
    }

    /// The all-passes of one channel at a place.
    #[must_use]
    pub fn chain(&self, place: Place, channel: usize, rate_hz: f64) -> ChainSettings {
        let at_work = self.diffuses(place);
        let count = if at_work { cast::count(self.all_passes) } else { 0 };
        // Both sides have the same time, in other parts.
        let stream = u64::from(channel == 1) + if place == Place::Behind { 4 } else { 0 };
        ChainSettings { lengths: self.all_passes(rate_hz, stream), count, gain: self.all_pass_gain() }
    }

    /// The all-passes of the early part on one channel.
    #[must_use]
    pub fn early_chain(&self, channel: usize, rate_hz: f64) -> ChainSettings {
        let stream = 20 + u64::from(channel == 1);
        let lengths = all_passes(self.early_seed, stream, 4, (0.4, 1.9), self.early_diffusion_ms, rate_hz);
        ChainSettings { lengths, count: 4, gain: FULL_DIFFUSION * self.early_diffusion }
    }

    /// For how long a sound is heard after it has ended, s; none where it never ends.
    #[must_use]
    pub fn tail_s(&self) -> Option<f64> {
        if self.is_frozen() {
            return None;
        }
        let late = Decays::of(self).longest_s() + 2.0 * self.size_m / METRES_PER_S;
        let early = self.early_ms * self.early_size / 1000.0;
        let diffused = (4.0 * self.diffusion_ms + 4.0 * self.early_diffusion_ms) / 1000.0;
        Some(self.wait_ms() / 1000.0 + late.max(early) + diffused)
    }
}
