//! How outcomes are read off a passage before and after a path, by their ids.

use std::borrow::Cow;
use std::cell::OnceCell;

use clear_bend_catalogue::{Outcome, outcomes};
use clear_bend_effects::PartKind;
use clear_bend_measures::modulation::{self, Movement, Notches, Sway, SwingShape};
use clear_bend_measures::passage::Passage;
use clear_bend_measures::room::{self, RoomResponse};
use clear_bend_measures::{
    Levels, LowTone, MeanPower, OnsetLevels, Reduction, Response, Tail, crest_db, log_freqs, loudness_or_rms,
    measure_distortion, measure_response, onset_levels, peak_dbfs, scopes_of,
};
use clear_bend_playing::path::{Path, Stage};
use clear_bend_playing::render::Rendered;
use clear_bend_sound::Buffer;
use clear_bend_sound::cast;
use clear_bend_sound::dsp::energy;
use clear_bend_sound::level::db_from_power;

/// What an outcome is read off.
#[derive(Debug)]
pub struct Readable<'a> {
    /// The path.
    pub path: &'a Path,
    /// The passage before the path.
    pub passage: &'a Passage,
    /// The stage whose parameter it is.
    pub stage: usize,
    /// What has been read off the result already.
    pub known: Option<Known<'a>>,
    /// What has been measured of the stage alone already.
    pub alone: KnownAlone<'a>,
    rendered: OnceCell<Cow<'a, Rendered>>,
    responses: OnceCell<Vec<Response>>,
    room: OnceCell<Option<RoomResponse>>,
    early: OnceCell<Option<RoomResponse>>,
    sway: OnceCell<Option<Sway>>,
    notches: OnceCell<Option<Notches>>,
}

impl<'a> Readable<'a> {
    /// A passage that is sent through the path only if the outcome is read off it.
    #[must_use]
    pub fn new(path: &'a Path, passage: &'a Passage, stage: usize) -> Self {
        Self {
            path,
            passage,
            stage,
            known: None,
            alone: KnownAlone::default(),
            rendered: OnceCell::new(),
            responses: OnceCell::new(),
            room: OnceCell::new(),
            early: OnceCell::new(),
            sway: OnceCell::new(),
            notches: OnceCell::new(),
        }
    }

    /// A passage that has been sent through the path.
    #[must_use]
    pub fn of(rendered: &'a Rendered, path: &'a Path, passage: &'a Passage, stage: usize) -> Self {
        Self { rendered: OnceCell::from(Cow::Borrowed(rendered)), ..Self::new(path, passage, stage) }
    }

    /// The passage after the path.
    pub fn rendered(&self) -> &Rendered {
        self.rendered.get_or_init(|| Cow::Owned(self.passage.through(self.path)))
    }

    /// What the stage does to an impulse, on every scope that has a response of its own; none where the stage is not
    /// there.
    pub fn responses(&self) -> Option<&[Response]> {
        let stage = self.path.stages.get(self.stage)?;
        let rate_hz = self.passage.buffer.rate_hz();
        let measure = |scope| measure_response(stage, rate_hz, scope, Tail::Short);
        let all = || scopes_of(stage, rate_hz).into_iter().map(measure).collect();
        Some(self.responses.get_or_init(all))
    }
}

