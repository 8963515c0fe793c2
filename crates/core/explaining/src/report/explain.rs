//! One to three sentences on what a path does to a passage, from measured numbers only.

use super::moving::on_moving;
use super::readings::{OnsetChange, PointLevels, Report, StageReadings};
use super::rooms::{on_loop, on_room};
use super::sentence::{MatchSentences, Sentence};
use clear_bend_catalogue::Unit;
use clear_bend_effects::Ability;
use clear_bend_measures::room::OCTAVES_HZ;
use clear_bend_measures::{MatchBy, MatchedBy, Sibilants};
use clear_bend_playing::path::{Path, Stage};
use clear_bend_signals::LONGEST_RESPONSE_S;

/// Changes smaller than this are called none, dB.
const UNTOUCHED_DB: f64 = 0.5;

/// What the path does to the passage of the report, and what is said of the match in other ways than by loudness.
#[must_use]
pub fn sentences(path: &Path, report: &Report, is_sent: bool) -> (Vec<Sentence>, Option<MatchSentences>) {
    if !report.before.peak_dbfs.is_finite() {
        let silent = if is_sent {
            "Nothing is sent here, so there is nothing to hear or to measure: give a stem a send to this shared path."
        } else {
            "The source is silent, so there is nothing to hear or to measure."
        };
        return (vec![Sentence::marked(silent)], None);
    }
    if let Some(why) = why_nothing_happens(path, report) {
        return (vec![Sentence::marked(&why)], None);
    }
    // A filter that works alone is told by what it does to ranges, not to hits.
    let only_filters =
        path.stages.iter().filter(|stage| stage.wet() > 0.0).all(|stage| stage.effect.filters());
    let ranges = on_octaves(report).filter(|_| only_filters);
    let change = ranges.or_else(|| on_onsets(report)).unwrap_or_else(|| on_level(report));
    // A room that works alone is told by how it rings, and what moves by how; what they do to hits is little.
    let tells = |stage: &Stage| stage.effect.rings() || stage.effect.swing(&stage.values).is_some();
    let only_these = path.stages.iter().filter(|stage| stage.wet() > 0.0).all(tells);
    let change = Some(change).filter(|_| !only_these);
    let mut said: Vec<Sentence> = change.iter().map(|change| Sentence::marked(change)).collect();
    said.extend(rooms(path, report).iter().map(|text| Sentence::marked(text)));
    let matched = |by| Sentence::marked(&on_match(report, by));
    let matches = MatchSentences {
        at: said.len(),
        loudness: matched(MatchBy::Loudness),
        rms: matched(MatchBy::Rms),
        peak: matched(MatchBy::Peak),
        off: matched(MatchBy::Off),
    };
    said.push(matches.loudness.clone());
    said.extend(on_dry_send(path, report).map(|text| Sentence::marked(&text)));
    said.extend(on_tail(report).map(|text| Sentence::marked(&text)));
    said.extend(stage_sentences(path, report).iter().map(|text| Sentence::marked(text)));
    if let Some((stage, why)) = idle_stages(report).first() {
        let name = path.stages[*stage].effect.label.to_lowercase();
        said.push(Sentence::marked(&format!("Stage {}, the {name}, does nothing. {why}", stage + 1)));
    }
    (said, Some(matches))
}

/// What every room has to say, and everything that moves.
fn rooms(path: &Path, report: &Report) -> Vec<String> {
    let working =
        report.stages.iter().zip(&path.stages).enumerate().filter(|(_, (_, stage))| stage.wet() > 0.0);
    let said: Vec<(String, Vec<String>)> = working
        .map(|(i, (readings, stage))| {
            let set_s = stage.effect.decay_s(&stage.values, 1000.0);
            let room = readings.room.as_ref().filter(|_| !readings.silent_side);
            let room = room.map(|room| on_room(room, set_s));
            let moving = readings.moving.as_ref().map(on_moving);
            let said = room
                .unwrap_or_default()
                .into_iter()
                .chain(on_loop(readings))
                .chain(moving.unwrap_or_default())
                .chain(on_level_as_recorded(stage, report.points.get(i + 1)));
            (name_of(i, stage), said.collect())
        })
        .filter(|(_, said): &(_, Vec<_>)| !said.is_empty())
        .collect();
    named(said)
}

