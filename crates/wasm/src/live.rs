//! The live bench of the audio thread. Every export takes and returns plain numbers, so that it can be
//! called without any generated glue; arrays are passed as addresses in the module's memory. What the other side knows of them
//! is written down by [`crate::contract`].

use std::cell::RefCell;
use std::sync::Arc;

use clear_bend_catalogue::document::parse_json;
use clear_bend_effects::Setup;
use clear_bend_playing::live::Hear;
use clear_bend_playing::live::{Live, Meters, Runs};
use clear_bend_playing::mix::{Send, Strip};
use clear_bend_playing::path::{Path, Play};
use clear_bend_sound::Buffer;
use clear_bend_sound::audio::TRUE_STEREO;
use wasm_bindgen::prelude::wasm_bindgen;

use crate::exports::exports;

/// The live bench and the rooms in memory through which it is spoken to.
struct Desk {
    live: Live,
    rate_hz: u32,
    output: [Vec<f32>; 2],
    meters: [f32; Meters::COUNT],
    incoming: Vec<Vec<f32>>,
    piece: Vec<f32>,
    /// The sounds that stages take, by number: all lanes share them.
    sounds: Vec<Option<Arc<Buffer>>>,
    text: Vec<u8>,
}

/// Which of the paths that run.
fn runs(shared: bool, number: usize) -> Runs {
    if shared { Runs::Shared(number) } else { Runs::Lane(number) }
}

/// What has come into the room.
fn incoming(desk: &mut Desk) -> Option<Buffer> {
    Buffer::new(desk.rate_hz, std::mem::take(&mut desk.incoming)).ok()
}

/// The most sounds that stages of all lanes may take.
const MOST_SOUNDS: usize = 1024;

thread_local! {
    static DESK: RefCell<Option<Desk>> = const { RefCell::new(None) };
}

fn with<T>(f: impl FnOnce(&mut Desk) -> T) -> Option<T> {
    DESK.with_borrow_mut(|desk| desk.as_mut().map(f))
}