impl Readable<'_> {
    /// The response of the stage to an impulse, where it is a room.
    pub fn room(&self) -> Option<&RoomResponse> {
        if let Some(known) = self.alone.room {
            return Some(known);
        }
        let record =
            || self.ringing().map(|stage| RoomResponse::of_stage(stage, self.rate_hz(), room::LONGEST_S));
        self.room.get_or_init(record).as_ref()
    }

    /// The response of its early part alone.
    fn early(&self) -> Option<&RoomResponse> {
        let record = || self.part(PartKind::Early);
        self.early.get_or_init(record).as_ref()
    }

    /// The beginning of the response of a part of it.
    fn part(&self, kind: PartKind) -> Option<RoomResponse> {
        let stage = self.ringing()?;
        let values = stage.effect.part_alone(&stage.values, kind)?;
        let alone = Stage { values, mix: 1.0, ..stage.clone() };
        Some(RoomResponse::of_stage(&alone, self.rate_hz(), PART_S))
    }

    fn ringing(&self) -> Option<&Stage> {
        self.path.stages.get(self.stage).filter(|stage| stage.effect.rings())
    }

    fn moving(&self) -> Option<&Stage> {
        self.path.stages.get(self.stage).filter(|stage| stage.effect.swing(&stage.values).is_some())
    }

    fn swing(&self) -> Option<SwingShape> {
        let stage = self.moving()?;
        Some(SwingShape::of(&stage.effect.swing(&stage.values)?))
    }

    /// How a held tone sways.
    fn sway(&self) -> Option<Sway> {
        if let Some(known) = self.alone.movement {
            return Some(known.sway);
        }
        let measure = || modulation::tone_sway(self.moving()?, self.rate_hz());
        *self.sway.get_or_init(measure)
    }

    /// The notches in the middle of the cycle, or where it is held.
    fn notches(&self) -> Option<&Notches> {
        if let Some(known) = self.alone.movement {
            return known.notches.as_ref();
        }
        let measure = || modulation::notches_now(self.moving()?, self.rate_hz());
        self.notches.get_or_init(measure).as_ref()
    }

    /// How far the lowest notch goes in a cycle, and in a second, octaves.
    fn notch_way(&self) -> Option<(f64, f64)> {
        let stage = self.moving()?;
        let measure = || modulation::lowest_through_cycle(stage, self.rate_hz());
        let lowest = self.alone.movement.map_or_else(measure, |known| known.lowest_hz.clone());
        // A way of which a part is not known is none.
        let octaves: Vec<f64> = lowest.into_iter().map(|hz| hz.map(f64::log2)).collect::<Option<_>>()?;
        let (low, high) = octaves.iter().fold((f64::MAX, f64::MIN), |(a, b), x| (a.min(*x), b.max(*x)));
        let gone: f64 = octaves.iter().zip(octaves.iter().cycle().skip(1)).map(|(a, b)| (b - a).abs()).sum();
        let shape = SwingShape::of(&stage.effect.swing(&stage.values)?);
        (octaves.len() > 1).then_some((high - low, gone * shape.rate_hz))
    }

    fn rate_hz(&self) -> u32 {
        self.passage.buffer.rate_hz()
    }
}

/// Responses of single parts are followed for this long, s.
const PART_S: f64 = 1.5;

/// Readings of a result that a report has made, so that no outcome makes them again.
#[derive(Debug, Clone, Copy)]
pub struct Known<'a> {
    /// The levels after the path.
    pub levels: &'a Levels,
    /// The gain reduction of the stage, if it reports one.
    pub reduction: Option<Reduction>,
    /// The levels of the onsets after the path.
    pub onset_levels: &'a [OnsetLevels],
    /// Its power over frequency, once something has been read off it.
    pub power: &'a OnceCell<MeanPower>,
}

/// Measurements of a stage alone that a report has made.
#[derive(Debug, Clone, Copy, Default)]
pub struct KnownAlone<'a> {
    /// The response of the stage to an impulse, where it is a room and that has been recorded.
    pub room: Option<&'a RoomResponse>,
    /// What has been measured of its movement.
    pub movement: Option<&'a Movement>,
}

/// How much of a path an outcome depends on.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Reach {
    /// On the stage alone, to which something of its own is sent.
    Alone,
    /// On what comes to the stage, and on the stage.
    UpTo,
    /// On all stages.
    Path,
}

use Reach::{Alone, Path as All, UpTo};

impl Reach {
    /// What an outcome depends on.
    #[must_use]
    pub fn of(outcome: &Outcome) -> Self {
        // Those of bands are read off the gain.
        READERS.iter().find(|(known, ..)| known.id == outcome.id).map_or(UpTo, |(_, reach, _)| *reach)
    }
}

/// Reads an outcome; none where the passage does not show it, or where nothing of this name can be read.
#[must_use]
pub fn read(outcome: &Outcome, readable: &Readable) -> Option<f64> {
    let named = READERS.iter().find(|(known, ..)| known.id == outcome.id);
    named.map_or_else(|| read_of_band(outcome, readable), |(_, _, read)| read(readable))
}