/// A response at the level at which it was recorded may bring the sound over full scale.
fn on_level_as_recorded(stage: &Stage, after: Option<&PointLevels>) -> Option<String> {
    let rings = stage.effect.abilities.iter().any(|ability| matches!(ability, Ability::Rings));
    let peak_dbfs = after.map(|point| point.peak_dbfs).filter(|peak| rings && *peak > 0.0)?;
    let peak = Unit::Dbfs.text(peak_dbfs);
    Some(format!(
        "It comes out at *{peak}*, over full scale: a file of whole numbers would clip. Less output or mix, or the response as loud as dry."
    ))
}

/// What stages have to say; where there are several, each is named first.
fn named(said: Vec<(String, Vec<String>)>) -> Vec<String> {
    let several = said.len() > 1;
    said.into_iter()
        .flat_map(|(name, said)| {
            said.into_iter()
                .enumerate()
                .map(move |(i, said)| if several && i == 0 { format!("{name}{said}") } else { said })
        })
        .collect()
}

/// How a stage is named before what it has to say.
fn name_of(place: usize, stage: &Stage) -> String {
    format!("{} {}: ", place + 1, stage.effect.label)
}

/// "On a send the mix belongs at 100 % wet: at 33 % the stems come back dry as well, and get louder."
fn on_dry_send(path: &Path, report: &Report) -> Option<String> {
    let index = *report.dry_stages.first()?;
    let stage = &path.stages[index];
    let (name, mix) = (stage.effect.label.to_lowercase(), Unit::Percent.text(stage.mix));
    Some(format!(
        "On a send the mix belongs at 100 % wet: with the {name} at *{mix}*, what the stems send comes back dry as well, on top of what is heard of them already."
    ))
}

/// What goes on for less than this after the end is not spoken of, s.
const SHORT_TAIL_S: f64 = 0.02;

/// "After its end it goes on for 1.2 s, until that is 60 dB quieter."
fn on_tail(report: &Report) -> Option<String> {
    let tail = Unit::S.text(report.tail_s);
    if let Some(left_db) = report.tail_left_db {
        let left = Unit::Db.text(left_db);
        return Some(format!(
            "After its end it goes on for longer than {tail}: it is then *{left}* quieter, and no further followed."
        ));
    }
    (report.tail_s >= SHORT_TAIL_S)
        .then(|| format!("After its end it goes on for *{tail}*, until nothing is left within 60 dB of what there was then."))
}

