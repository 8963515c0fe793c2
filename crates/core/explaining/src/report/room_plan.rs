//! A room by its measures, as it is drawn and explained: where its first reflections come from, how long it rings by the formulas and
//! by its own response, and why they differ.

use serde::Serialize;

use clear_bend_catalogue::METRES_PER_S;
use clear_bend_measures::room::{Decay, Ground, RoomResponse, scatter, t30s_of};
use clear_bend_signals::room::{
    BANDS_HZ, BEFORE, ImageEnergies, LATEST_S, MOST_ORDER, MirrorImage, ROOM, RoomDecays, RoomMeasures,
    STEP_S, WALLS, complete_m, decays, distance, images, unheard, way, within,
};
use clear_bend_signals::{Source, SourceDocument};
use clear_bend_sound::Buffer;
use clear_bend_sound::cast;
use clear_bend_sound::level::gain_from_db;
use clear_bend_sound::refusal::{Refusal, nearest};

/// So many reflections are listed and drawn, the earliest.
const LISTED: usize = 60;
/// Columns of the drawn response, the faintest level that is drawn, dB, and the shortest time, ms.
const COLUMNS: usize = 360;
const FAINTEST_DB: f64 = -60.0;
const LEAST_SHOWN_MS: f64 = 20.0;
/// Formulas that differ by more than this share are explained.
const AGREES: f64 = 0.1;
/// One response may be off by so many standard deviations.
const SCATTERS: f64 = 2.5;
/// The octave of which sentences speak: 1 kHz.
const MIDDLE: usize = 3;
/// Walls are uneven where the mean absorption of one pair of them is over so many times that of another.
const UNEVEN: f64 = 3.0;

/// One sound that comes to the listener.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct RoomReflection {
    /// When it comes, ms after the direct sound.
    pub at_ms: f64,
    /// Its way, m.
    pub way_m: f64,
    /// Its level over all octaves against the direct sound, dB; none where the walls leave nothing.
    pub level_db: Option<f64>,
    /// How many walls it meets.
    pub order: u32,
    /// The walls, in words; none for the direct sound.
    pub walls: String,
    /// From the source over every wall to the middle between the ears, m.
    pub points_m: Vec<[f64; 3]>,
}

/// A room as it is drawn.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct RoomPlan {
    /// Length, width and height, m.
    pub size_m: [f64; 3],
    /// The ears: left, right.
    pub ears_m: [[f64; 3]; 2],
    /// The share that every wall takes in every octave, walls in the order of the settings.
    pub absorption: [[f64; 6]; 6],
    /// The direct sound, then what follows, earliest first.
    pub reflections: Vec<RoomReflection>,
    /// How many reflections are made one by one.
    pub count: usize,
    /// From when on some are missing and the tail takes their place, ms after the direct sound.
    pub complete_ms: f64,
    /// By the formulas, by octave.
    pub decays: [RoomDecays; 6],
    /// The absorption over all walls in m² of nothing but absorber, by octave.
    pub absorbers_m2: [f64; 6],
    /// What is so, in sentences.
    pub sentences: Vec<String>,
}

/// What is measured in the response of a room.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct RoomMeasured {
    /// T30 by octave, s; none where it never falls so far.
    pub t30_s: [Option<f64>; 6],
    /// T30 of all images together, without a tail that stands for any, by octave, s; none where they are too many to be summed until it has
    /// fallen so far, and where that is no line.
    pub images_s: [Option<f64>; 6],
    /// From which order on the decay at 1 kHz changes by less than 5 %; none where it changes up to the highest one.
    pub steady_order: Option<u32>,
    /// Length of the response, s.
    pub seconds: f64,
    /// The highest sample of both ears in columns of the same length from the direct sound on, dB against it.
    pub columns_db: Vec<f64>,
    /// How long all columns are, ms.
    pub columns_ms: f64,
    /// Where measured and formula differ, and why.
    pub sentences: Vec<String>,
}

/// One value of a measure of the room, and how long it rings then.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct RoomBendPoint {
    /// The value.
    pub value: f64,
    /// T30 of the response at 1 kHz, s.
    pub measured_s: Option<f64>,
    /// After Eyring, s.
    pub eyring_s: Option<f64>,
}

