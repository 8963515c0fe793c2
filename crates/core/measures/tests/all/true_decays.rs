//! Decays against what they were made of: every time that is told is right within 5 %, or it is not told, with the true reason.

use std::f64::consts::TAU;

use clear_bend_measures::room::{Room, RoomResponse};
use clear_bend_sound::Buffer;
use proptest::prelude::*;

use clear_bend_testing::decays::Gauss;
use clear_bend_testing::{RATE, cases};

/// A response that begins at once with its first sound: noise under a sum of exponentials (seconds to fall by 60 dB, dB at the beginning)
/// on each side, over noise of so many dB.
struct Made<'a> {
    slopes: [&'a [(f64, f64)]; 2],
    floor_db: Option<f64>,
    seconds: f64,
    rate_hz: u32,
    seed: u64,
}

impl Made<'_> {
    fn room(&self) -> Room {
        let mut gauss = Gauss::new(self.seed);
        let frames = (self.seconds * f64::from(self.rate_hz)) as usize;
        let floor = self.floor_db.map_or(0.0, |db| 10f64.powf(db / 20.0));
        let mut side = |slopes: &[(f64, f64)]| {
            let mut samples: Vec<f32> = (0..frames)
                .map(|i| {
                    let t = i as f64 / f64::from(self.rate_hz);
                    let power: f64 =
                        slopes.iter().map(|(t60, db)| 10f64.powf(0.1 * db - 6.0 * t / t60)).sum();
                    (0.1 * (power.sqrt() * gauss.next() + floor * gauss.next())) as f32
                })
                .collect();
            // The direct sound, which is not part of the decay.
            samples[0] = 1.0;
            samples
        };
        let sides = self.slopes.map(&mut side).to_vec();
        Room::of(&RoomResponse::of_buffer(&Buffer::new(self.rate_hz, sides).unwrap()))
    }
}

fn told(room: &Room) -> Vec<(&'static str, f64)> {
    let times = [("EDT", &room.times.edt), ("T20", &room.times.t20), ("T30", &room.times.t30)];
    times.into_iter().filter_map(|(name, fit)| Some((name, fit.as_ref()?.seconds))).collect()
}

/// By how much a time of noise on both sides scatters around what it was made of (one standard deviation), as 200 seeds in NumPy show:
/// 0.55 / sqrt(2 B T) for T30 (ISO 3382-1, Annex A, from memory), more over fewer decibels.
fn scatter(name: &str, rate_hz: u32, t60: f64) -> f64 {
    let of_name = match name {
        "EDT" => 1.9,
        "T20" => 0.75,
        _ => 0.6,
    };
    of_name / (f64::from(rate_hz) * t60).sqrt()
}

