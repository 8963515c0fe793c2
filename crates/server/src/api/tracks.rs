//! Tracks that people bring: kept by content, listed, and handed out as samples.

use std::fs::File;
use std::io::{BufWriter, Seek, Write};

use actix_web::http::StatusCode;
use actix_web::http::header::{CACHE_CONTROL, CONTENT_LENGTH};
use actix_web::web::{self, Data, Json, Path, Payload, Query, ServiceConfig};
use actix_web::{HttpRequest, HttpResponse};
use clear_bend_media::{MediaError, hash_of_file, import_file, unpack, unpack_blocks};
use clear_bend_sound::Buffer;
use clear_bend_store::{MOST_TRACKS, Store, Track, TrackSound};
use serde::Deserialize;

use super::bodies::{handed_out, look_for_room, spooled};
use super::work::{PLACES, Queue, Ticket, Wanted, while_wanted};
use super::{ApiError, on_database};

/// The largest file that is read, bytes: ten minutes of stereo at 48 kHz in 32 bits, and some more.
const LARGEST_FILE: usize = 350_000_000;

/// Files are read one at a time, since each takes a processor for itself; until then they lie on the disk.
static QUEUE: Queue = Queue::new(PLACES);

/// Tracks are unpacked one at a time, too.
static SAMPLES_QUEUE: Queue = Queue::new(PLACES);

/// Frames in one piece of an answer.
const PIECE: usize = 65_536;

pub fn routes(config: &mut ServiceConfig) {
    config
        .service(web::resource("/tracks").get(list).post(bring))
        .service(web::resource("/tracks/{hash}").delete(delete))
        .service(web::resource("/tracks/{hash}/restore").post(restore))
        .service(web::resource("/tracks/{hash}/samples").get(samples));
}

#[derive(Deserialize)]
struct Which {
    /// Those that are deleted and can be taken back.
    #[serde(default)]
    deleted: bool,
}

#[derive(Deserialize)]
struct Named {
    #[serde(default)]
    name: String,
}

/// All tracks: the page names every source by them. How many there may be is said beside them.
async fn list(store: Data<Store>, which: Query<Which>) -> Result<HttpResponse, ApiError> {
    let tracks = on_database(store, move |store| store.list_tracks(which.deleted)).await?;
    Ok(HttpResponse::Ok().insert_header(("x-most", MOST_TRACKS.to_string())).json(tracks))
}

/// Takes a file as the whole body.
async fn bring(
    store: Data<Store>,
    named: Query<Named>,
    request: HttpRequest,
    body: Payload,
) -> Result<(Json<Track>, StatusCode), ApiError> {
    // A file that says it is too large is not even read.
    let said =
        request.headers().get(CONTENT_LENGTH).and_then(|length| length.to_str().ok()?.parse::<usize>().ok());
    if said.is_some_and(|length| length > LARGEST_FILE) {
        return Err(ApiError::too_large(LARGEST_FILE));
    }
    let file = spooled(body, LARGEST_FILE).await?;
    let _turn = QUEUE.turn(Ticket::in_address(&request)).await?;
    let track = while_wanted(&request, move |wanted| keep(&store, &named.name, &file, wanted));
    Ok((Json(track.await?), StatusCode::CREATED))
}

/// Keeps a file as a track, in its turn.
pub fn keep(store: &Store, name: &str, file: &File, wanted: &Wanted) -> Result<Track, ApiError> {
    let hash = hash_of_file(file).map_err(|e| ApiError::disk(&e))?;
    // The same content again: nothing to be decoded.
    if let Some(known) = store.track_again(&hash)? {
        return Ok(known);
    }
    let wanted = wanted.clone();
    look_for_room()?;
    let imported = import_file(file, hash, &move || wanted.still())?;
    Ok(store.keep_track(name, &imported)?)
}

async fn delete(store: Data<Store>, hash: Path<String>) -> Result<HttpResponse, ApiError> {
    on_database(store, move |store| store.delete_track(&hash)).await?;
    Ok(HttpResponse::NoContent().finish())
}

async fn restore(store: Data<Store>, hash: Path<String>) -> Result<Json<Track>, ApiError> {
    let missing = clear_bend_store::StoreError::NotFound(format!("track {hash}"));
    let found = on_database(store, move |store| store.track_again(&hash)).await?;
    found.map(Json).ok_or_else(|| missing.into())
}

/// The samples as 32-bit float, little-endian, channel after channel within each piece of a known number of frames. They lie on the
/// disk until they are fetched, so that no more of them is in memory than a piece, however slowly that goes.
async fn samples(
    store: Data<Store>,
    request: HttpRequest,
    hash: Path<String>,
) -> Result<HttpResponse, ApiError> {
    let turn = SAMPLES_QUEUE.turn(None).await?;
    let unpacked = while_wanted(&request, move |wanted| {
        let sound = store.track_sound(&hash)?;
        let (frames, channels, rate_hz) = (sound.frames, sound.channels, sound.rate_hz);
        Ok((in_pieces(sound, wanted)?, frames, channels, rate_hz))
    });
    let (file, frames, channels, rate_hz) = unpacked.await?;
    drop(turn);
    Ok(HttpResponse::Ok()
        .insert_header(("x-frames", frames.to_string()))
        .insert_header(("x-channels", channels.to_string()))
        .insert_header(("x-piece", PIECE.to_string()))
        .insert_header(("x-recorded-hz", rate_hz.to_string()))
        // Content never changes under its hash.
        .insert_header((CACHE_CONTROL, "private, max-age=31536000, immutable"))
        .content_type("application/octet-stream")
        .body(handed_out(&request, file)?))
}

/// A sound as a file of its samples as they are sent.
fn in_pieces(sound: TrackSound, wanted: &Wanted) -> Result<File, ApiError> {
    look_for_room()?;
    let mut out = BufWriter::new(tempfile::tempfile().map_err(|e| ApiError::disk(&e))?);
    let mut piece: Vec<Vec<f32>> = vec![Vec::with_capacity(PIECE); sound.channels];
    let mut written = |piece: &mut Vec<Vec<f32>>| {
        piece.iter().flatten().try_for_each(|x| out.write_all(&x.to_le_bytes()))?;
        piece.iter_mut().for_each(Vec::clear);
        Ok::<_, MediaError>(())
    };
    unpack_blocks(sound.flac, sound.halvings, &mut |_, block| {
        if !wanted.still() {
            return Err(MediaError::Unwanted);
        }
        let frames = block.first().map_or(0, Vec::len);
        let mut from = 0;
        while from < frames {
            let room = PIECE - piece.first().map_or(0, Vec::len);
            let to = frames.min(from + room);
            for (piece, channel) in piece.iter_mut().zip(block) {
                piece.extend_from_slice(&channel[from..to]);
            }
            from = to;
            if piece.first().is_some_and(|channel| channel.len() == PIECE) {
                written(&mut piece)?;
            }
        }
        Ok(())
    })?;
    written(&mut piece)?;
    let mut file = out.into_inner().map_err(|e| ApiError::disk(e.error()))?;
    file.rewind().map_err(|e| ApiError::disk(&e))?;
    Ok(file)
}

/// How many are before a ticket in the line of files to be kept.
pub fn ahead(ticket: &Ticket) -> Option<usize> {
    QUEUE.ahead(ticket)
}

/// The sound of a kept track.
pub fn load(store: &Store, hash: &str) -> Result<Buffer, ApiError> {
    let sound = store.track_sound(hash)?;
    Ok(unpack(sound.flac, sound.halvings)?.recorded_at(sound.rate_hz))
}