/// The values of a source that is a room.
///
/// # Errors
/// Refuses a document that is none, and rooms into which source and listener do not fit.
pub fn room_of(document: &SourceDocument) -> Result<Vec<f64>, Refusal> {
    match Source::from_document(document)? {
        Source::Made(kind, values) if *kind == ROOM => Ok(values),
        _ => Err(Refusal::new("kind", format!("\u{201c}{}\u{201d}", document.kind), ROOM.id)),
    }
}

/// A room that has been changed, with source and listener brought inside of it and apart.
///
/// # Errors
/// Refuses what is no room, and values out of their ranges.
pub fn brought_within(document: &SourceDocument) -> Result<SourceDocument, Refusal> {
    if document.kind != ROOM.id {
        return Err(Refusal::new("kind", format!("\u{201c}{}\u{201d}", document.kind), ROOM.id));
    }
    let values = document.params.checked(ROOM.params, None).map_err(|e| e.within("params"))?;
    Ok(Source::Made(&ROOM, within(&values)).to_document())
}

impl RoomPlan {
    /// The plan of a room by its values.
    #[must_use]
    pub fn of(values: &[f64]) -> Self {
        let room = RoomMeasures::from_values(values);
        let all = images(&room, room.order);
        let away = |image: &MirrorImage| distance(image.place_m, room.listener_m);
        let direct_m = all.first().map_or(1.0, away);
        let reflections: Vec<RoomReflection> = listed(&room, &all)
            .into_iter()
            .map(|image| {
                let (way_m, gains) = (away(image), image.gains(&room));
                let of_air = |hz: &f64| gain_from_db(-(way_m - direct_m) * room.air_db_per_m(*hz));
                let left = gains.iter().zip(BANDS_HZ.iter().map(of_air)).map(|(gain, air)| gain * air);
                let power = left.map(|gain| gain * gain).sum::<f64>() / 6.0;
                let level = 20.0 * (direct_m / way_m).log10() + 10.0 * power.log10();
                RoomReflection {
                    at_ms: 1000.0 * (way_m - direct_m) / METRES_PER_S,
                    way_m,
                    level_db: level.is_finite().then_some(level),
                    order: image.order(),
                    walls: walls(image),
                    points_m: way(&room, image, room.listener_m),
                }
            })
            .collect();
        let decays = decays(&room);
        let surface: f64 = room.walls_m2().iter().sum();
        let complete_ms = 1000.0 * (complete_m(&room, room.order) - direct_m) / METRES_PER_S;
        let mut sentences = spoken(&reflections, all.len() - 1, complete_ms, &decays, room.order);
        sentences.extend(room.air.map(|air| {
            let [at_4k, at_16k] = [4000.0, 16_000.0].map(|hz| 100.0 * air.db_per_m(hz));
            format!(
                "On 100 m the air takes {at_4k:.1} dB at 4 kHz and {at_16k:.0} dB at 16 kHz: highs ring shorter than the walls let them."
            )
        }));
        sentences.extend(unheard(values).into_iter().map(|(wall, _, surface)| {
            format!("What is set by hand for the {} is not heard: it is of {surface}.", WALLS[wall])
        }));
        Self {
            size_m: room.size_m,
            ears_m: room.ears_m(),
            absorption: room.absorption,
            count: all.len() - 1,
            reflections,
            complete_ms,
            decays,
            absorbers_m2: decays.map(|octave| octave.mean_absorption * surface),
            sentences,
        }
    }
}

impl RoomMeasured {
    /// Makes the response of a room and reads its decay.
    #[must_use]
    pub fn of(values: &[f64], rate_hz: u32) -> Self {
        let (t30_s, response) = t30s(values, rate_hz, &BANDS_HZ);
        let room = RoomMeasures::from_values(values);
        let formulas = decays(&room);
        // Where walls take everything, what falls is the filter of the octave.
        let t30_s = [0, 1, 2, 3, 4, 5]
            .map(|band| t30_s[band].filter(|_| formulas[band].eyring_s.is_some_and(|s| s > 0.0)));
        let seconds = response.as_ref().map_or(0.0, Buffer::seconds);
        let (images_s, steady_order) = by_images(&room);
        let mut sentences = compared(&room, &formulas, t30_s, response.as_ref());
        sentences.extend(on_order(&room, images_s[MIDDLE], steady_order, &formulas));
        let columns_ms = shown_ms(&room).min(1000.0 * seconds);
        let columns_db = response.map_or(Vec::new(), |response| columns(&response, columns_ms));
        Self { t30_s, images_s, steady_order, seconds, columns_db, columns_ms, sentences }
    }
}

