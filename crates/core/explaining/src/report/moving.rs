//! What is said of effects that move: their notches, the pitch and the level that sway, and how the movement fits into the loop.

use serde::Serialize;

use clear_bend_catalogue::Unit;
use clear_bend_measures::modulation::{Movement, SwingView};
use clear_bend_playing::path::{Play, Stage};

/// Spaces between notches that differ by less than this share are even.
const EVEN: f64 = 0.02;
/// What sways by less is not spoken of: cents, and a share of the level.
const LEAST_CENTS: f64 = 1.0;
const LEAST_RIPPLE: f64 = 0.05;
/// Of the swing only how it fits into the passage is wanted, so that it is asked for at two places.
const COLUMNS: usize = 2;

/// What is read off the movement of a stage.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct Moving {
    /// Notches under 20 kHz in the middle of the cycle, or where it is held, Hz; none where the effect has none.
    pub notches_hz: Vec<f64>,
    /// The lowest and the highest place of the lowest notch in a cycle, Hz; none where it does not travel.
    pub travels_hz: Option<(f64, f64)>,
    /// How far the pitch of the moving sound sways to either side, cents; none where it stands still or runs backwards by turns.
    pub cents: Option<f64>,
    /// How many voices there are; none where nothing is late.
    pub voices: Option<usize>,
    /// The shortest and the longest delay of the first of them in the passage, ms.
    pub late_ms: Option<(f64, f64)>,
    /// Whether chance has a part in it, so that no two cycles are alike.
    pub chance: bool,
    /// How far the level of a held tone sways: (most - least) / (most + least).
    pub ripple: f64,
    /// Cycles per second.
    pub rate_hz: f64,
    /// The place at which it is held, as a share of the cycle.
    pub held: Option<f64>,
    /// How many cycles go into the passage.
    pub cycles: f64,
    /// Whether the passage goes round.
    pub round: bool,
    /// The nearest rate at which whole cycles go into it, Hz; none where they do, and where it is played once.
    pub fitting_hz: Option<f64>,
}

impl Moving {
    /// Reads a stage, whose movement has been measured, on a passage of so many seconds, in which its first delay has moved as it has
    /// (ms, frame by frame); none where it does not move.
    #[must_use]
    pub fn of(
        stage: &Stage,
        movement: &Movement,
        delays_ms: Option<&[f32]>,
        seconds: f64,
        play: Play,
    ) -> Option<Self> {
        let swing = stage.effect.swing(&stage.values)?;
        let SwingView { cycles, fitting_hz, .. } = SwingView::of(stage, seconds, COLUMNS)?;
        let lowest = if swing.held.is_none() { movement.lowest_hz.as_slice() } else { &[] };
        // A way of which a part is not known is none.
        let lowest: Vec<f64> = lowest.iter().copied().collect::<Option<_>>().unwrap_or_default();
        let (low, high) = ends(lowest.into_iter());
        Some(Self {
            notches_hz: movement.notches.as_ref().map(|found| found.freqs_hz.clone()).unwrap_or_default(),
            travels_hz: (high > 1.02 * low).then_some((low, high)),
            cents: movement.sway.cents,
            voices: stage.effect.delays(&stage.values).map(|(sway, _)| sway.voices),
            late_ms: delays_ms.map(|delays_ms| ends(delays_ms.iter().map(|ms| f64::from(*ms)))),
            chance: swing.wave.random > 0.0,
            ripple: movement.sway.ripple,
            rate_hz: swing.rate_hz,
            held: swing.held,
            cycles,
            round: play == Play::Round,
            fitting_hz: fitting_hz.filter(|_| play == Play::Round),
        })
    }
}

/// The least and the most of some numbers.
fn ends(values: impl Iterator<Item = f64>) -> (f64, f64) {
    values.fold((f64::MAX, 0.0f64), |(least, most), x| (least.min(x), most.max(x)))
}

/// More notches than these are heard as voices, and told by them.
const MOST_NOTCHES: usize = 60;

/// "3 voices, the first of them 10.5 to 13.5 ms late."
fn on_voices(moving: &Moving) -> Option<String> {
    let (voices, (least, most)) = moving.voices.zip(moving.late_ms)?;
    let (least, most) = (Unit::FineMs.text(least), Unit::FineMs.text(most));
    let late = if least == most { format!("*{least}*") } else { format!("*{least}* to *{most}*") };
    Some(match voices {
        1 => format!("One voice, {late} late."),
        voices => format!("*{voices}* voices, the first of them {late} late."),
    })
}

/// "20 notches under 20 kHz, 1.00 kHz apart, the lowest at 500 Hz; it travels from 250 Hz to 1.00 kHz and back in 4.0 s."
pub fn on_moving(moving: &Moving) -> Vec<String> {
    let mut said = Vec::new();
    let cycle = Unit::FineS.text(1.0 / moving.rate_hz);
    let hz = |hz: f64| Unit::Hz.text(hz);
    let as_voices = moving.voices.is_some_and(|voices| voices > 1) || moving.notches_hz.len() > MOST_NOTCHES;
    said.extend(on_voices(moving).filter(|_| as_voices));
    if let Some(lowest) = moving.notches_hz.first().filter(|_| !as_voices) {
        let spaces = moving.notches_hz.windows(2).map(|pair| pair[1] - pair[0]);
        let (least, most) = ends(spaces);
        let apart = if moving.notches_hz.len() > 2 && most < (1.0 + EVEN) * least {
            format!(", *{}* apart", hz(0.5 * (least + most)))
        } else {
            String::new()
        };
        let count = match moving.notches_hz.len() {
            1 => format!("One notch, at *{}*", hz(*lowest)),
            n => format!("*{n}* notches under 20 kHz{apart}, the lowest at *{}*", hz(*lowest)),
        };
        let travels = moving.travels_hz.map(|(low, high)| {
            format!("; it travels from *{}* to *{}* and back in *{cycle}*", hz(low), hz(high))
        });
        said.push(format!("{count}{}.", travels.unwrap_or_default()));
    }
    let times = format!("*{}* times a second", clear_bend_catalogue::decimal(moving.rate_hz, 2));
    if let Some(cents) = moving.cents.filter(|cents| moving.held.is_none() && *cents >= LEAST_CENTS) {
        let cents = Unit::Cents.text(cents);
        said.push(format!("The pitch of the moving sound sways by *{cents}* to either side, {times}."));
    }
    if moving.held.is_none() && moving.notches_hz.is_empty() && moving.ripple >= LEAST_RIPPLE {
        let least = if moving.ripple < 0.999 {
            Unit::Db.text(-20.0 * ((1.0 - moving.ripple) / (1.0 + moving.ripple)).log10())
        } else {
            "all of it".to_owned()
        };
        said.push(format!("The level of a held tone sways by *{least}*, {times}."));
    }
    if let Some(held) = moving.held {
        said.push(format!("It is held still at *{}* of its cycle.", Unit::Degrees.text(360.0 * held)));
    } else if moving.cycles < 0.95 {
        let share = Unit::Percent.text(moving.cycles);
        said.push(format!("Only *{share}* of a cycle is heard in this passage."));
    } else if moving.chance && moving.round {
        said.push("Chance has a part in it, so that it does not come back to where it began: at the seam of the loop it begins anew.".to_owned());
    } else if let Some(fitting_hz) = moving.fitting_hz {
        let cycles = clear_bend_catalogue::decimal(moving.cycles, 2);
        said.push(format!(
            "The loop holds *{cycles}* cycles, so that the movement begins anew at its seam; at *{}* whole ones would fit.",
            hz(fitting_hz)
        ));
    }
    said
}
