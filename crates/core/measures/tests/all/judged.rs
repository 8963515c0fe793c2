//! Numbers of responses as libraries that are not ours read them: pyrato 1.1.0, pyroomacoustics 0.10.1 and, for octaves, SciPy
//! 1.17.1, run once by `tests/judge/rooms.py`, which makes the same samples.

use clear_bend_measures::room::{Room, RoomResponse};
use clear_bend_signals::SplitMix64;
use clear_bend_sound::Buffer;
use clear_bend_sound::cast;
use serde_json::Value;

use clear_bend_testing::{RATE, near};

fn response(seed: u64, seconds: f64) -> Room {
    let mut random = SplitMix64::new(seed, 0);
    let gain = |i: usize| 10f64.powf(-3.0 * cast::real(i) / f64::from(RATE) / seconds);
    let frames = cast::frames(2.0 * seconds, RATE);
    let mut side: Vec<f32> = (0..frames).map(|i| cast::sample(gain(i) * random.bipolar())).collect();
    side[0] = 1.0;
    let mut response = RoomResponse::of_buffer(&Buffer::new(RATE, vec![side]).unwrap());
    // All of it counts, as it does for the others.
    response.direct_frames = 0;
    Room::of(&response)
}

/// Decay times within 1.5 % (the others differ from each other by 0.8 %), of octaves within 1 % (their filter is causal),
/// clarity within 0.05 dB, D50 within 0.002, centre time within half a millisecond.
#[test]
fn others_read_the_same_numbers() {
    let read: Vec<Value> = serde_json::from_str(include_str!("../judge/rooms.json")).unwrap();
    assert_eq!(read.len(), 3);
    for theirs in read {
        let number = |name: &str| theirs[name].as_f64().unwrap();
        let ours = response(theirs["seed"].as_u64().unwrap(), number("seconds"));
        let (edt, t20, t30) = (ours.times.edt.unwrap(), ours.times.t20.unwrap(), ours.times.t30.unwrap());
        near(edt.seconds / number("edt_s"), 1.0, 0.015);
        near(t20.seconds / number("t20_s"), 1.0, 0.015);
        near(t30.seconds / number("t30_s"), 1.0, 0.015);
        near(t30.seconds / number("t30_by_the_other_s"), 1.0, 0.015);
        near(ours.energies.c50_db.unwrap(), number("c50_db"), 0.05);
        near(ours.energies.c80_db.unwrap(), number("c80_db"), 0.05);
        near(ours.energies.d50.unwrap(), number("d50"), 0.002);
        near(ours.energies.centre_ms.unwrap(), number("centre_ms"), 0.5);
        for (freq_hz, seconds) in theirs["octaves"].as_object().unwrap() {
            let found = ours.t30_at(freq_hz.parse().unwrap()).unwrap();
            println!("{freq_hz} Hz: {found:.3} s, theirs {seconds}");
            near(found / seconds.as_f64().unwrap(), 1.0, 0.01);
        }
    }
}