impl RoomBendPoint {
    /// How long a room rings with one of its measures at one of so many places along its control.
    ///
    /// # Errors
    /// Refuses a measure that a room does not have.
    pub fn of(values: &[f64], measure: &str, place: usize, of: usize, rate_hz: u32) -> Result<Self, Refusal> {
        let params = ROOM.params;
        let index = params.iter().position(|param| param.id == measure).ok_or_else(|| {
            Refusal::new(
                "measure",
                format!("\u{201c}{measure}\u{201d}"),
                nearest(measure, params.iter().map(|p| p.id)),
            )
        })?;
        let mut moved = values.to_vec();
        moved[index] = params[index].value_at(cast::real(place) / cast::real(of.max(2) - 1));
        let moved = within(&moved);
        let eyring_s = decays(&RoomMeasures::from_values(&moved))[MIDDLE].eyring_s;
        let measured_s = t30s(&moved, rate_hz, &BANDS_HZ[MIDDLE..=MIDDLE]).0[0];
        Ok(Self { value: moved[index], measured_s, eyring_s })
    }
}

/// The same over the whole range of the measure; choices and whole numbers have fewer values than there may be places.
///
/// # Errors
/// Refuses a measure that a room does not have.
pub fn room_bend(
    values: &[f64],
    measure: &str,
    places: usize,
    rate_hz: u32,
) -> Result<Vec<RoomBendPoint>, Refusal> {
    let mut points = (0..places.max(2))
        .map(|place| RoomBendPoint::of(values, measure, place, places, rate_hz))
        .collect::<Result<Vec<_>, _>>()?;
    points.dedup_by_key(|point| point.value);
    Ok(points)
}

/// T30 of the made response in some octaves, s, and the response.
fn t30s(values: &[f64], rate_hz: u32, freqs_hz: &[f64]) -> (Vec<Option<f64>>, Option<Buffer>) {
    let Ok(buffer) = Source::Made(&ROOM, values.to_vec()).render(rate_hz, 2) else {
        return (vec![None; freqs_hz.len()], None);
    };
    (t30s_of(&RoomResponse::of_buffer(&buffer), freqs_hz), Some(buffer))
}

/// The time that the listed reflections take, ms after the direct sound, and a little.
fn shown_ms(room: &RoomMeasures) -> f64 {
    let all = images(room, room.order);
    let listed = listed(room, &all);
    let away = |image: &&MirrorImage| distance(image.place_m, room.listener_m);
    let (first, last) = (listed.first().map_or(0.0, away), listed.last().map_or(0.0, away));
    (1.05 * (1000.0 * (last - first) / METRES_PER_S)).max(LEAST_SHOWN_MS)
}

/// The images that are listed, the nearest first.
fn listed<'a>(room: &RoomMeasures, all: &'a [MirrorImage]) -> Vec<&'a MirrorImage> {
    let away = |image: &MirrorImage| distance(image.place_m, room.listener_m);
    let mut nearest: Vec<&MirrorImage> = all.iter().collect();
    nearest.sort_by(|a, b| away(a).total_cmp(&away(b)));
    nearest.truncate(LISTED + 1);
    nearest
}

/// The highest sample of every column, dB against that of the direct sound.
fn columns(response: &Buffer, columns_ms: f64) -> Vec<f64> {
    let rate = f64::from(response.rate_hz());
    let highest = |from: usize, to: usize| {
        let part = |channel: &Vec<f32>| {
            channel
                .get(from..to.min(channel.len()))
                .unwrap_or(&[])
                .iter()
                .map(|x| x.abs())
                .fold(0.0, f32::max)
        };
        f64::from(response.channels().iter().map(part).fold(0.0, f32::max))
    };
    let place = |column: usize| {
        BEFORE + cast::count(columns_ms / 1000.0 * rate * cast::real(column) / cast::real(COLUMNS))
    };
    // Both ears have heard it a millisecond after the first one.
    let direct = highest(0, BEFORE + cast::count(0.001 * rate));
    (0..COLUMNS)
        .map(|column| {
            (20.0 * (highest(place(column), place(column + 1).max(place(column) + 1)) / direct).log10())
                .max(FAINTEST_DB)
        })
        .collect()
}