/// What single stages have to say: what their settings do by themselves, what a key does, whether a voice lisps.
fn stage_sentences(path: &Path, report: &Report) -> Vec<String> {
    let working = path.stages.iter().zip(&report.stages).enumerate();
    let working = working.filter(|(_, (stage, _))| stage.wet() > 0.0);
    // Only a voice has sibilants, and lisps.
    let (word, lispable) = if report.material.may_be_voice() {
        ("sibilant".to_owned(), true)
    } else {
        (format!("bright {}", report.material.name()), false)
    };
    let said = working
        .map(|(i, (stage, readings))| {
            let remark = (stage.effect.remark)(&stage.values, report.rate_hz);
            let lisping = readings.sibilants.as_ref().filter(|found| lispable && found.lisping > 0);
            let lisps = lisping.map(|found| {
                let are = if found.lisping == 1 { "is" } else { "are" };
                let (count, all) = (found.lisping, found.all.len());
                let word = if all == 1 { "sibilant" } else { "sibilants" };
                format!("Too much: *{count}* of {all} {word} {are} now weaker than the vowels around, which lisps.")
            });
            let softened = readings.sibilants.as_ref().map(|found| on_sibilants(found, &word));
            let missing = stage.effect.sounds.iter().zip(&stage.sounds).find_map(|(slot, sound)| {
                let empty = sound.as_ref()?.samples.as_ref().is_none_or(|samples| samples.frames() == 0);
                let name = slot.label.to_lowercase();
                empty.then(|| format!("The sound of the {name} is not there, so the {name} is silent."))
            });
            let longer = stage.effect.sounds.iter().zip(&stage.sounds).find_map(|(slot, sound)| {
                let samples = sound.as_ref()?.samples.as_ref().filter(|_| slot.whole)?;
                let (name, most) = (slot.label.to_lowercase(), Unit::S.text(LONGEST_RESPONSE_S));
                (samples.seconds() > LONGEST_RESPONSE_S).then(|| {
                    let length = Unit::S.text(samples.seconds());
                    format!("The {name} lasts *{length}*: what comes after {most} is not heard.")
                })
            });
            let said = [remark, on_key(readings), softened, lisps, missing, longer].into_iter().flatten();
            (name_of(i, stage), said.collect())
        })
        .filter(|(_, said): &(_, Vec<_>)| !said.is_empty());
    named(said.collect())
}

/// "The 15 sibilants come out 0.2 to 4.1 dB lower; everything else stays."
fn on_sibilants(found: &Sibilants, word: &str) -> String {
    let changes = found.all.iter().map(|s| (s.before_dbfs - s.after_dbfs).max(0.0));
    let (all, noun) = (found.all.len(), plural(found.all.len(), word, true));
    let verb = if all == 1 { "comes" } else { "come" };
    let rest = match found.rest_change_db {
        Some(change) if change.abs() >= 0.05 => {
            format!("everything else changes by *{}*", Unit::Db.text(change))
        }
        _ => "everything else stays".to_owned(),
    };
    format!("The *{all}* {noun} {verb} out {} lower; {rest}.", range_db(changes))
}

/// "The 8 onsets of the key take 3.1 to 8.9 dB; 63 % of that is back after 60 to 140 ms."
fn on_key(readings: &StageReadings) -> Option<String> {
    let ducks: Vec<_> = readings.ducks.iter().filter(|duck| duck.depth_db >= UNTOUCHED_DB).collect();
    let all = readings.ducks.len();
    if all == 0 {
        return None;
    }
    if ducks.is_empty() {
        return Some("The key has onsets, but none of them reaches the threshold.".to_owned());
    }
    let depth = range_db(ducks.iter().map(|duck| duck.depth_db));
    let (count, onset) = (ducks.len(), if all == 1 { "onset" } else { "onsets" });
    let takes = if count == 1 { "takes" } else { "take" };
    let text = format!("*{count}* of the {all} {onset} of the key {takes} {depth}");
    let times: Vec<f64> = ducks.iter().filter_map(|duck| duck.recovery_ms).collect();
    if times.is_empty() {
        return Some(format!("{text}, and the gain is not back before the next one."));
    }
    let (low, high) = times.iter().fold((f64::INFINITY, 0.0), |(a, b): (f64, f64), t| (a.min(*t), b.max(*t)));
    // Times that differ by less than a fiftieth are one.
    let range = if high < 1.02 * low {
        Unit::Ms.text(0.5 * (low + high))
    } else {
        format!("{} to {}", Unit::Ms.text(low), Unit::Ms.text(high))
    };
    Some(format!("{text}; 63 % of it is back after *{range}*."))
}

/// The stages that are on and do nothing to what reaches them, and why.
fn idle_stages(report: &Report) -> Vec<(usize, String)> {
    let stages = report.stages.iter().enumerate();
    stages.filter_map(|(i, readings)| Some((i, readings.idle.clone()?))).collect()
}