/// The cases in which times were told that the record does not hold.
#[test]
fn a_floor_is_never_taken_for_a_decay() {
    for (t60, floor_db, seconds) in [
        (0.2, -40.0, 0.2),
        (5.0, -40.0, 3.75),
        (0.05, -60.0, 1.0),
        (0.05, -60.0, 0.3),
        (0.1, -30.0, 1.0),
        (0.1, -30.0, 3.0),
    ] {
        for seed in 1..=12 {
            let slopes: &[(f64, f64)] = &[(t60, 0.0)];
            let made = Made { slopes: [slopes; 2], floor_db: Some(floor_db), seconds, rate_hz: RATE, seed };
            let room = made.room();
            for (name, found) in told(&room) {
                let allowed = 3.5 * scatter(name, RATE, t60);
                assert!(
                    (found / t60 - 1.0).abs() < allowed.max(0.05),
                    "{t60} s over {floor_db} dB in {seconds} s: {name} {found}"
                );
            }
            assert!(room.times.t30.is_some() || room.times.why.is_some());
        }
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(cases(100)))]

    /// Exponentials over noise in records of any length, at any rate.
    #[test]
    fn any_exponential_is_read_or_refused(
        t60_log in (0.05f64).ln()..8f64.ln(),
        floor_db in prop_oneof![Just(None), (-95.0f64..-15.0).prop_map(Some)],
        share_log in (0.3f64).ln()..8f64.ln(),
        rate_hz in prop::sample::select(vec![22_050u32, 44_100, 48_000, 96_000]),
        seed in 1u64..1_000_000,
    ) {
        let t60 = t60_log.exp();
        let seconds = (t60 * share_log.exp()).clamp(0.05, 12.0);
        let slopes: &[(f64, f64)] = &[(t60, 0.0)];
        let room = Made { slopes: [slopes; 2], floor_db, seconds, rate_hz, seed }.room();
        for (name, found) in told(&room) {
            let allowed = 4.5 * scatter(name, rate_hz, t60);
            prop_assert!((found / t60 - 1.0).abs() < allowed.max(0.05), "{name} {found} for {t60}, {floor_db:?} in {seconds} s at {rate_hz}");
        }
        prop_assert!(room.slopes.is_none(), "{:?} of one exponential of {t60} s, {floor_db:?} in {seconds}", room.slopes);
        // Whatever the record holds by far is told.
        if seconds > 1.2 * t60 && floor_db.is_none_or(|db| db < -55.0) {
            prop_assert!(room.times.t30.is_some(), "{:?} for {t60}, {floor_db:?} in {seconds} s", room.times);
        }
        if let Some(why) = &room.times.why {
            prop_assert_eq!(why.contains("noise"), why.contains("noise") && floor_db.is_some(), "{}", why);
        }
    }
}

/// Two slopes are told as two, and sides that differ as sides.
#[test]
fn two_slopes_and_two_sides_are_told_apart() {
    for (second_db, seed) in [(-15.0, 2), (-20.0, 3), (-25.0, 4), (-30.0, 5)] {
        let slopes: &[(f64, f64)] = &[(0.5, 0.0), (2.0, second_db)];
        let made = Made { slopes: [slopes; 2], floor_db: None, seconds: 4.0, rate_hz: RATE, seed };
        let room = made.room();
        let found = room.slopes.unwrap_or_else(|| panic!("{second_db} dB: {:?}", room.times));
        println!("{second_db}: {found:?}");
        assert!(
            (found.first_s / 0.5 - 1.0).abs() < 0.05 && (found.then_s / 2.0 - 1.0).abs() < 0.05,
            "{found:?}"
        );
    }
    let short: &[(f64, f64)] = &[(0.5, 0.0)];
    let long: &[(f64, f64)] = &[(2.0, 0.0)];
    let made = Made { slopes: [short, long], floor_db: None, seconds: 3.0, rate_hz: RATE, seed: 5 };
    let [left, right] = made.room().sides_s.unwrap();
    assert!((left / 0.5 - 1.0).abs() < 0.05 && (right / 2.0 - 1.0).abs() < 0.05, "{left} and {right}");
    let even = Made { slopes: [short, short], ..made };
    assert_eq!(even.room().sides_s, None);
}

/// What is no decay has no time: a steady tone, steady noise, a rising sound.
#[test]
fn what_does_not_fall_has_no_time() {
    let sides = |sound: &dyn Fn(usize) -> f64| {
        let side: Vec<f32> = (0..2 * RATE as usize).map(|i| sound(i) as f32).collect();
        Room::of(&RoomResponse::of_buffer(&Buffer::new(RATE, vec![side.clone(), side]).unwrap()))
    };
    let tone = sides(&|i| 0.5 * (TAU * 440.0 * i as f64 / 48_000.0).sin());
    let rising = sides(&|i| 0.5 * i as f64 / 96_000.0 * (TAU * 440.0 * i as f64 / 48_000.0).sin());
    let gauss = std::cell::RefCell::new(Gauss::new(3));
    let noise = sides(&|_| 0.1 * gauss.borrow_mut().next());
    for room in [tone, rising, noise] {
        assert!(told(&room).is_empty(), "{:?}", room.times);
        assert!(room.times.why.unwrap().contains("does not fall"));
        assert!(room.octaves.iter().all(|octave| octave.times.t30.is_none()));
    }
}
