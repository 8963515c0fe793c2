//! What an effect can show or predict. Reports, sentences and pictures ask for abilities, and never for an effect by name.

use super::{Curves, Effect, LevelStep};

/// Something that an effect can show or predict, from its values.
#[derive(Debug, Clone, Copy)]
pub enum Ability {
    /// The level (dBFS) that its detector asks for, before mix and output gain, for a steady level (dBFS) that enters; none
    /// where something else is heard.
    StaticCurve(fn(&[f64], f64) -> Option<f64>),
    /// The gain over frequency at a sample rate (Hz), at frequencies (Hz): a filter.
    Response(fn(&[f64], u32, &[f64]) -> Curves),
    /// The frequencies (Hz), rising, at which the bands meet or end that it splits the sound into.
    Bands(fn(&[f64]) -> Vec<f64>),
    /// The step with which its times are shown, where it is not the usual one.
    Step(fn(&[f64]) -> LevelStep),
    /// It works on sibilants, which are counted before and after it.
    Sibilants,
}

impl Effect {
    /// The first ability that is asked for.
    fn able<T>(&self, wanted: impl Fn(&Ability) -> Option<T>) -> Option<T> {
        self.abilities.iter().find_map(wanted)
    }

    /// The level that its detector asks for at a steady level; see [`Ability::StaticCurve`].
    #[must_use]
    pub fn asked_dbfs(&self, values: &[f64], input_dbfs: f64) -> Option<f64> {
        let curve = |ability: &Ability| match ability {
            Ability::StaticCurve(curve) => Some(*curve),
            _ => None,
        };
        self.able(curve).and_then(|curve| curve(values, input_dbfs))
    }

    /// Whether it is a filter, whose gain over frequency is known.
    #[must_use]
    pub fn filters(&self) -> bool {
        self.able(|ability| matches!(ability, Ability::Response(_)).then_some(())).is_some()
    }

    /// The gain over frequency; see [`Ability::Response`].
    #[must_use]
    pub fn curves(&self, values: &[f64], rate_hz: u32, freqs_hz: &[f64]) -> Option<Curves> {
        self.able(|ability| match ability {
            Ability::Response(predict) => Some(predict(values, rate_hz, freqs_hz)),
            _ => None,
        })
    }

    /// Where its bands meet or end, Hz; nothing for effects that do not split the sound.
    #[must_use]
    pub fn edges_hz(&self, values: &[f64]) -> Vec<f64> {
        let edges = self.able(|ability| match ability {
            Ability::Bands(edges_hz) => Some(edges_hz(values)),
            _ => None,
        });
        edges.unwrap_or_default()
    }

    /// The step with which its times are shown.
    #[must_use]
    pub fn step(&self, values: &[f64]) -> LevelStep {
        let own = self.able(|ability| match ability {
            Ability::Step(step) => Some(step(values)),
            _ => None,
        });
        own.unwrap_or(LevelStep::USUAL)
    }

    /// Whether it works on sibilants.
    #[must_use]
    pub fn works_on_sibilants(&self) -> bool {
        self.able(|ability| matches!(ability, Ability::Sibilants).then_some(())).is_some()
    }
}