/// Says why the signal passes untouched, where it does.
fn why_nothing_happens(path: &Path, report: &Report) -> Option<String> {
    let working: Vec<_> = path.stages.iter().filter(|stage| stage.wet() > 0.0).collect();
    match (path.stages.as_slice(), working.as_slice()) {
        ([], _) => Some("The path is empty: after is the same as before.".to_owned()),
        ([stage], []) if !stage.on => Some(format!(
            "The {} is switched off: after is the same as before.",
            stage.effect.label.to_lowercase()
        )),
        ([_], []) => Some("The mix is 0 %, so only the untouched signal is heard.".to_owned()),
        (_, []) => {
            Some("Every stage is switched off or at a mix of 0 %: after is the same as before.".to_owned())
        }
        (_, working) => {
            let idle = idle_stages(report);
            match idle.as_slice() {
                [(_, why)] if working.len() == 1 => Some(why.clone()),
                idle if idle.len() == working.len() => {
                    let each = idle.iter().map(|(i, why)| format!("Stage {}: {why}", i + 1));
                    Some(each.collect::<Vec<_>>().join(" "))
                }
                _ => None,
            }
        }
    }
}

/// "The 6 loudest hits come out 5.8 to 9.1 dB lower; the 10 quiet ones are untouched."
fn on_onsets(report: &Report) -> Option<String> {
    let (onsets, noun) = (&report.onsets, report.material.name());
    if onsets.len() < 2 {
        return None;
    }
    let mut by_level: Vec<&OnsetChange> = onsets.iter().collect();
    by_level.sort_by(|a, b| b.before.transient_dbfs.total_cmp(&a.before.transient_dbfs));
    let kind = |o: &OnsetChange| {
        let change = o.transient_change_db();
        if change < -UNTOUCHED_DB {
            Kind::Lower
        } else if change > UNTOUCHED_DB {
            Kind::Higher
        } else {
            Kind::Same
        }
    };
    let all = by_level.len();
    let mut parts = Vec::new();
    for wanted in [Kind::Lower, Kind::Higher, Kind::Same] {
        let places: Vec<usize> = (0..all).filter(|&i| kind(by_level[i]) == wanted).collect();
        let (Some(&first), Some(&last)) = (places.first(), places.last()) else { continue };
        let count = places.len();
        let together = last - first + 1 == count;
        let who = if count == all {
            format!("{} {noun}s", if all == 2 { "Both".to_owned() } else { format!("All *{all}*") })
        } else if together && first == 0 {
            format!("{} {}", subject(&parts, count, "loudest"), plural(count, noun, parts.is_empty()))
        } else if together && last == all - 1 {
            format!("{} {}", subject(&parts, count, "quietest"), plural(count, noun, parts.is_empty()))
        } else if parts.is_empty() {
            format!("*{count}* of the {all} {noun}s")
        } else {
            format!("*{count}* {}", if count == 1 { "other" } else { "others" })
        };
        let changes = places.iter().map(|&i| by_level[i].transient_change_db().abs());
        let verb = |one: &'static str, many: &'static str| if count == 1 { one } else { many };
        parts.push(match wanted {
            Kind::Same => format!("{who} {} untouched", verb("is", "are")),
            Kind::Lower => format!("{who} {} out {} lower", verb("comes", "come"), range_db(changes)),
            Kind::Higher => format!("{who} {} out {} higher", verb("comes", "come"), range_db(changes)),
        });
    }
    let text = parts.join("; ");
    Some(format!("{text}."))
}

#[derive(PartialEq, Clone, Copy)]
enum Kind {
    Lower,
    Higher,
    Same,
}

/// "The *6* loudest", or "the loudest" for one.
fn subject(earlier: &[String], count: usize, which: &str) -> String {
    let the = if earlier.is_empty() { "The" } else { "the" };
    if count == 1 { format!("{the} {which}") } else { format!("{the} *{count}* {which}") }
}