/// Reads an outcome off what stands before and after.
type Reader = fn(&Readable) -> Option<f64>;

const READERS: &[(Outcome, Reach, Reader)] = &[
    (outcomes::MEAN_REDUCTION, UpTo, |r| Some(reduction(r)?.mean_db)),
    (outcomes::LARGEST_REDUCTION, UpTo, |r| Some(reduction(r)?.largest_db)),
    (outcomes::TRANSIENT_CHANGE, All, |r| mean_onset_change_db(r, |levels| levels.transient_dbfs)),
    (outcomes::LEFT_AT_NEXT_ONSET, UpTo, |r| reduction(r)?.left_at_next_onset_db),
    (outcomes::LOUDNESS_CHANGE, All, |r| {
        let before = r.passage.levels.loudness_or_rms();
        let read = || loudness_or_rms(&r.rendered().after);
        let after = r.known.map_or_else(read, |known| known.levels.loudness_or_rms());
        Some(after - before).filter(|change| change.is_finite())
    }),
    (outcomes::CREST_CHANGE, All, |r| {
        let after = r.known.map_or_else(|| crest_db(&r.rendered().after), |known| known.levels.crest_db);
        Some(after? - r.passage.levels.crest_db?)
    }),
    (outcomes::PEAK_CHANGE, All, |r| {
        let after = r.known.map_or_else(|| peak_dbfs(&r.rendered().after), |known| known.levels.peak_dbfs);
        Some(after - r.passage.levels.peak_dbfs).filter(|change| change.is_finite())
    }),
    (outcomes::BALANCE_CHANGE, All, |r| {
        let window = cast::frames(0.05, r.passage.buffer.rate_hz());
        let (before, after) =
            (balances_db(&r.passage.buffer, window)?, balances_db(&r.rendered().after, window)?);
        let moved = before.iter().zip(&after).map(|(b, a)| (a - b).abs()).filter(|moved| moved.is_finite());
        Some(moved.fold(0.0, f64::max))
    }),
    (outcomes::BETWEEN_CHANGE, All, |r| mean_onset_change_db(r, |levels| levels.between_dbfs)),
    (outcomes::SHARE_REDUCED, UpTo, |r| Some(reduction(r)?.share_of_time)),
    (outcomes::TONE_DISTORTION, Alone, |r| {
        let stage = r.path.stages.get(r.stage)?;
        Some(measure_distortion(stage, r.passage.buffer.rate_hz(), &LowTone::USUAL).thd)
    }),
    (outcomes::CENTROID, All, |r| {
        let power = r.known.map_or_else(
            || Cow::Owned(MeanPower::of(&r.rendered().after)),
            |known| Cow::Borrowed(known.power.get_or_init(|| MeanPower::of(&r.rendered().after))),
        );
        power.centroid_hz()
    }),
    (outcomes::TOUCHED, Alone, |r| {
        let highest = (0.49 * f64::from(r.passage.buffer.rate_hz())).min(20_000.0);
        let freqs = log_freqs(20.0, highest, TOUCHED_POINTS);
        let responses = r.responses()?;
        let touched = freqs.iter().filter(|f| responses.iter().any(|h| h.gain_db(**f).abs() >= 1.0)).count();
        Some((highest / 20.0).log2() * cast::real(touched) / cast::real(TOUCHED_POINTS))
    }),
    (outcomes::T30, Alone, |r| t30(&decay(r)?)),
    (outcomes::EDT, Alone, |r| Some(decay(r)?.fit(0.0, -10.0)?.seconds)),
    (outcomes::T30_AT_8K, Alone, |r| t30_at(r, 8000.0)),
    (outcomes::T30_AT_125, Alone, |r| t30_at(r, 125.0)),
    (outcomes::TAIL_LENGTH, Alone, |r| {
        let response = r.room()?;
        let sides = response.reverberant();
        let loudest = room::highest(&sides);
        let last =
            sides.iter().filter_map(|side| side.iter().rposition(|x| x.abs() > 1e-3 * loudest)).max()?;
        Some(cast::real(last) / f64::from(response.rate_hz))
    }),
    (outcomes::CENTRE_TIME, Alone, |r| {
        let mut response = r.room()?.clone();
        response.sides = response.reverberant();
        room::Energies::of(&response).centre_ms
    }),
    (outcomes::PREDELAY, Alone, |r| first_ms(&r.part(PartKind::Late)?)),
    (outcomes::FIRST_REFLECTION, Alone, |r| first_ms(r.room()?)),
    (outcomes::DENSITY_TIME, Alone, |r| {
        let response = r.room()?;
        room::Density::reaches_noise_ms(&response.reverberant(), response.rate_hz, room::DENSITY_S)
    }),
    (outcomes::CORRELATION, Alone, |r| room::correlation(&r.room()?.reverberant())),
    (outcomes::WET_CENTROID, Alone, |r| {
        let response = r.room()?;
        let sound = Buffer::new(response.rate_hz, response.reverberant().to_vec()).ok()?;
        MeanPower::of(&sound).centroid_hz()
    }),
    (outcomes::WET_SHARE, Alone, |r| room::Energies::of(r.room()?).direct_db),
    (outcomes::COLOURATION, Alone, |r| {
        let response = r.room()?;
        room::ringing_db(&response.reverberant(), response.rate_hz)
    }),
    (outcomes::SWING_RATE, Alone, |r| Some(r.swing()?.rate_hz)),
    (outcomes::SWING_RISE, Alone, |r| Some(r.swing()?.rising)),
    (outcomes::SWING_EDGE, Alone, |r| Some(r.swing()?.at_ends)),
    (outcomes::SWING_CHANCE, Alone, |r| Some(r.swing()?.chance)),
    (outcomes::SWING_START, Alone, |r| Some(r.swing()?.start)),
    (outcomes::SWING_APART, Alone, |r| r.swing()?.together),
    (outcomes::PITCH_SWAY, Alone, |r| r.sway()?.cents),
    (outcomes::RIPPLE, Alone, |r| Some(r.sway()?.ripple)),
    (outcomes::SUM_RIPPLE, Alone, |r| Some(r.sway()?.sum_ripple)),
    (outcomes::SIDES, Alone, |r| modulation::sides(r.moving()?, r.rate_hz())),
    (outcomes::NOTCH_COUNT, Alone, |r| Some(cast::real(r.notches()?.freqs_hz.len()))),
    (outcomes::LOWEST_NOTCH, Alone, |r| r.notches()?.freqs_hz.first().copied()),
    (outcomes::NOTCH_WAY, Alone, |r| Some(r.notch_way()?.0)),
    (outcomes::NOTCH_SPEED, Alone, |r| Some(r.notch_way()?.1)),
    (outcomes::PEAK_HEIGHT, Alone, |r| {
        let notches = r.notches()?;
        Some(notches.peak_db - notches.mean_db)
    }),
    (outcomes::WOBBLE, Alone, |r| room::wobble_cents(r.ringing()?, r.rate_hz())),
    (outcomes::EARLY_COUNT, Alone, |r| {
        let response = r.early()?;
        let found = room::reflections(&response.reverberant(), response.rate_hz, PART_S, 1.0);
        Some(cast::real(found.len()))
    }),
    (outcomes::EARLY_SPAN, Alone, |r| comes_by_ms(r.early()?, 0.99)),
    (outcomes::EARLY_MIDDLE, Alone, |r| comes_by_ms(r.early()?, 0.5)),
    (outcomes::EARLY_BALANCE, Alone, |r| {
        let response = r.early()?;
        let found = room::reflections(&response.reverberant(), response.rate_hz, PART_S, 1.0);
        let sum: f64 = found.iter().map(|reflection| reflection.left_over_right_db.abs()).sum();
        (!found.is_empty()).then(|| sum / cast::real(found.len()))
    }),
    (outcomes::EARLY_CREST, Alone, |r| {
        let sides = r.early()?.reverberant();
        let highest = f64::from(room::highest(&sides));
        let energy: f64 = room::energies(&sides, 0).sum();
        (energy > 0.0).then(|| db_from_power(highest * highest / energy))
    }),
    (outcomes::PRE_RINGING, Alone, |r| {
        r.responses()?.iter().map(|response| response.ringing().before_ms).reduce(f64::max)
    }),
];

