//! What reports, sentences and pictures ask of an effect, and its abilities answer.

use super::ability::{Ability, Part, PartKind};
use super::effect::Effect;
use super::modulation::{Moment, Sway, Swing};
use super::predicted::{Curves, DrawnAt, LevelStep};
use rustfft::num_complex::Complex64;

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

    /// The same as it is drawn: no band falls between two of the frequencies.
    #[must_use]
    pub fn drawn_curves(&self, values: &[f64], rate_hz: u32, freqs_hz: &[f64]) -> Option<Curves> {
        let at = DrawnAt::new(freqs_hz, &self.curves(values, rate_hz, &[])?.places_hz);
        let mut curves = self.curves(values, rate_hz, at.all_hz())?;
        curves.bands.iter_mut().for_each(|band| band.gains_db = at.drawn(&band.gains_db));
        for sum in &mut curves.sums {
            sum.gains_db = at.drawn(&sum.gains_db);
            sum.phases_deg = at.at_points(&sum.phases_deg);
        }
        Some(curves)
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

    /// Whether it is a room: its sound rings on and falls.
    #[must_use]
    pub fn rings(&self) -> bool {
        self.able(|ability| matches!(ability, Ability::Decay(_) | Ability::Rings).then_some(())).is_some()
    }

    /// The time (s) to fall by 60 dB that is set at a frequency (Hz); see [`Ability::Decay`].
    #[must_use]
    pub fn decay_s(&self, values: &[f64], freq_hz: f64) -> Option<f64> {
        self.able(|ability| match ability {
            Ability::Decay(decay_s) => Some(decay_s(values, freq_hz)),
            _ => None,
        })
    }

    /// How often a second the delays of a room move, Hz; none where they stand still.
    #[must_use]
    pub fn moves_hz(&self, values: &[f64]) -> Option<f64> {
        let moves = self.able(|ability| match ability {
            Ability::DelaysMove(moves_hz) => Some(moves_hz(values)),
            _ => None,
        });
        moves.filter(|moves_hz| *moves_hz > 0.0)
    }

    /// The parts of its sound that can be heard alone.
    #[must_use]
    pub fn parts(&self) -> &'static [Part] {
        self.able(|ability| match ability {
            Ability::Parts(parts) => Some(*parts),
            _ => None,
        })
        .unwrap_or(&[])
    }

    /// The values with which a part is heard alone; none where there is no such part, or it is silent.
    #[must_use]
    pub fn part_alone(&self, values: &[f64], kind: PartKind) -> Option<Vec<f64>> {
        self.parts().iter().find(|part| part.kind == kind).and_then(|part| (part.alone)(values))
    }

    /// How its oscillator swings; none where it has none.
    #[must_use]
    pub fn swing(&self, values: &[f64]) -> Option<Swing> {
        self.able(|ability| match ability {
            Ability::Swings(swing) => Some(swing(values)),
            _ => None,
        })
    }

    /// The values with which its movement is held still so many cycles on; none where it does not move.
    #[must_use]
    pub fn held(&self, values: &[f64], cycles: f64) -> Option<Vec<f64>> {
        self.swing(values)?;
        self.with(values, &[("hold", 1.0), ("hold_deg", 360.0 * cycles.rem_euclid(1.0))])
    }

    /// Values with some of them set by the ids of their parameters; none where it has no such parameter.
    fn with(&self, values: &[f64], set: &[(&str, f64)]) -> Option<Vec<f64>> {
        let mut values = values.to_vec();
        for (id, value) in set {
            let place = self.params.iter().position(|param| param.id == *id)?;
            values[place] = *value;
        }
        Some(values)
    }

    /// What it makes of steady tones at one moment of its cycle, before the mix; see [`Ability::AtMoment`].
    #[must_use]
    pub fn at_moment(&self, values: &[f64], moment: &Moment, freqs_hz: &[f64]) -> Option<Vec<Complex64>> {
        self.able(|ability| match ability {
            Ability::AtMoment(at) => Some(at(values, moment, freqs_hz)),
            _ => None,
        })
    }

    /// How its delays sway, and the values with which the first of them is alone; none where it has none.
    #[must_use]
    pub fn delays(&self, values: &[f64]) -> Option<(Sway, Vec<f64>)> {
        let delays = self.able(|ability| match ability {
            Ability::Delays(delays) => Some(*delays),
            _ => None,
        })?;
        Some(((delays.sway)(values), self.with(values, delays.first_alone)?))
    }

    /// Whether it works on sibilants.
    #[must_use]
    pub fn works_on_sibilants(&self) -> bool {
        self.able(|ability| matches!(ability, Ability::Sibilants).then_some(())).is_some()
    }
}