/// "hit", "hits", and "one", "ones" once the hits have been named.
fn plural(count: usize, noun: &str, first: bool) -> String {
    let noun = if first { noun } else { "one" };
    if count == 1 { noun.to_owned() } else { format!("{noun}s") }
}

/// "*5.8 to 9.1 dB*", or one number where both ends read the same.
fn range_db(values: impl Iterator<Item = f64>) -> String {
    let (low, high) =
        values.fold((f64::INFINITY, 0.0), |(low, high): (f64, f64), v| (low.min(v), high.max(v)));
    let (low, high) = (format!("{low:.1}"), format!("{high:.1}"));
    if low == high { format!("*{low} dB*") } else { format!("*{low} to {high} dB*") }
}

/// Octaves that are quieter than this, or so far under the loudest one, are not spoken of, dBFS and dB.
const QUIET_OCTAVE_DBFS: f64 = -80.0;
const UNDER_LOUDEST_DB: f64 = 50.0;

/// "12 % of the energy is changed by 0.5 dB or more: the octave around 63 Hz falls most, by 12.3 dB; 7 of 10 stay as they were."
fn on_octaves(report: &Report) -> Option<String> {
    let loudest = report.octaves.iter().map(|o| o.before_dbfs).fold(f64::NEG_INFINITY, f64::max);
    let quiet_dbfs = QUIET_OCTAVE_DBFS.max(loudest - UNDER_LOUDEST_DB);
    let heard = report.octaves.iter().filter(|o| o.before_dbfs > quiet_dbfs);
    let energy = |of: &dyn Fn(f64) -> bool| -> f64 {
        let octaves = report.octaves.iter().filter(|o| of((o.after_dbfs - o.before_dbfs).abs()));
        octaves.map(|o| 10f64.powf(0.1 * o.before_dbfs)).sum()
    };
    let share = energy(&|change| change >= UNTOUCHED_DB) / energy(&|_| true);
    let changes: Vec<(f64, f64)> = heard.map(|o| (o.freq_hz, o.after_dbfs - o.before_dbfs)).collect();
    if changes.is_empty() {
        return None;
    }
    let said = |(freq_hz, change): &(f64, f64), verb: &str| {
        let (hz, db) = (Unit::Hz.text(nominal_hz(*freq_hz)), Unit::Db.text(change.abs()));
        (change.abs() >= UNTOUCHED_DB).then(|| format!("the octave around {hz} {verb} by *{db}*"))
    };
    let lowest = changes.iter().min_by(|a, b| a.1.total_cmp(&b.1)).filter(|(_, change)| *change < 0.0);
    let highest = changes.iter().max_by(|a, b| a.1.total_cmp(&b.1)).filter(|(_, change)| *change > 0.0);
    let parts = [lowest.and_then(|c| said(c, "falls most,")), highest.and_then(|c| said(c, "rises most,"))];
    let parts: Vec<String> = parts.into_iter().flatten().collect();
    let still = changes.iter().filter(|(_, change)| change.abs() < UNTOUCHED_DB).count();
    let all = changes.len();
    let rest = match (parts.is_empty(), still) {
        (true, _) => {
            return Some(format!(
                "None of the {all} octaves changes by {} or more.",
                Unit::Db.text(UNTOUCHED_DB)
            ));
        }
        (false, 0) => String::new(),
        (false, 1) => format!("; *1* of {all} stays as it was"),
        (false, still) => format!("; *{still}* of {all} stay as they were"),
    };
    let share =
        if share < 0.01 { "Under *1 %*".to_owned() } else { format!("*{}*", Unit::Percent.text(share)) };
    let least = Unit::Db.text(UNTOUCHED_DB);
    Some(format!("{share} of the energy is changed by {least} or more: {}{rest}.", parts.join(", ")))
}