/// The decay time of an octave (Hz) of a room, s.
fn t30_at(r: &Readable, freq_hz: f64) -> Option<f64> {
    let response = r.room()?;
    let sides = response.reverberant();
    let octave: room::Octave = room::octaves(&sides, response.rate_hz, &[freq_hz]).pop()?;
    t30(&room::decay_of_octave(&octave, room::first_heard(&sides), response.rate_hz, response.ground))
}

/// T30, or T20 where a decay is so long that it is not followed so far.
fn t30(decay: &room::Decay) -> Option<f64> {
    Some(decay.fit(-5.0, -35.0).or_else(|| decay.fit(-5.0, -25.0))?.seconds)
}

/// The decay curve of a room over all.
fn decay(r: &Readable) -> Option<room::Decay> {
    Some(r.room()?.decay())
}

/// When the reverberant sound of a response is first heard, ms.
fn first_ms(response: &RoomResponse) -> Option<f64> {
    room::first_heard_ms(&response.reverberant(), response.rate_hz)
}

/// The time by which a share of the energy of a response has come, ms.
fn comes_by_ms(response: &RoomResponse, share: f64) -> Option<f64> {
    let sides = response.reverberant();
    let all: f64 = room::energies(&sides, 0).sum();
    let mut sum = 0.0;
    let frame = room::energies(&sides, 0).position(|energy| {
        sum += energy;
        all > 0.0 && sum >= share * all
    })?;
    Some(1000.0 * cast::real(frame) / f64::from(response.rate_hz))
}

