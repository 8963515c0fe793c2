//! What is said of rooms: how they fall, when they come, how loud they are, and why nothing is heard of them.

use super::readings::StageReadings;
use clear_bend_catalogue::Unit;
use clear_bend_measures::room::Room;

/// Octaves between which the fall of the middle and of the highs is told, Hz.
const MIDDLE_HZ: f64 = 1000.0;
const HIGH_HZ: f64 = 8000.0;
/// Highs that fall within less than this share of the middle's time are damped; over the other one they are not.
const DAMPED: f64 = 0.6;
const EVEN: f64 = 0.85;
/// Highs that begin by more than this under the middle are cut; within the other one they are not, dB.
const CUT_DB: f64 = -9.0;
const WHOLE_DB: f64 = -4.0;
/// What begins within this of another is as loud, dB.
const AS_LOUD_DB: f64 = 1.0;
/// Decay times that differ by less are heard as the same (ISO 3382-1).
const NOTICED: f64 = 0.05;
/// A share of a tail that is worth a word.
const MUCH: f64 = 0.02;

/// "The tail falls by 60 dB in 1.42 s; at 8 kHz in 0.61 s. The first reflection comes 21 ms after the sound, as from a wall 3.6 m away. Late reverb is
/// 9 dB under the dry sound." Where a decay is set, how it goes with what is measured.
pub fn on_room(room: &Room, set_s: Option<f64>) -> Vec<String> {
    let mut said = Vec::new();
    if let Some(t30) = &room.times.t30 {
        let high = room.t30_at(HIGH_HZ).map(|high| format!("; at 8 kHz in *{}*", Unit::FineS.text(high)));
        let all = Unit::FineS.text(t30.seconds);
        said.push(format!("The tail falls by 60 dB in *{all}*{}.", high.unwrap_or_default()));
        said.extend(set_s.and_then(|set_s| on_set(room, t30.seconds, set_s)));
    }
    said.extend(on_slopes(room));
    if said.is_empty() {
        said.extend(room.times.why.clone());
    }
    if let Some((gap_ms, gap_m)) = room.gap_ms.zip(room.gap_m).filter(|(gap_ms, _)| *gap_ms >= 1.0) {
        // There and back.
        let wall = Unit::M.text(gap_m / 2.0);
        let gap = Unit::Ms.text(gap_ms);
        said.push(format!(
            "The first reflection comes *{gap}* after the sound, as from a wall *{wall}* away."
        ));
    }
    match room.energies.direct_db {
        Some(direct) if direct.abs() < 0.5 => said.push("The reverb is as loud as the dry sound.".to_owned()),
        Some(direct) => {
            let side = if direct > 0.0 { "under" } else { "over" };
            said.push(format!("The reverb is *{}* {side} the dry sound.", Unit::Db.text(direct.abs())));
        }
        None => {}
    }
    said.extend(on_highs(room));
    said
}

/// "At 1 kHz 1.65 s are set and 1.63 s measured; all together fall sooner, as the highs do."
fn on_set(room: &Room, all_s: f64, set_s: f64) -> Option<String> {
    let (middle_s, high_s) = (room.t30_at(MIDDLE_HZ)?, room.t30_at(HIGH_HZ)?);
    if (all_s / set_s).ln().abs() < NOTICED {
        return None;
    }
    let (set, middle) = (Unit::FineS.text(set_s), Unit::FineS.text(middle_s));
    let sooner = all_s < (1.0 - NOTICED) * middle_s && high_s < (1.0 - NOTICED) * middle_s;
    let why = if sooner { "; all together fall sooner, as the highs do" } else { "" };
    Some(format!("At 1 kHz {set} are set and *{middle}* measured{why}."))
}

/// Two slopes, and sides that differ.
fn on_slopes(room: &Room) -> Vec<String> {
    let time = |seconds: f64| Unit::FineS.text(seconds);
    let slopes = room.slopes.map(|slopes| {
        let (first, then) = (time(slopes.first_s), time(slopes.then_s));
        format!("It falls in two slopes: at first by 60 dB in *{first}*, later in *{then}*.")
    });
    let sides = room.sides_s.map(|[left, right]| {
        format!("The left side falls by 60 dB in *{}*, the right one in *{}*.", time(left), time(right))
    });
    slopes.into_iter().chain(sides).collect()
}

/// Whether the highs are damped, which makes them fall sooner, or cut, which takes them from the beginning.
fn on_highs(room: &Room) -> Option<String> {
    let share = room.t30_at(HIGH_HZ)? / room.t30_at(MIDDLE_HZ)?;
    let level = |hz: f64| Some(room.octave(hz)?.level_db);
    // What falls sooner has less energy for the same beginning.
    let begins_db = level(HIGH_HZ)? - level(MIDDLE_HZ)? - 10.0 * share.log10();
    let under = Unit::Db.text(begins_db.abs());
    if share >= EVEN && begins_db < CUT_DB {
        Some(format!(
            "Its highs are cut and not damped: 8 kHz begins *{under}* under 1 kHz and falls as slowly."
        ))
    } else if share < DAMPED && begins_db > WHOLE_DB {
        let begins = if begins_db.abs() < AS_LOUD_DB {
            "as loud as 1 kHz".to_owned()
        } else {
            format!("*{under}* {} 1 kHz", if begins_db < 0.0 { "under" } else { "over" })
        };
        let shorter = Unit::Percent.text(share);
        Some(format!(
            "Its highs are damped and not cut: 8 kHz begins {begins} and falls in *{shorter}* of its time."
        ))
    } else {
        None
    }
}

/// What goes beyond the loop, and why the side of a mono sound is silent.
pub fn on_loop(readings: &StageReadings) -> Vec<String> {
    let beyond = readings.beyond_loop.filter(|share| *share >= MUCH).map(|share| {
        let share = Unit::Percent.text(share);
        format!("The tail is longer than the loop: *{share}* of it sounds when the loop has begun anew.")
    });
    let silent = readings.silent_side.then(|| {
        "Nothing enters it: it works on the side, and both channels are the same where it stands.".to_owned()
    });
    beyond.into_iter().chain(silent).collect()
}