exports! {
/// Makes the live bench. Returns whether the rate is accepted.
fn live_new(rate_hz: u32, max_block: usize) -> bool {
    let live = Live::new(Setup { rate_hz, max_block }).ok();
    DESK.with_borrow_mut(|desk| {
        *desk = live.map(|live| Desk {
            live,
            rate_hz,
            output: [vec![0.0; max_block], vec![0.0; max_block]],
            meters: [0.0; Meters::COUNT],
            incoming: Vec::new(),
            piece: Vec::new(),
            sounds: Vec::new(),
            text: Vec::new(),
        });
        desk.is_some()
    })
}

/// Address of the output samples of a channel.
fn live_output(channel: usize) -> usize {
    with(|desk| desk.output[channel.min(1)].as_ptr().addr()).unwrap_or(0)
}

/// Makes room for samples that come in piece by piece: no call should last as long as a minute takes to be copied.
fn live_room(frames: usize, channels: usize) {
    with(|desk| {
        desk.incoming = (0..channels.clamp(1, TRUE_STEREO)).map(|_| Vec::with_capacity(frames)).collect()
    });
}

/// Makes room for a piece of them and returns its address.
fn live_piece_room(frames: usize) -> usize {
    with(|desk| {
        desk.piece.resize(frames, 0.0);
        desk.piece.as_ptr().addr()
    })
    .unwrap_or(0)
}

/// Puts the piece at the end of a channel of the room.
fn live_piece_ready(channel: usize) {
    with(|desk| {
        if let Some(samples) = desk.incoming.get_mut(channel) {
            samples.extend_from_slice(&desk.piece);
        }
    });
}

/// Plays what has come into the room. Returns whether it was accepted.
fn live_source_ready() -> bool {
    with(|desk| incoming(desk).map(|source| desk.live.set_source(source))).flatten().is_some()
}

/// Lets what has come into the room play in step with the source, as the sum of the other stems.
fn live_backing_ready() -> bool {
    with(|desk| incoming(desk).map(|backing| desk.live.set_backing(backing))).flatten().is_some()
}

/// Takes what has come into the room as the reference, played with a gain in dB.
fn live_reference_ready(gain_db: f64) -> bool {
    with(|desk| incoming(desk).map(|reference| desk.live.set_reference(reference, gain_db)))
        .flatten()
        .is_some()
}

/// Makes room for text in UTF-8 and returns its address.
fn live_text_room(bytes: usize) -> usize {
    with(|desk| {
        desk.text = vec![0; bytes];
        desk.text.as_ptr().addr()
    })
    .unwrap_or(0)
}

/// Lets a lane, or a shared path, by its number among those, run the path whose JSON was written into the room for text. Returns whether it was accepted.
fn live_lane_ready(shared: bool, number: usize) -> bool {
    let accepted = with(|desk| {
        let text = String::from_utf8(std::mem::take(&mut desk.text)).ok()?;
        desk.live.set_lane(runs(shared, number), &Path::from_document(&parse_json(&text).ok()?).ok()?);
        Some(())
    });
    accepted.flatten().is_some()
}

/// Takes what has come into the room as a sound that stages take, by a number under [`MOST_SOUNDS`]. Returns whether it was accepted.
fn live_sound_ready(number: usize) -> bool {
    let accepted = with(|desk| {
        let sound = incoming(desk).filter(|_| number < MOST_SOUNDS)?;
        let sounds = desk.sounds.len().max(number + 1);
        desk.sounds.resize(sounds, None);
        desk.sounds[number] = Some(Arc::new(sound));
        Some(())
    });
    accepted.flatten().is_some()
}

/// Gives a sound, by its number, to a slot of a stage of a lane or a shared path, by the place of the slot. Returns whether there is such a sound.
fn live_give_sound(sound: usize, shared: bool, number: usize, stage: usize, slot: usize) -> bool {
    let given = with(|desk| {
        let sound = desk.sounds.get(sound)?.as_ref()?;
        desk.live.set_sound(runs(shared, number), stage, slot, sound);
        Some(())
    });
    given.flatten().is_some()
}

/// Lets go of all sounds.
fn live_forget_sounds() {
    with(|desk| desk.sounds.clear());
}

/// Ends the lanes after the first `count`.
fn live_keep_lanes(count: usize) {
    with(|desk| desk.live.keep_lanes(count));
}

/// Lets the lanes that are not heard rest, or run again.
fn live_set_resting(rests: bool) {
    with(|desk| desk.live.set_resting(rests));
}

/// Chooses the lane that is heard.
fn live_set_heard(lane: usize) {
    with(|desk| desk.live.set_heard(lane));
}

/// Moves one parameter of a lane or a shared path, by its place in the catalogue. Returns whether it was accepted.
fn live_set_param(shared: bool, number: usize, stage: usize, param: usize, value: f64) -> bool {
    with(|desk| desk.live.set_param(runs(shared, number), stage, param, value).is_ok()).unwrap_or(false)
}

/// Moves the mix of a stage of a lane or a shared path and switches it. Returns whether it was accepted.
fn live_set_mix(shared: bool, number: usize, stage: usize, mix: f64, on: bool) -> bool {
    with(|desk| desk.live.set_mix(runs(shared, number), stage, mix, on).is_ok()).unwrap_or(false)
}

/// Whether the other stems are heard too, and level (dB) and pan of the one at work among them.
fn live_set_stems(all_stems: bool, level_db: f64, pan: f64) {
    let strip = Strip { level_db, pan, ..Strip::default() };
    with(|desk| desk.live.set_stems(all_stems, strip));
}

/// What the stem at work sends to a shared path, by its number: level (dB), and whether it is taken before its strip; nothing where
/// it does not send there.
fn live_set_send(number: usize, sends: bool, level_db: f64, before_strip: bool) {
    let send = sends.then_some(Send { to: number, level_db, before_strip });
    with(|desk| desk.live.set_send(number, send));
}

/// How what comes back from a shared path sits in the sum: level (dB) and pan, or not at all.
fn live_set_return(number: usize, heard: bool, level_db: f64, pan: f64) {
    let strip = Strip { level_db, pan, mute: !heard, ..Strip::default() };
    with(|desk| desk.live.set_return(number, strip));
}

/// Takes what has come into the room as what the other stems send to a shared path, by its number. Returns whether it was accepted.
fn live_feed_ready(number: usize) -> bool {
    with(|desk| incoming(desk).map(|feed| desk.live.set_feed(number, feed))).flatten().is_some()
}

/// Chooses what is heard, by its place among all that can be. Returns whether there is such a place.
fn live_set_hear(hear: usize) -> bool {
    Hear::ALL.get(hear).and_then(|hear| with(|desk| desk.live.set_hear(*hear))).is_some()
}

/// Sets the gain of a lane's level match, dB.
fn live_set_match_gain_db(lane: usize, gain_db: f64) {
    with(|desk| desk.live.set_match_gain_db(lane, gain_db));
}

/// Whether the source is played once, with its tail, instead of going round.
fn live_set_once(once: bool) {
    with(|desk| desk.live.set_play(if once { Play::Once } else { Play::Round }));
}

/// Starts or pauses.
fn live_set_playing(playing: bool) {
    with(|desk| desk.live.set_playing(playing));
}

/// Goes to a time in the source, s.
fn live_seek(seconds: f64) {
    with(|desk| desk.live.seek(seconds));
}

/// Computes the next block into the output.
fn live_process(frames: usize) {
    with(|desk| {
        let [left, right] = &mut desk.output;
        let frames = frames.min(left.len());
        desk.live.process(&mut left[..frames], &mut right[..frames]);
    });
}

/// Address of the latest block: 0 left before, 1 right before, 2 left after, 3 right after.
fn live_seen(channel: usize) -> usize {
    with(|desk| desk.live.seen().get(channel).map_or(0, |c| c.as_ptr().addr())).unwrap_or(0)
}

/// Reads the meters and returns the address of their numbers.
fn live_meters() -> usize {
    with(|desk| {
        desk.meters = desk.live.read_meters().named().map(|(_, value)| value);
        desk.meters.as_ptr().addr()
    })
    .unwrap_or(0)
}
}