/// Outcomes of single bands of a stage.
fn read_of_band(outcome: &Outcome, r: &Readable) -> Option<f64> {
    let of = |outcomes: &[Outcome]| outcomes.iter().position(|of_band| of_band.id == outcome.id);
    if let Some(band) = of(&outcomes::MEAN_REDUCTION_OF_BAND) {
        Some(band_reduction(r, band)?.mean_db)
    } else if let Some(band) = of(&outcomes::LARGEST_REDUCTION_OF_BAND) {
        Some(band_reduction(r, band)?.largest_db)
    } else {
        band_reduction(r, of(&outcomes::LEFT_AT_NEXT_ONSET_OF_BAND)?)?.left_at_next_onset_db
    }
}

/// Left over right in every window, dB; silence has none.
fn balances_db(buffer: &Buffer, window: usize) -> Option<Vec<f64>> {
    let [left, right] = buffer.channels() else { return None };
    let level = |x: &[f32]| (energy(x) / cast::real(x.len().max(1))).max(1e-8).log10() * 10.0;
    Some(left.chunks(window).zip(right.chunks(window)).map(|(l, r)| level(l) - level(r)).collect())
}

/// Frequencies at which a response is looked at for its range.
const TOUCHED_POINTS: usize = 1000;

/// Silence counts as this in a mean of changes, dBFS.
const SILENT_DBFS: f64 = -120.0;

/// Mean change of one level of all onsets, dB; none without onsets.
fn mean_onset_change_db(r: &Readable, level: fn(&OnsetLevels) -> f64) -> Option<f64> {
    let read = || Cow::Owned(onset_levels(&r.rendered().after, &r.passage.onsets));
    let after = r.known.map_or_else(read, |known| Cow::Borrowed(known.onset_levels));
    let pairs = after.iter().zip(&r.passage.onset_levels);
    let sum: f64 =
        pairs.map(|(after, before)| level(after).max(SILENT_DBFS) - level(before).max(SILENT_DBFS)).sum();
    (!after.is_empty()).then(|| sum / cast::real(after.len()))
}

fn reduction(r: &Readable) -> Option<Reduction> {
    let read = || Reduction::of_stage(r.rendered(), r.stage, &r.passage.onsets);
    Some(r.known.map_or_else(read, |known| known.reduction).unwrap_or(Reduction::NONE))
}

/// What is read off the gain of one band.
fn band_reduction(r: &Readable, band: usize) -> Option<Reduction> {
    let found = Reduction::of_band(r.rendered(), r.stage, band, &r.passage.onsets);
    Some(found.unwrap_or(Reduction::NONE))
}