/// The walls that a sound meets, each once, with how often.
fn walls(image: &MirrorImage) -> String {
    let met = WALLS.iter().zip(image.hits).filter(|(_, hits)| *hits > 0);
    let said = met.map(|(wall, hits)| match hits {
        1 => (*wall).to_owned(),
        2 => format!("{wall} twice"),
        hits => format!("{wall} {hits} times"),
    });
    said.collect::<Vec<_>>().join(", ")
}

fn spoken(
    reflections: &[RoomReflection],
    count: usize,
    complete_ms: f64,
    decays: &[RoomDecays; 6],
    order: u32,
) -> Vec<String> {
    let mut said = Vec::new();
    if let Some(first) = reflections.get(1).filter(|first| first.order > 0 && count > 0) {
        let level = first.level_db.map_or("silent".to_owned(), |level| format!("{:.1} dB under it", -level));
        said.push(format!(
            "The first reflection comes {:.1} ms after the direct sound, from the {}: {level}.",
            first.at_ms, first.walls
        ));
    }
    said.push(if count == 0 {
        "No reflection is made by itself: the tail stands for all of them.".to_owned()
    } else {
        format!(
            "{count} {} up to order {order} {} made one by one; from {complete_ms:.0} ms on the tail takes the place of those that are missing.",
            if count == 1 { "reflection" } else { "reflections" },
            if count == 1 { "is" } else { "are" },
        )
    });
    let octave = &decays[MIDDLE];
    said.push(match (octave.sabine_s, octave.eyring_s) {
        (Some(sabine), Some(eyring)) if eyring > 0.0 && sabine / eyring > 1.0 + AGREES => format!(
            "At 1 kHz Sabine says {sabine:.2} s and Eyring {eyring:.2} s: the walls take {:.0} % of what meets them, and Sabine's formula holds where they take little.",
            100.0 * octave.mean_absorption
        ),
        (Some(_), Some(0.0)) => "All walls take all of the sound at 1 kHz: nothing rings, whatever Sabine's formula says.".to_owned(),
        (Some(sabine), Some(eyring)) => format!("At 1 kHz Sabine says {sabine:.2} s and Eyring {eyring:.2} s: with little absorption both agree."),
        _ => format!("No wall takes anything at 1 kHz, so the sound never ends; the response is cut off at {LATEST_S:.0} s, and no decay time is read off it."),
    });
    said
}

/// Where the response and Eyring's formula differ by more than they should, and why.
fn compared(
    room: &RoomMeasures,
    decays: &[RoomDecays; 6],
    t30_s: [Option<f64>; 6],
    response: Option<&Buffer>,
) -> Vec<String> {
    let off = |band: usize| {
        let (measured, eyring) = (t30_s[band]?, decays[band].eyring_s.filter(|eyring| *eyring > 0.0)?);
        Some((band, measured, eyring, (measured / eyring).ln().abs()))
    };
    let worst = (0..6).filter_map(off).max_by(|a, b| a.3.total_cmp(&b.3));
    let Some((band, measured, eyring, apart)) = worst else {
        return why_no_time(room, response);
    };
    if apart <= AGREES.max(SCATTERS * scatter(decays[band].freq_hz, eyring)) {
        let said = "Measured in the response, all octaves ring as long as Eyring says, as nearly as one response can tell.";
        return vec![said.to_owned()];
    }
    let hz = decays[band].freq_hz;
    let octave = if hz < 1000.0 { format!("{hz:.0} Hz") } else { format!("{:.0} kHz", hz / 1000.0) };
    let rings_on = uneven(room, band).filter(|_| measured > eyring);
    let why = if let Some(rings_on) = rings_on {
        rings_on
    } else if hz < schroeder_hz(eyring, room.volume_m3()) * 2f64.sqrt() {
        format!(
            "under {:.0} Hz single modes of a room of {:.0} m³ decide, and no formula counts them",
            schroeder_hz(eyring, room.volume_m3()),
            room.volume_m3()
        )
    } else if decays[band].mean_absorption > 0.5 {
        "so much is taken that the first reflections alone make the decay".to_owned()
    } else {
        "single reflections are most of this decay, and no formula counts them".to_owned()
    };
    vec![format!("At {octave} the response rings {measured:.2} s, Eyring says {eyring:.2} s: {why}.")]
}

