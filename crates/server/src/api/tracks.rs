//! Tracks that people bring: kept by content, listed, and handed out as samples.

use std::sync::Arc;

use actix_web::http::StatusCode;
use actix_web::http::header::{CACHE_CONTROL, CONTENT_LENGTH, ContentEncoding};
use actix_web::web::{self, Bytes, Data, Json, Path, Payload, Query, ServiceConfig};
use actix_web::{HttpRequest, HttpResponse};
use clear_bend_core::Buffer;
use clear_bend_media::{hash_of_file, import_file, unpack};
use clear_bend_store::{Store, Track};
use futures_util::stream;
use serde::Deserialize;

use super::bodies::spooled;
use super::work::{Queue, while_wanted};
use super::{ApiError, on_database};

/// The largest file that is read, bytes: ten minutes of stereo at 48 kHz in 32 bits, and some more.
const LARGEST_FILE: usize = 350_000_000;

/// Files are read one at a time, since each may need half a gigabyte for a moment; until then they lie on the disk.
static QUEUE: Queue = Queue::new(32);

/// Tracks are unpacked one at a time, too.
static SAMPLES_QUEUE: Queue = Queue::new(32);

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
struct Named {
    #[serde(default)]
    name: String,
}

async fn list(store: Data<Store>) -> Result<Json<Vec<Track>>, ApiError> {
    on_database(store, Store::list_tracks).await.map(Json)
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
    let _turn = QUEUE.turn().await?;
    let track = while_wanted(&request, move |wanted| {
        let hash = hash_of_file(&file).map_err(|e| ApiError::disk(&e))?;
        // The same content again: nothing to be decoded.
        if let Some(known) = store.track_again(&hash)? {
            return Ok(known);
        }
        let wanted = wanted.clone();
        let imported = import_file(&file, hash, &move || wanted.go_on())?;
        Ok(store.keep_track(&named.name, &imported)?)
    });
    Ok((Json(track.await?), StatusCode::CREATED))
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

/// The samples as 32-bit float, little-endian, channel after channel within each piece of a known number of frames.
async fn samples(
    store: Data<Store>,
    request: HttpRequest,
    hash: Path<String>,
) -> Result<HttpResponse, ApiError> {
    let _turn = SAMPLES_QUEUE.turn().await?;
    let sound = while_wanted(&request, move |_| load(&store, &hash)).await?;
    let (frames, channels) = (sound.frames(), sound.channels().len());
    let sound = Arc::new(sound);
    let pieces = (0..frames).step_by(PIECE).map(move |start| {
        let end = (start + PIECE).min(frames);
        let mut bytes = Vec::with_capacity(4 * channels * (end - start));
        for channel in sound.channels() {
            channel[start..end].iter().for_each(|x| bytes.extend_from_slice(&x.to_le_bytes()));
        }
        Ok::<_, actix_web::Error>(Bytes::from(bytes))
    });
    Ok(HttpResponse::Ok()
        .insert_header(("x-frames", frames.to_string()))
        .insert_header(("x-channels", channels.to_string()))
        .insert_header(("x-piece", PIECE.to_string()))
        // Content never changes under its hash. Samples hardly shrink, so they are not compressed.
        .insert_header((CACHE_CONTROL, "private, max-age=31536000, immutable"))
        .insert_header(ContentEncoding::Identity)
        .content_type("application/octet-stream")
        .streaming(stream::iter(pieces)))
}

/// The sound of a kept track.
pub fn load(store: &Store, hash: &str) -> Result<Buffer, ApiError> {
    let kept = store.track_samples(hash)?;
    Ok(unpack(&kept.flac, u32::try_from(kept.halvings).unwrap_or(0))?)
}
