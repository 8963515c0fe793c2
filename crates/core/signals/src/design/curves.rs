//! The curves of a designed response: values over time, between points that somebody has drawn.

use std::collections::BTreeMap;

use crate::LONGEST_RESPONSE_S as LONGEST_S;
use clear_bend_catalogue::{Number, Param, Scale, Unit};
use clear_bend_sound::refusal::{Refusal, nearest};

/// The octaves that have a decay of their own, Hz.
pub const OCTAVES_HZ: [f64; 8] = [63.0, 125.0, 250.0, 500.0, 1000.0, 2000.0, 4000.0, 8000.0];
/// So many points a curve may have; it has one at least.
pub const MOST_POINTS: usize = 200;
/// Over this frequency nothing is cut off, Hz.
pub const ALL_HZ: f64 = 20_000.0;
/// So many bits leave every sample as it is.
pub const ALL_BITS: f64 = 24.0;
/// The curves of the octaves begin here among all.
const DECAYS_FROM: usize = 6;

/// A decay curve of an octave.
macro_rules! decay {
    ($id:literal, $said:literal, $usual:literal) => {
        Param {
            id: $id,
            label: concat!("Decay at ", $said),
            unit: Unit::FineS,
            min: 0.05,
            max: 30.0,
            default: $usual,
            scale: Scale::Log,
            what: concat!(
                "How fast the octave at ",
                $said,
                " falls at a time, as the time in which it would fall by 60 dB."
            ),
            ..Param::BLANK
        }
    };
}

/// All curves, in the order in which they are offered. The default of each is what it is where nothing is drawn.
pub const CURVES: &[Param] = &[
    Param {
        id: "density_per_s",
        label: "Echo density",
        unit: Unit::PerS,
        min: 1.0,
        max: 10_000.0,
        default: 2000.0,
        scale: Scale::Log,
        what: "The growth curve: how many reflections there are in a second. From some thousand on they are heard as noise.",
        ..Param::BLANK
    },
    Param {
        id: "level_db",
        label: "Level",
        unit: Unit::Db,
        min: -80.0,
        max: 20.0,
        default: 0.0,
        what: "How loud the reflections are, beside the decay. Where there are few of them, each is louder, so that the sum is.",
        ..Param::BLANK
    },
    Param {
        id: "smear_ms",
        label: "Smear",
        unit: Unit::FineMs,
        max: 100.0,
        default: 0.0,
        scale: Scale::SoftLog { knee: 1.0 },
        what: "How long every single reflection is: from a click to a soft swell, which is loudest in its middle.",
        ..Param::BLANK
    },
    Param {
        id: "width",
        label: "Width",
        unit: Unit::Percent,
        default: 1.0,
        what: "The share of reflections that are others on the left than on the right. At 0 % it is mono.",
        ..Param::BLANK
    },
    Param {
        id: "bandwidth_hz",
        label: "Bandwidth",
        unit: Unit::Hz,
        min: 200.0,
        max: ALL_HZ,
        default: ALL_HZ,
        scale: Scale::Log,
        what: "Up to which frequency there is anything, by a cut of 24 dB per octave; at 20 kHz nothing is cut.",
        ..Param::BLANK
    },
    Param {
        id: "word_bits",
        label: "Word length",
        unit: Unit::Bits,
        min: 4.0,
        max: ALL_BITS,
        default: ALL_BITS,
        what: "How finely samples are rounded, in bits of full scale, without dither: with few the tail gets coarse, and then ends.",
        ..Param::BLANK
    },
    decay!("decay_63_s", "63 Hz", 1.6),
    decay!("decay_125_s", "125 Hz", 1.6),
    decay!("decay_250_s", "250 Hz", 1.5),
    decay!("decay_500_s", "500 Hz", 1.4),
    decay!("decay_1000_s", "1 kHz", 1.3),
    decay!("decay_2000_s", "2 kHz", 1.1),
    decay!("decay_4000_s", "4 kHz", 0.9),
    decay!("decay_8000_s", "8 kHz", 0.6),
];

/// A value over time: points in the order of their times, straight lines between them on the scale of the value, level before
/// the first and after the last. Two points at one time are a step.
#[derive(Debug, Clone, PartialEq)]
pub struct Curve {
    /// Time, s, and value.
    points: Vec<[f64; 2]>,
}

impl Curve {
    fn level(value: f64) -> Self {
        Self { points: vec![[0.0, value]] }
    }

    /// Its points.
    #[must_use]
    pub fn points(&self) -> &[[f64; 2]] {
        &self.points
    }

    /// Its value at a time; `param` says on which scale.
    #[must_use]
    pub fn at(&self, param: &Param, seconds: f64) -> f64 {
        let next = self.points.partition_point(|[at, _]| *at <= seconds);
        match (next.checked_sub(1).and_then(|last| self.points.get(last)), self.points.get(next)) {
            (Some([from_s, from]), Some([to_s, to])) => {
                let way = (seconds - from_s) / (to_s - from_s);
                let place = |value: f64| param.scale.position(param.min, param.max, value);
                let (a, b) = (place(*from), place(*to));
                if from == to { *from } else { param.scale.value(param.min, param.max, a + way * (b - a)) }
            }
            (Some([_, value]), None) | (None, Some([_, value])) => *value,
            (None, None) => param.default,
        }
    }
}