/// Why no octave has a decay time, with both slopes where it falls in two.
fn why_no_time(room: &RoomMeasures, response: Option<&Buffer>) -> Vec<String> {
    let Some(decay) = response.map(|response| RoomResponse::of_buffer(response).decay()) else {
        return vec!["There is no response, so that no decay time can be read off it.".to_owned()];
    };
    let mut said: Vec<String> = decay.times().why.into_iter().collect();
    if let Some(slopes) = decay.slopes() {
        said.push(format!(
            "It falls in two slopes: at first by 60 dB in {:.2} s, later in {:.2} s.",
            slopes.first_s, slopes.then_s
        ));
    }
    said.extend(uneven(room, MIDDLE).map(|why| format!("At 1 kHz {why}.")));
    if said.is_empty() {
        said.push("No octave falls along a straight line, so that none has a decay time.".to_owned());
    }
    said
}

/// How uneven the walls are in an octave, where they are.
fn uneven(room: &RoomMeasures, band: usize) -> Option<String> {
    let pairs =
        [0, 2, 4].map(|first| 0.5 * (room.absorption[first][band] + room.absorption[first + 1][band]));
    let (least, most) = (extreme(pairs, |a, b| a < b), extreme(pairs, |a, b| a > b));
    let names = ["front and back", "left and right", "floor and ceiling"];
    (pairs[most] > UNEVEN * pairs[least].max(1e-6)).then(|| {
        format!(
            "the walls are uneven: {} take {:.0} %, {} {:.0} %, and sound that keeps to bare walls rings on",
            names[most],
            100.0 * pairs[most],
            names[least],
            100.0 * pairs[least]
        )
    })
}

/// T30 of all images by octave, and the order from which on the decay at 1 kHz stays within 5 % of what it is with all orders.
fn by_images(room: &RoomMeasures) -> ([Option<f64>; 6], Option<u32>) {
    let summed = ImageEnergies::of(room, MOST_ORDER);
    let t30 = |energies: &[f64]| {
        let begins = energies.iter().position(|energy| *energy > 0.0).unwrap_or(0);
        Some(Decay::of(&energies[begins..], 1.0 / STEP_S, Ground::Noise).fit(-5.0, -35.0)?.seconds)
    };
    let images_s = summed.all.each_ref().map(|energies| t30(energies));
    let orders: Vec<Option<f64>> = summed.by_order.iter().map(|energies| t30(energies)).collect();
    let last_s = images_s[MIDDLE].or(orders.last().copied().flatten());
    let same = |t30_s: &Option<f64>| {
        t30_s.zip(last_s).is_some_and(|(t30_s, last_s)| (t30_s / last_s).ln().abs() < SAME)
    };
    let steady = orders.len() - orders.iter().rev().take_while(|t30_s| same(t30_s)).count();
    (images_s, (steady < orders.len()).then(|| cast::small(steady)))
}

/// What is said of the order, and of what all images give.
fn on_order(
    room: &RoomMeasures,
    images_s: Option<f64>,
    steady: Option<u32>,
    decays: &[RoomDecays; 6],
) -> Vec<String> {
    let mut said = Vec::new();
    if let Some((images_s, eyring_s)) = images_s.zip(decays[MIDDLE].eyring_s)
        && (images_s / eyring_s).ln().abs() > AGREES
    {
        said.push(format!(
            "All mirror images together ring {images_s:.2} s at 1 kHz, whatever the tail does."
        ));
    }
    match steady {
        Some(steady) if room.order < steady => said.push(format!(
            "With reflections up to order {} the tail decides: from order {steady} on, the decay at 1 kHz changes by less than 5 %.",
            room.order
        )),
        None if decays[MIDDLE].eyring_s.is_some_and(|eyring_s| eyring_s > 0.0) => said.push(format!(
            "The decay at 1 kHz still changes with the order up to {MOST_ORDER}, as far as one can be read off it."
        )),
        _ => {}
    }
    said
}

/// Decay times whose ratio's logarithm is smaller are the same.
const SAME: f64 = 0.05;

/// Over this frequency (Hz) modes lie so close that a room can be taken for diffuse, by its decay time (s) and volume (m³): M. R.
/// Schroeder and H. Kuttruff, "On frequency response curves in rooms", JASA 34, 1962.
fn schroeder_hz(decay_s: f64, volume_m3: f64) -> f64 {
    2000.0 * (decay_s / volume_m3).sqrt()
}

fn extreme(values: [f64; 3], before: fn(f64, f64) -> bool) -> usize {
    (0..3).fold(0, |best, k| if before(values[k], values[best]) { k } else { best })
}
