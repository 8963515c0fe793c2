//! What is read off all stems together: their sum, what goes to shared paths and comes back, and the same by inserts.

use serde::Serialize;

use super::readings::PointLevels;
use super::sentence::Sentence;
use clear_bend_catalogue::Unit;
use clear_bend_measures::{Levels, PlainLevels, difference};
use clear_bend_playing::mix::{Beside, Desk, SendsAs};
use clear_bend_sound::Buffer;
use clear_bend_sound::level::{db_from_power, gain_from_db};

/// The sum of all stems before and after the path of the one at work.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct SumLevels {
    /// Levels of the sum with the stem untouched.
    pub before: Levels,
    /// Levels of the sum with the stem through its path.
    pub after: Levels,
    /// What goes from the stem, through its path, to each shared path, and what comes back.
    pub sends: Vec<SendLevels>,
}

/// What goes from a stem to a shared path, and what comes back.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct SendLevels {
    /// The place of the shared path among the stems.
    pub to: usize,
    /// What the stem sends.
    pub sent: PointLevels,
    /// What comes back, of all that is sent there, as it stands in the sum.
    pub back: PointLevels,
}

impl SumLevels {
    /// Measures the sum with what the stem at work gives before and after its path.
    #[must_use]
    pub fn of(desk: &Desk, beside: &Beside, before: &Buffer, after: &Buffer) -> Self {
        let (sum_before, _) = desk.sum(beside, before);
        let (sum_after, ways) = desk.sum(beside, after);
        let levels = |sound: &Buffer| PointLevels::from(&PlainLevels::of(sound));
        let sends = ways
            .iter()
            .map(|way| SendLevels { to: way.to, sent: levels(&way.sent), back: levels(&way.back) })
            .collect();
        Self { before: Levels::of(&sum_before), after: Levels::of(&sum_after), sends }
    }
}

/// The sum through shared paths beside the one in which every stem has its own copy of them as an insert.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "typescript", derive(ts_rs::TS))]
pub struct SendsCompared {
    /// Levels of the sum through shared paths.
    pub shared: Levels,
    /// Levels of the sum through inserts.
    pub inserts: Levels,
    /// RMS level of their difference against that of the sum, dB.
    #[cfg_attr(feature = "typescript", ts(type = "number | null"))]
    pub difference_db: f64,
    /// How many paths run when they are shared.
    pub shared_runs: usize,
    /// How many run as inserts.
    pub insert_runs: usize,
    /// What that says.
    pub sentence: Sentence,
}

/// What differs by less than this is the same but for rounding, dB.
const SAME_DB: f64 = -100.0;

impl SendsCompared {
    /// Compares the two on a desk of which nothing else changes. None where nothing is sent.
    #[must_use]
    pub fn of(desk: &Desk) -> Option<Self> {
        let mut to: Vec<usize> = desk.stems.iter().flat_map(|stem| stem.sends).map(|send| send.to).collect();
        let insert_runs = to.len();
        to.sort_unstable();
        to.dedup();
        let shared_runs = to.len();
        // A shared path that is worked on would be one for all in both.
        let shared_at_work = desk.stems.get(desk.work).is_some_and(|stem| stem.source.is_none());
        let work = if shared_at_work { usize::MAX } else { desk.work };
        let desk = (insert_runs > 0).then(|| Desk { work, ..desk.clone() })?;
        let after = desk.at_work();
        let sum = |sends_as| {
            let desk = Desk { sends_as, ..desk.clone() };
            desk.sum(&desk.beside(), &after).0
        };
        let [shared, inserts] = [SendsAs::Shared, SendsAs::Inserts].map(sum);
        let apart = difference(&inserts, &shared, 0.0);
        let difference_db = db_from_power(power(&apart) / power(&shared));
        let text = sentence(difference_db, shared_runs, insert_runs);
        let (shared, inserts) = (Levels::of(&shared), Levels::of(&inserts));
        Some(Self {
            shared,
            inserts,
            difference_db,
            shared_runs,
            insert_runs,
            sentence: Sentence::marked(&text),
        })
    }
}

/// The sum of all squares.
fn power(sound: &Buffer) -> f64 {
    sound.channels().iter().flatten().map(|x| f64::from(*x).powi(2)).sum()
}

fn sentence(difference_db: f64, shared_runs: usize, insert_runs: usize) -> String {
    let times = |runs: usize| if runs == 1 { "once".to_owned() } else { format!("{runs} times") };
    let runs = format!("It runs *{}* instead of *{}*.", times(shared_runs), times(insert_runs));
    if difference_db.is_nan() {
        return "What is sent is silent.".to_owned();
    }
    if difference_db < SAME_DB {
        let within = if difference_db.is_finite() {
            format!(" within *{}*", Unit::Db.text(difference_db))
        } else {
            String::new()
        };
        return format!(
            "Shared or as an insert of every stem, the sum is the same{within}: one room for all, with one place to change it. {runs}"
        );
    }
    let percent = Unit::Percent.text(gain_from_db(difference_db));
    format!(
        "Shared and as inserts, the sum differs by *{percent}* of itself (*{}*): what goes by level acts on all stems together there, and on each alone here. {runs}",
        Unit::Db.text(difference_db)
    )
}