/// All curves of a design, in the order of [`CURVES`].
#[derive(Debug, Clone, PartialEq)]
pub struct Curves(Vec<Curve>);

impl Curves {
    /// Checks curves from a file; what is missing is level at its default.
    ///
    /// # Errors
    /// Refuses curves that are not known, none or too many points, times that go back or lie outside of the longest response, and
    /// values out of range.
    pub fn checked(written: &BTreeMap<String, Vec<[f64; 2]>>) -> Result<Self, Refusal> {
        if let Some(unknown) = written.keys().find(|id| CURVES.iter().all(|curve| curve.id != *id)) {
            let known = CURVES.iter().map(|curve| curve.id);
            return Err(Refusal::new(
                "curves",
                format!("the unknown curve \u{201c}{unknown}\u{201d}"),
                nearest(unknown, known),
            ));
        }
        let curve = |param: &Param| match written.get(param.id) {
            Some(points) => check(param, points).map(|()| Curve { points: points.clone() }),
            None => Ok(Curve::level(param.default)),
        };
        CURVES.iter().map(curve).collect::<Result<_, _>>().map(Self)
    }

    /// Those that are not level at their defaults, as they stand in a file.
    #[must_use]
    pub fn written(&self) -> BTreeMap<String, Vec<[f64; 2]>> {
        let drawn =
            CURVES.iter().zip(&self.0).filter(|(param, curve)| **curve != Curve::level(param.default));
        drawn.map(|(param, curve)| (param.id.to_owned(), curve.points.clone())).collect()
    }

    /// A curve by the place of its parameter in [`CURVES`], with that.
    fn get(&self, place: usize) -> (&'static Param, &Curve) {
        (&CURVES[place], &self.0[place])
    }

    /// The value of a curve by its place in [`CURVES`] at a time.
    fn at(&self, place: usize, seconds: f64) -> f64 {
        let (param, curve) = self.get(place);
        curve.at(param, seconds)
    }

    /// Those on which it depends what is thrown: density, smear and width.
    #[must_use]
    pub fn throwing(&self) -> [Curve; 3] {
        [0, 2, 3].map(|place| self.0[place].clone())
    }

    /// Reflections per second at a time.
    #[must_use]
    pub fn density_per_s(&self, seconds: f64) -> f64 {
        self.at(0, seconds)
    }

    /// Level at a time, dB.
    #[must_use]
    pub fn level_db(&self, seconds: f64) -> f64 {
        self.at(1, seconds)
    }

    /// How long a reflection is at a time, ms.
    #[must_use]
    pub fn smear_ms(&self, seconds: f64) -> f64 {
        self.at(2, seconds)
    }

    /// The share of reflections that differ between the sides at a time.
    #[must_use]
    pub fn width(&self, seconds: f64) -> f64 {
        self.at(3, seconds)
    }

    /// The highest frequency at a time, Hz.
    #[must_use]
    pub fn bandwidth_hz(&self, seconds: f64) -> f64 {
        self.at(4, seconds)
    }

    /// Whether anything is cut off at any time.
    #[must_use]
    pub fn cuts(&self) -> bool {
        self.0[4].points.iter().any(|[_, hz]| *hz < ALL_HZ)
    }

    /// Bits of a word at a time.
    #[must_use]
    pub fn word_bits(&self, seconds: f64) -> f64 {
        self.at(5, seconds)
    }

    /// Time to fall by 60 dB of an octave at a time, s.
    #[must_use]
    pub fn decay_s(&self, octave: usize, seconds: f64) -> f64 {
        self.at(DECAYS_FROM + octave, seconds)
    }
}

/// Accepts the points of a curve.
fn check(param: &Param, points: &[[f64; 2]]) -> Result<(), Refusal> {
    let within = |e: Refusal| e.within("curves");
    if points.is_empty() || points.len() > MOST_POINTS {
        let found = format!("{} points", points.len());
        return Err(within(Refusal::new(param.id, found, format!("1 to {MOST_POINTS} points"))));
    }
    let mut last = 0.0;
    for (i, [at_s, value]) in points.iter().enumerate() {
        let field = format!("{}[{i}]", param.id);
        if !(0.0..=LONGEST_S).contains(at_s) {
            let accepted = format!("a time from 0 to {LONGEST_S} s");
            return Err(within(Refusal::new(field, Number(*at_s), accepted)));
        }
        if *at_s < last {
            let accepted = format!("a time of at least {last} s, which the point before has");
            return Err(within(Refusal::new(field, Number(*at_s), accepted)));
        }
        last = *at_s;
        param.check(*value).map_err(|e| within(Refusal { field, ..e }))?;
    }
    Ok(())
}