/// By what an octave is called: 125 Hz for one whose middle is at 125.9 (IEC 61260-1).
fn nominal_hz(exact_hz: f64) -> f64 {
    let near = |nominal: &f64| (exact_hz / nominal).ln().abs() < 0.1;
    OCTAVES_HZ.into_iter().find(near).unwrap_or(exact_hz)
}

/// For sounds without onsets: what happened to the level as a whole.
fn on_level(report: &Report) -> String {
    let change = report.after.rms_dbfs - report.before.rms_dbfs;
    let reductions = report.reductions.iter().flatten();
    let largest = reductions.map(|r| r.largest_db).fold(0.0, f64::max);
    let taken = format!("Up to *{}* of gain are taken", Unit::Db.text(largest));
    if !change.is_finite() {
        "Nothing comes out.".to_owned()
    } else if largest < 0.05 && change.abs() < 0.05 {
        "The RMS level stays as it was.".to_owned()
    } else if largest < 0.05 && change.abs() >= 0.05 {
        let direction = if change < 0.0 { "falls" } else { "rises" };
        format!("The RMS level {direction} by *{}*.", Unit::Db.text(change.abs()))
    } else if change.abs() < 0.05 {
        format!("{taken}, and the RMS level stays as it was.")
    } else {
        let direction = if change < 0.0 { "falls" } else { "rises" };
        format!("{taken}, and the RMS level {direction} by *{}*.", Unit::Db.text(change.abs()))
    }
}

/// "Matched by +4.3 dB, it is as loud as before, with 4.3 dB less peak."
fn on_match(report: &Report, by: MatchBy) -> String {
    let matches = &report.level_matches;
    let wanted = match by {
        MatchBy::Loudness | MatchBy::Off => matches.loudness,
        MatchBy::Rms => matches.rms,
        MatchBy::Peak => matches.peak,
    };
    let equal = match wanted.by {
        MatchedBy::Loudness => "it is as loud as before",
        MatchedBy::Rms => "the RMS level is as before",
        MatchedBy::Peak => "the peak is as before",
        MatchedBy::Part => {
            return "A part of the sound is heard alone, as loud as it is, so it is not matched.".to_owned();
        }
        MatchedBy::Silence => return "Nothing comes out, so the levels cannot be matched.".to_owned(),
    };
    let gain = wanted.gain_db;
    let signed = |db: f64| format!("{}{}", if db > 0.0 { "+" } else { "" }, Unit::Db.text(db));
    let peak = report.after.peak_dbfs - report.before.peak_dbfs;
    if by == MatchBy::Off {
        return if gain.abs() < 0.05 {
            format!("Not matched: {equal} all the same, with {}.", change_of("peak", peak))
        } else {
            let louder = if gain < 0.0 { "louder" } else { "quieter" };
            let needed = match wanted.by {
                MatchedBy::Loudness => "to make it as loud as before",
                _ => "to bring the RMS level back",
            };
            let (db, peak, gain) = (Unit::Db.text(gain.abs()), change_of("peak", peak), signed(gain));
            format!(
                "Not matched: it is *{db}* {louder} than before, with {peak}; *{gain}* would be needed {needed}."
            )
        };
    }
    let other = match wanted.by {
        MatchedBy::Peak => change_of("RMS level", report.after.rms_dbfs - report.before.rms_dbfs + gain),
        _ => change_of("peak", peak + gain),
    };
    if gain.abs() < 0.05 {
        return format!("Without a match, {equal}, with {other}.");
    }
    format!("Matched by *{}*, {equal}, with {other}.", signed(gain))
}

/// "4.3 dB less peak".
fn change_of(what: &str, change_db: f64) -> String {
    if change_db.abs() < 0.05 {
        return format!("the same {what}");
    }
    let direction = if change_db < 0.0 { "less" } else { "more" };
    format!("*{}* {direction} {what}", Unit::Db.text(change_db.abs()))
}
